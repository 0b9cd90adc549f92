"""MP3."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.deliver.sound_format import SoundFormat, known_sound


@known_sound("mp3", "MP3")
class Mp3(SoundFormat):
    """What podcast pages take."""

    mime: ClassVar[str] = "audio/mpeg"
    container: ClassVar[str] = "mp3"
    codec: ClassVar[str] = "libmp3lame"
    samples: ClassVar[str] = "fltp"
    frame: ClassVar[int] = 1152
    lossy: ClassVar[bool] = True

    def bit_rate(self, channels: int) -> int:
        return 128_000 if channels == 1 else 256_000
