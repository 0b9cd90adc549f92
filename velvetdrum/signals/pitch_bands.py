"""Power by semitone and by pitch class: a constant-Q transform, with the tuning found in the recording.

J. C. Brown, "Calculation of a constant Q spectral transform" (1991): windows as long as Q periods of each semitone, so
that neighbours are told apart alike in every octave. Octaves are read one after another from a sound of half the rate
each time (C. Schoerkhuber and A. Klapuri, "Constant-Q transform toolbox for music processing", 2010).
"""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.audio.decode import RATE
from velvetdrum.signals.array_cache import KeptArrays
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.envelope import CHUNK
from velvetdrum.signals.spectrum import BandSet
from velvetdrum.signals.waves import samples

PITCH_CLASSES = ("C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B")

_OCTAVES = 8
LOWEST_SEMITONE = 24
"""The lowest semitone as a number of MIDI: C1, 32.7 Hz."""
_Q = 26.0
"""Periods of a semitone that a window holds: its neighbours then read 15 dB less."""
_MARGIN_S = 0.9
_SLACK = 10**0.15
"""What a semitone's power may pass that of its band in the stored analysis by: half of the steps there."""
_FINE = 3
"""Bins a semitone where the tuning is looked for."""

Power = NDArray[np.float32]

_kept = KeptArrays("signals.pitch power")
_tunings = KeptArrays("signals.tuning")


def semitone_hz(number: NDArray[Any] | float) -> NDArray[np.float64]:
    """Frequencies of semitones in equal temperament, by their numbers in MIDI: 69 is 440 Hz.

    Parameters
    ----------
    number
        Numbers of semitones, also between two of them.
    """
    return np.asarray(440.0 * 2.0 ** ((np.asarray(number, np.float64) - 69) / 12))


def semitones_between(low_hz: float, high_hz: float) -> NDArray[np.int64]:
    """The semitones whose frequencies lie between two, as far as they are read; at least one.

    Parameters
    ----------
    low_hz
        The lowest frequency in Hz.
    high_hz
        The highest.
    """
    numbers = np.arange(LOWEST_SEMITONE, LOWEST_SEMITONE + 12 * _OCTAVES)
    within = (semitone_hz(numbers) >= low_hz) & (semitone_hz(numbers) <= high_hz)
    return numbers[within] if within.any() else numbers[[int(np.argmin(np.abs(semitone_hz(numbers) - low_hz)))]]


def semitone_power(use: AudioRange, channel: str, start: int, stop: int) -> Power:
    """Power of every semitone from C1 to B8 at readings, shape (stop - start, 96): 1 for a full-scale sine (AES17).

    Low semitones have windows of up to 0.8 s; none is louder than the shorter windows of the stored analysis have
    its band, so that a note is not seen long before it is heard.

    Parameters
    ----------
    use
        The used stretch of a recording.
    channel
        Which channel: "mix", "left", "right", "mid" or "side".
    start
        The first reading.
    stop
        The reading after the last one.
    """
    key = (use.recording.identity, use.in_s, use.out_s, channel, start, stop)

    def make() -> Power:
        shift = tuning(use)
        power = _transformed(use, channel, start, stop, np.arange(12) + shift)
        centres = semitone_hz(np.arange(LOWEST_SEMITONE, LOWEST_SEMITONE + 12 * _OCTAVES) + shift)
        half = 2 ** (1 / 24)
        bands = BandSet.from_edges([(centre / half, centre * half) for centre in centres])
        shorter = use.recording.power(channel, start, stop) @ bands.weights()
        return np.minimum(power, shorter * np.float32(_SLACK)).astype(np.float32)

    return _kept.get(key, make)


def class_power(use: AudioRange, channel: str, start: int, stop: int, low_hz: float, high_hz: float) -> Power:
    """Power of the twelve pitch classes at readings, C first, over all semitones between two frequencies, shape
    (stop - start, 12).

    Parameters
    ----------
    use
        The used stretch of a recording.
    channel
        Which channel.
    start
        The first reading.
    stop
        The reading after the last one.
    low_hz
        The lowest frequency that counts, in Hz.
    high_hz
        The highest.
    """
    power = semitone_power(use, channel, start, stop)
    heard = np.zeros(12 * _OCTAVES, np.float32)
    heard[semitones_between(low_hz, high_hz) - LOWEST_SEMITONE] = 1.0
    return (power * heard).reshape(len(power), _OCTAVES, 12).sum(axis=1)


