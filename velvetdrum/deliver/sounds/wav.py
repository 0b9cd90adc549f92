"""WAV (PCM, 24 bit)."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.deliver.sound_format import SoundFormat, known_sound


@known_sound("wav", "WAV (PCM, 24 bit)")
class Wav(SoundFormat):
    """Uncompressed, 24 bits."""

    mime: ClassVar[str] = "audio/wav"
    container: ClassVar[str] = "wav"
    codec: ClassVar[str] = "pcm_s24le"
    samples: ClassVar[str] = "s32"
    frame: ClassVar[int] = 4096
