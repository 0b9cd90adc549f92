"""Whether a pickup's range suits the sound: fitting it, and telling what is pinned."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.detect import READ_RATE
from velvetdrum.signals.kinds import Signal, Values
from velvetdrum.signals.sources.pickup import Pickup

_NARROWEST_DB, _WIDEST_DB = 9.0, 36.0
_HIT_RANGE_DB = 24.0
_LEAST_DB = 3.0
"""Between quiet and loud, however weak a sound is."""
_AT_0, _AT_1 = 0.01, 0.999


def fit_pickup(pickup: Pickup, use: AudioRange, length_s: float, start_s: float, stop_s: float) -> tuple[float, float]:
    """Quiet and loud level in dB, to half a dB, for a stretch of the project in seconds.

    Level and peak: loud is passed in 1 of 200 readings, quiet in 3 of 4 of those that sound, 9 to 36 dB apart.
    Hits: loud is what one stroke in five passes, quiet lies 24 dB under it.

    Parameters
    ----------
    pickup
        A signal that follows a band.
    use
        The used stretch of a recording.
    length_s
        Length of the project, in seconds.
    start_s
        Seconds at which it begins.
    stop_s
        Seconds at which it ends.
    """
    levels = pickup.levels(use, length_s)[int(start_s * READ_RATE) : int(np.ceil(stop_s * READ_RATE)) + 1]
    if not len(levels) or levels.max() <= -120.0:
        return -60.0, -20.0
    if pickup.detector == "hits":
        tops = levels[
            (levels == scipy.ndimage.maximum_filter1d(levels, READ_RATE // 5)) & (levels > levels.max() - 50.0)
        ]
        loud = float(np.percentile(tops, 80.0))
        return _half(loud - _HIT_RANGE_DB), _half(loud)
    sounding = levels[levels > levels.max() - 60.0]
    loud = float(np.percentile(sounding, 99.5))
    quiet = float(np.percentile(sounding, 25.0))
    return _half(np.clip(quiet, loud - _WIDEST_DB, loud - _NARROWEST_DB)), _half(loud)


def reaching(pickup: Pickup, use: AudioRange, least: float) -> float:
    """The loud level in dB, lowered to tenths until the shaped curve comes up to a value.

    Parameters
    ----------
    pickup
        A signal that follows a band.
    use
        The used stretch of a recording.
    least
        What its highest value is to be, 0 to 1.
    """
    settings = {name: getattr(pickup, name) for name in Pickup.settings}
    loud = pickup.loud_db
    for _ in range(4):
        top = float(Pickup(settings | {"loud_db": loud}).curve(use, use.out_s - use.in_s).max())
        if top >= least or top <= 0.05:
            break
        # Over the same slopes a curve is as high as its range is small.
        loud = max(pickup.quiet_db + (loud - pickup.quiet_db) * top / least, pickup.quiet_db + _LEAST_DB)
    return float(np.floor(loud * 10) / 10)


def _half(level: float) -> float:
    return float(np.clip(np.rint(level * 2) / 2, -119.0, 20.0))


@dataclass(frozen=True)
class Pinned:
    """Shares of frames, 0 to 1, in which a curve stands at its ends, and what to do about it. A release only nears 0,
    so all within a hundredth counts there."""

    at_0: float
    at_1: float
    advice: str


def pinned(values: Values, signal: Signal) -> Pinned:
    """What is pinned of a curve, given one value a frame.

    Parameters
    ----------
    values
        Values over time.
    signal
        A signal.
    """
    at_0 = float(np.mean(values <= _AT_0)) if len(values) else 0.0
    at_1 = float(np.mean(values >= _AT_1)) if len(values) else 0.0
    advice = signal.advice(at_0, at_1, float(np.ptp(values))) if len(values) else ""
    return Pinned(at_0, at_1, advice)
