"""Beats and bars of a click track: where each click begins, and which of them are accented.

A click rises within a millisecond and is over before the next one; it begins at the first sample that reaches a fifth
of its peak. Accented clicks are louder or higher than the others.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.decode import RATE
from velvetdrum.limits.cache import cached

_HOP = RATE // 1000
_CHUNK = RATE * 60
_APART = 120
"""Milliseconds from one click to the next, at least: 500 beats a minute."""
_THRESHOLD = 0.3
_RISE = 0.2
_FEWEST = 8
_LENGTH = RATE // 50
"""How much of a click is listened to for its level and its pitch: 20 ms."""
_UNEVEN = 0.25
_MOST_MISSING = 16
_LEVEL_DB, _PITCH_OCTAVES = 2.0, 0.12
"""What sets accents apart, at least."""


@dataclass(frozen=True, eq=False)
class ClickTrack:
    """Seconds of the beats, and which of them begin a bar: none where no click is accented."""

    times_s: NDArray[np.float64]
    accents: tuple[int, ...]

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        return int(self.times_s.nbytes) + 8 * len(self.accents)


@cached
def click_track(recording: Analysis) -> ClickTrack:
    """The beats of a click track; none where the recording is no such track.

    Parameters
    ----------
    recording
        Its stored analysis.
    """
    onsets = _onsets(recording)
    if len(onsets) < _FEWEST:
        return ClickTrack(np.zeros(0), ())
    gaps = np.diff(onsets)
    around = np.array([np.median(gaps[max(at - 4, 0) : at + 5]) for at in range(len(gaps))])
    steps = np.clip(np.rint(gaps / around), 1, _MOST_MISSING)
    if np.mean(np.abs(gaps / steps / around - 1) < _UNEVEN) < 0.8:
        return ClickTrack(np.zeros(0), ())
    numbers = np.concatenate([[0.0], np.cumsum(steps)])
    # Where clicks pause, the beats go on evenly.
    times = np.interp(np.arange(numbers[-1] + 1), numbers, onsets / RATE)
    accented = _accented(recording, onsets)
    return ClickTrack(times, tuple(int(number) for number in numbers[accented]))


def _onsets(recording: Analysis) -> NDArray[np.int64]:
    """The samples at which clicks begin."""
    count = recording.samples // _HOP
    peaks = np.zeros(count)
    step = _CHUNK // _HOP
    for start in range(0, count, step):
        stop = min(start + step, count)
        mono = recording.mono(start * _HOP, stop * _HOP)
        peaks[start:stop] = np.abs(mono).reshape(-1, _HOP).max(axis=1)
    if not peaks.any():
        return np.zeros(0, np.int64)
    highest = maximum_filter1d(peaks, 2 * _APART + 1)
    # Loud beside what is near, and beside the whole: a pause between clicks is not silent in each track.
    strong = (peaks >= _THRESHOLD * highest) & (peaks >= 0.1 * np.percentile(highest, 95))
    onsets: list[int] = []
    last = -_APART
    for at in np.flatnonzero(strong):
        if at - last < _APART or (at and peaks[max(at - 30, 0) : at].max() > 0.7 * peaks[at : at + 10].max()):
            # The rest of a click that still sounds.
            continue
        last = int(at)
        first, end = max(last - 3, 0) * _HOP, min(last + 8, count) * _HOP
        near = np.abs(recording.mono(first, end))
        onsets.append(first + int(np.argmax(near >= _RISE * near.max())))
    return np.array(onsets, np.int64)


def _accented(recording: Analysis, onsets: NDArray[np.int64]) -> NDArray[np.intp]:
    """Which clicks are accented, by the clearer of their levels and their pitches; none where neither is clear."""
    window = np.hanning(_LENGTH)
    octaves = np.log2(np.arange(1, _LENGTH // 2 + 1) * RATE / _LENGTH)
    levels, pitches = np.zeros(len(onsets)), np.zeros(len(onsets))
    for index, onset in enumerate(onsets):
        click = recording.mono(onset, onset + _LENGTH)
        click = np.pad(click, (0, _LENGTH - len(click)))
        levels[index] = 10 * np.log10(np.mean(click**2) + 1e-12)
        power = np.abs(np.fft.rfft(click * window))[1:] ** 2
        pitches[index] = np.sum(power * octaves) / max(np.sum(power), 1e-12)
    best: tuple[float, NDArray[np.intp]] = (4.0, np.zeros(0, np.intp))
    for values, least in ((levels, _LEVEL_DB), (pitches, _PITCH_OCTAVES)):
        split = _split(values)
        apart = abs(values[split].mean() - values[~split].mean()) if 0 < split.sum() < len(split) else 0.0
        if apart < least:
            continue
        within = max(values[split].std(), values[~split].std(), least / 20)
        fewer = np.flatnonzero(split if split.sum() <= len(split) / 2 else ~split)
        if apart / within > best[0] and len(fewer) >= 2 and np.diff(fewer).min() >= 2:
            best = (apart / within, fewer)
    return best[1]


def _split(values: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Values as two groups, at the widest gap between their sorted neighbours."""
    ordered = np.sort(values)
    at = int(np.argmax(np.diff(ordered)))
    return np.asarray(values > (ordered[at] + ordered[at + 1]) / 2)
