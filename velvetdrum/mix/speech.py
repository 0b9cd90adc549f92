"""Where a recording is spoken in, from its stored levels: all at once, ahead of time."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.bands import from_centibel
from velvetdrum.limits.cache import cached

Values = NDArray[np.float64]
Stretches = list[tuple[float, float]]

READINGS = 60
"""Readings of levels a second."""
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
