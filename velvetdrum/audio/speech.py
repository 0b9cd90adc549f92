"""Where a recording is spoken in, from its stored levels: all at once, ahead of time."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.bands import from_centibel
from velvetdrum.audio.decode import RATE
from velvetdrum.limits.cache import cached

Values = NDArray[np.float64]
Stretches = list[tuple[float, float]]

READINGS = 60
"""Readings of levels a second."""
SPEECH_DB = -24.0
"""How far below its loud syllables a voice still counts as speaking."""
_SENTENCE_S = 0.45
"""A pause that parts two sentences."""
_ONSET_RATE = 200
_STEEP = 3
"""Readings on each side of an onset between which its rise is measured: 30 ms."""
_BESIDE_ONSET = 13
"""Readings within which an onset is the steepest rise: syllables are 65 ms apart at least."""
_RISE_DB = 7.0
_SILENT_DB = -120.0
_LOUD_SHARE = 90.0
_BESIDE = 1
"""Readings on each side over which a level is averaged: 50 ms in all."""


@cached
def levels_db(recording: Analysis) -> Values:
    """The level of a recording in dBFS (AES17), 60 readings a second, each the mean power of 50 ms about it.

    Parameters
    ----------
    recording
        Its stored analysis.
    """
    rms = from_centibel(np.ascontiguousarray(recording.levels[:, 1, :2])).mean(axis=1).astype(np.float64)
    width = 2 * _BESIDE + 1
    power = np.convolve(np.pad(rms, _BESIDE, mode="edge"), np.ones(width) / width, "valid")
    return np.maximum(10 * np.log10(np.maximum(power, 1e-12)), _SILENT_DB)


def spoken_level_db(levels: Values) -> float:
    """The level of its loud syllables: the 90th percentile of what is within 40 dB of the highest.

    Parameters
    ----------
    levels
        Levels in dBFS.
    """
    if not len(levels):
        return _SILENT_DB
    there = levels[levels > levels.max() - 40.0]
    return float(np.percentile(there, _LOUD_SHARE))


def stretches(active: NDArray[np.bool_], bridged_s: float, least_s: float = 0.0) -> Stretches:
    """Where readings are true, as begins and ends in seconds. Gaps shorter than `bridged_s` are bridged; what is
    shorter than `least_s` after that is left out.

    Parameters
    ----------
    active
        A reading each 1/60 s; reading n stands for the 1/60 s about second n / 60.
    bridged_s
        Gaps that are bridged, in seconds.
    least_s
        The shortest that is kept, in seconds.
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[False], active, [False]]).astype(np.int8)))
    out: Stretches = []
    for begin, end in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        first, last = (begin - 0.5) / READINGS, (end - 0.5) / READINGS
        if out and first - out[-1][1] < bridged_s:
            out[-1] = (out[-1][0], last)
        else:
            out.append((first, last))
    return [(begin, end) for begin, end in out if end - begin >= least_s]


def spoken(recording: Analysis, threshold_db: float, bridged_s: float, least_s: float = 0.0) -> Stretches:
    """Where a recording is spoken in, in seconds of it.

    Parameters
    ----------
    recording
        Its stored analysis.
    threshold_db
        The level that speech passes, in dB below that of its loud syllables.
    bridged_s
        Pauses that are bridged, in seconds.
    least_s
        The shortest stretch that counts, in seconds.
    """
    levels = levels_db(recording)
    return stretches(levels > spoken_level_db(levels) + threshold_db, bridged_s, least_s)


def ramps(places: Stretches, before_s: float, after_s: float) -> Callable[[Values], Values]:
    """How far something is there, 0 to 1, at times in seconds: wholly in each of the stretches, rising evenly before
    and falling evenly after them.

    Parameters
    ----------
    places
        Stretches in seconds, in order, none over another.
    before_s
        How long it rises.
    after_s
        How long it falls.
    """
    begins = np.array([begin for begin, _ in places])
    ends = np.array([end for _, end in places])

    def at(times: Values) -> Values:
        if not len(begins):
            return np.zeros(len(times))
        number = np.searchsorted(begins, times, "right")
        nexts = np.append(begins, np.inf)[number]
        lasts = np.insert(ends, 0, -np.inf)[number]
        rising = 1.0 - (nexts - times) / max(before_s, 1e-6)
        falling = 1.0 - (times - lasts) / max(after_s, 1e-6)
        return np.clip(np.maximum(rising, falling), 0.0, 1.0)

    return at


def sentences(recording: Analysis) -> tuple[Stretches, Values]:
    """Stretches in which a voice speaks without a pause, in seconds, and the loudness of each in LUFS.

    Parameters
    ----------
    recording
        Its stored analysis.
    """
    places = spoken(recording, SPEECH_DB, _SENTENCE_S, 0.2)
    energies = recording.loudness_energies
    out = []
    for begin, end in places:
        part = energies[max(round(begin * 10), 0) : max(round(end * 10), round(begin * 10) + 1)]
        loud = part[part > part.max() * 0.05] if len(part) else np.zeros(0)
        out.append(-0.691 + 10 * np.log10(max(float(loud.mean()) if len(loud) else 0.0, 1e-12)))
    return places, np.array(out)


@cached
def syllable_onsets(recording: Analysis) -> Values:
    """Seconds of a recording at which syllables set in: where the level of its pre-emphasised samples rises most
    steeply, to that of speech.

    Parameters
    ----------
    recording
        Its stored analysis.
    """
    hop = RATE // _ONSET_RATE
    count = recording.samples // hop
    power = np.zeros(count)
    at_once = 60 * _ONSET_RATE
    for start in range(0, count, at_once):
        stop = min(start + at_once, count)
        low = max(start * hop - 1, 0)
        mono = recording.mono(low, stop * hop)
        steep = np.diff(mono, prepend=mono[:1] if low == start * hop else mono[0])[-(stop - start) * hop :]
        power[start:stop] = (steep**2).reshape(-1, hop).mean(axis=1)
    if count < 2 * _BESIDE_ONSET:
        return np.zeros(0)
    kernel = np.array([0.5, 1.0, 1.0, 1.0, 0.5])
    level = 10 * np.log10(np.convolve(power, kernel / kernel.sum(), "same") + 1e-12)
    padded = np.pad(level, _STEEP, mode="edge")
    rise = padded[2 * _STEEP :] - padded[: -2 * _STEEP]
    steepest = rise == maximum_filter1d(rise, 2 * _BESIDE_ONSET + 1)
    # The level that it comes to, over the next sixteenth of a second.
    reached = maximum_filter1d(level, _BESIDE_ONSET, origin=-(_BESIDE_ONSET // 2))
    places = np.flatnonzero(steepest & (rise > _RISE_DB) & (reached > spoken_level_db(level) + SPEECH_DB))
    return (places + 0.5) / _ONSET_RATE
