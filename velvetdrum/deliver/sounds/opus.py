"""Opus."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.deliver.sound_format import SoundFormat, known_sound


@known_sound("opus", "Opus")
class Opus(SoundFormat):
    """Small and open."""

    mime: ClassVar[str] = "audio/ogg"
    container: ClassVar[str] = "ogg"
    codec: ClassVar[str] = "libopus"
    samples: ClassVar[str] = "flt"
    frame: ClassVar[int] = 960
    lossy: ClassVar[bool] = True

    def bit_rate(self, channels: int) -> int:
        return 96_000 if channels == 1 else 192_000
