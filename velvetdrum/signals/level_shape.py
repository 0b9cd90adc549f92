"""From a level in dB to a curve from 0 to 1: range, response, attack, hold, release, smoothing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.signals.detect import READ_RATE

Curve = NDArray[np.float32]


@dataclass(frozen=True)
class LevelShape:
    """How a level becomes a curve. Levels in dBFS, times in ms; attack and release are the time to 63 %."""

    quiet_db: float
    loud_db: float
    beyond: str
    response: float
    attack_ms: float
    hold_ms: float
    release_ms: float
    smooth_ms: float


_AT_PEAK = 0.01  # a held tone trembles by less than that


def mapped(levels: Curve, shape: LevelShape) -> Curve:
    """The level's place between quiet and loud, with the response curve, before anything that has memory.

    Parameters
    ----------
    levels
        Levels in dBFS.
    shape
        How levels become a curve.
    """
    part = (levels.astype(np.float64) - shape.quiet_db) / max(shape.loud_db - shape.quiet_db, 0.1)
    lowest, highest = {"held": (0.0, 1.0), "above": (0.0, 2.0), "both": (-1.0, 2.0)}[shape.beyond]
    part = np.clip(part, lowest, highest)
    if shape.response != 1.0:
        part = np.sign(part) * np.abs(part) ** shape.response
    return part.astype(np.float32)


def shaped(curve: Curve, shape: LevelShape) -> Curve:
    """Attack, hold and release, then smoothing without delay. `curve`: READ_RATE values a second.

    Parameters
    ----------
    curve
        Levels over time, in dBFS.
    shape
        How levels become a curve.
    """
    if shape.attack_ms > 0 or shape.release_ms > 0 or shape.hold_ms > 0:
        curve = _followed(curve, shape)
    if shape.smooth_ms > 0:
        curve = _smoothed(curve, shape.smooth_ms)
    return curve


def _step(time_ms: float) -> float:
    return 1.0 if time_ms <= 0 else 1.0 - float(np.exp(-1000.0 / (READ_RATE * time_ms)))


def _followed(curve: Curve, shape: LevelShape) -> Curve:
    """A one-pole follower: 63 % (1 - 1/e) of a rise within the attack, of a fall within the release, which
    begins when the hold is over.

    A stroke begins somewhere between two readings, half a reading ago in the mean; each step is therefore taken
    toward the middle of the two.
    """
    attack, release = _step(shape.attack_ms), _step(shape.release_ms)
    middle = curve.copy()
    middle[1:] = (curve[1:] + curve[:-1]) * np.float32(0.5)
    rising = np.diff(curve, prepend=curve[:1]) >= 0
    timed = np.where(rising, shape.attack_ms > 0, shape.release_ms > 0)
    toward = np.where(timed, middle, curve).tolist()
    if shape.hold_ms > 0:
        return _held(toward, attack, release, round(shape.hold_ms * READ_RATE / 1000.0))
    level = toward[0]
    # A comprehension, because it is the quickest loop that Python has.
    out = [level := level + (attack if value > level else release) * (value - level) for value in toward]
    return np.array(out, np.float32)


def _held(toward: list[float], attack: float, release: float, hold: int) -> Curve:
    """The follower with a hold: a fall begins `hold` readings after the curve last stood at its peak."""
    out, level, left = [], toward[0], 0
    for value in toward:
        gap = value - level
        if gap >= 0:
            level += attack * gap
            left = hold
        elif gap > -_AT_PEAK:
            left = hold
        elif left:
            left -= 1
        else:
            level += release * gap
        out.append(level)
    return np.array(out, np.float32)


def _smoothed(curve: Curve, width_ms: float) -> Curve:
    """A Gaussian, `width_ms` wide at half its height; symmetric, so nothing moves later."""
    sigma = width_ms / 1000.0 * READ_RATE / 2.3548
    reach = max(1, int(np.ceil(4 * sigma)))
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    padded = np.pad(curve.astype(np.float64), reach, mode="edge")
    return scipy.signal.oaconvolve(padded, kernel / kernel.sum(), mode="valid").astype(np.float32)
