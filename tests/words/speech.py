"""Speech whose word times are known: synthesised, with the synthesiser's own events as the reference."""

from __future__ import annotations

import ctypes
import re
from dataclasses import dataclass
from functools import cache

import espeakng_loader
import numpy as np
from scipy import signal

_RETRIEVAL, _WORD, _UTF8 = 1, 1, 1


class _Event(ctypes.Structure):
    _fields_ = (
        ("type", ctypes.c_int),
        ("unique_identifier", ctypes.c_uint),
        ("text_position", ctypes.c_int),
        ("length", ctypes.c_int),
        ("audio_position", ctypes.c_int),
        ("sample", ctypes.c_int),
        ("user_data", ctypes.c_void_p),
        ("id", ctypes.c_int64),
    )


@dataclass(frozen=True)
class Speech:
    """Samples at 48 kHz, shape (1, n), and the starts of words in seconds, by their place in the text's row of words.
    Words that the synthesiser speaks as one have one start."""

    pcm: np.ndarray
    starts: dict[int, float]


@cache
def _library():
    library = ctypes.CDLL(espeakng_loader.get_library_path())
    rate = library.espeak_Initialize(_RETRIEVAL, 0, espeakng_loader.get_data_path().encode(), 0)
    return library, rate


def _by_word(text: str, starts: list[tuple[int, float]]) -> dict[int, float]:
    places = [found.start() + 1 for found in re.finditer(r"\S+", text)]
    return {places.index(at): seconds for at, seconds in starts if at in places}


@cache
def speak(text: str, voice: str, speed: int = 150, pitch: int = 45) -> Speech:
    """A text as a voice says it."""
    library, rate = _library()
    blocks, starts = [], []

    def heard(wav, count, events):
        if wav and count:
            blocks.append(np.ctypeslib.as_array(wav, (count,)).copy())
        index = 0
        while events[index].type:
            if events[index].type == _WORD:
                starts.append((events[index].text_position, events[index].audio_position / 1000))
            index += 1
        return 0

    kind = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event))
    call = kind(heard)
    library.espeak_SetSynthCallback(call)
    assert library.espeak_SetVoiceByName(voice.encode()) == 0, f"no voice {voice}"
    library.espeak_SetParameter(1, speed, 0)
    library.espeak_SetParameter(3, pitch, 0)
    data = text.encode()
    library.espeak_Synth(data, len(data) + 1, 0, 0, 0, _UTF8, None, None)
    library.espeak_Synchronize()
    samples = np.concatenate(blocks).astype(np.float64)
    pcm = signal.resample_poly(samples, 48_000, rate)
    return Speech(np.clip(pcm, -32768, 32767).astype(np.int16)[None], _by_word(text, starts))
