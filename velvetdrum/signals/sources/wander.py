"""Wander: smooth noise from a seed."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.kinds.settings import number, whole
from velvetdrum.signals.kinds import Around, Signal, Times, Values, signal_kind

_OCTAVES = 5


@signal_kind("wander", "Wander")
class Wander(Signal):
    """Smooth noise: goes its own way, the same way each time."""

    rate_hz: float = number(0.5, lo=0.01, hi=20, unit="Hz", step=0.01, label="Rate", curve="log",
                            help="New directions per second.")  # fmt: skip
    roughness: float = number(25, lo=0, hi=100, unit="%", step=1, help="Strength of quicker trembling on top.")
    seed: int = whole(1, lo=0, hi=9999, help="Another number, another way.")

    def values(self, times: Times, around: Around) -> Values:
        gain, total, weight = self.roughness / 100.0, np.zeros(len(times)), 0.0
        for octave in range(_OCTAVES):
            amount = gain**octave if octave else 1.0
            if amount < 1e-4:
                break
            total += amount * (_smooth(times * self.rate_hz * 2**octave, self.seed * _OCTAVES + octave) - 0.5)
            weight += amount**2
        # Uniform lattice values have a spread that shrinks where they are blended and added; this evens it out.
        return np.clip(0.5 + 1.25 * total / np.sqrt(weight), 0.0, 1.0)


def _smooth(at: Times, seed: int) -> Values:
    """Lattice noise, 0 to 1, with a blend whose first two derivatives are steady (6t^5 - 15t^4 + 10t^3)."""
    cell = np.floor(at)
    part = at - cell
    blend = part**3 * (part * (part * 6 - 15) + 10)
    first, following = _hashed(cell.astype(np.int64), seed), _hashed(cell.astype(np.int64) + 1, seed)
    return first + (following - first) * blend


def _hashed(cell: NDArray[np.int64], seed: int) -> Values:
    """A value from 0 to 1 for each whole number: the finishing steps of SplitMix64 (Steele, Lea, Flood 2014)."""
    with np.errstate(over="ignore"):
        z = cell.astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15) + np.uint64(seed + 1) * np.uint64(0xD1B54A32D192ED03)
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        z = z ^ (z >> np.uint64(31))
    return (z >> np.uint64(11)).astype(np.float64) / 2.0**53