def tuning(use: AudioRange) -> float:
    """How far the recording is tuned above A = 440 Hz, in semitones, from -0.5 to 0.5; 0 where nothing has a pitch.

    The circular mean of how far peaks of the spectrum lie from semitones, each as much as it is loud.

    Parameters
    ----------
    use
        The used stretch of a recording.
    """
    key = (use.recording.identity, use.in_s, use.out_s)
    return float(_tunings.get(key, lambda: np.array([_found_tuning(use)], np.float32))[0])


def _found_tuning(use: AudioRange) -> float:
    begin, end = round(use.in_s * FRAME_RATE), max(round(use.out_s * FRAME_RATE), 1)
    places = np.linspace(begin, max(end - CHUNK // 2, begin), 6 if end - begin > CHUNK else 1).astype(int)
    total = 0.0 + 0.0j
    for place in np.unique(places):
        offsets = np.arange(12 * _FINE) / _FINE
        power = _transformed(use, "mix", int(place), min(int(place) + CHUNK // 2, end + 1), offsets)
        levels = np.log(np.maximum(power.astype(np.float64), 1e-12))
        middle, left, right = levels[:, 1:-1], levels[:, :-2], levels[:, 2:]
        loud = middle > max(float(levels.max()) - np.log(1e4), np.log(1e-7))
        peaks = (middle > left) & (middle >= right) & loud
        bend = left - 2 * middle + right
        away = np.where(bend < 0, 0.5 * (left - right) / np.minimum(bend, -1e-9), 0.0)
        bins = np.arange(1, levels.shape[1] - 1)[None, :] + away
        strong = np.exp(middle / 2)
        total += np.sum((strong * np.exp(2j * np.pi * bins / _FINE))[peaks])
    return float(np.angle(total) / (2 * np.pi)) if abs(total) > 1e-9 else 0.0


def _transformed(use: AudioRange, channel: str, start: int, stop: int, offsets: NDArray[Any]) -> Power:
    """Power at semitones from each C on by some offsets, octave by octave, shape (stop - start, octaves * offsets)."""
    step = 2 ** (_OCTAVES - 1)
    margin = round(_MARGIN_S * RATE)
    # On a grid of the lowest rate, so that reading by reading the same samples are taken whatever is asked for.
    first = (start * RATE // FRAME_RATE - margin) // step * step
    last = stop * RATE // FRAME_RATE + margin
    wave = samples(use, channel, first, -(-(last - first) // step) * step).astype(np.float64)
    out = np.empty((stop - start, _OCTAVES, len(offsets)), np.float32)
    kernels = _kernels(tuple(np.round(offsets, 9)))
    for octave in range(_OCTAVES - 1, -1, -1):
        if octave < _OCTAVES - 1:
            wave = scipy.signal.resample_poly(wave, 1, 2, window=("kaiser", 9.0))
        rate = RATE / 2 ** (_OCTAVES - 1 - octave)
        middles = np.rint((np.arange(start, stop) / FRAME_RATE - first / RATE) * rate).astype(int)
        length = kernels.shape[0]
        windows = np.lib.stride_tricks.sliding_window_view(wave, length)
        read = windows[np.clip(middles - length // 2, 0, len(windows) - 1)]
        out[:, octave] = np.abs(read @ kernels) ** 2
    return out.reshape(stop - start, -1)


@cache
def _kernels(offsets: tuple[float, ...]) -> NDArray[np.complex128]:
    """Windowed waves of the highest octave at 48 kHz, shape (samples, offsets): a sine of amplitude 1 gives 1. Those of
    lower octaves are the same, of a sound of a lower rate."""
    highest = semitone_hz(LOWEST_SEMITONE + 12 * (_OCTAVES - 1) + np.array(offsets))
    lengths = _Q * RATE / highest
    count = 2 * int(np.ceil(lengths.max() / 2)) + 1
    place = np.arange(count) - count // 2
    inside = np.abs(place)[:, None] <= lengths / 2
    window = np.where(inside, 0.5 + 0.5 * np.cos(2 * np.pi * place[:, None] / lengths), 0.0)
    waves = window * np.exp(-2j * np.pi * highest / RATE * place[:, None])
    return np.asarray(2.0 * waves / window.sum(axis=0))
