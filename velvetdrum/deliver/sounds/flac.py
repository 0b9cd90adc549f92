"""FLAC (24 bit)."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.deliver.sound_format import SoundFormat, known_sound


@known_sound("flac", "FLAC (24 bit)")
class Flac(SoundFormat):
    """Without loss, about half as large."""

    mime: ClassVar[str] = "audio/flac"
    container: ClassVar[str] = "flac"
    codec: ClassVar[str] = "flac"
    samples: ClassVar[str] = "s32"
    frame: ClassVar[int] = 4096
