"""M4A (AAC)."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.deliver.sound_format import SoundFormat, known_sound


@known_sound("m4a", "M4A (AAC)")
class M4a(SoundFormat):
    """What phones and channels take."""

    mime: ClassVar[str] = "audio/mp4"
    container: ClassVar[str] = "mp4"
    codec: ClassVar[str] = "aac"
    samples: ClassVar[str] = "fltp"
    frame: ClassVar[int] = 1024
    lossy: ClassVar[bool] = True

    def bit_rate(self, channels: int) -> int:
        return 160_000 if channels == 1 else 256_000
