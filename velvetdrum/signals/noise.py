"""Seeded noise that is a function of its place alone."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def lattice_noise(at: NDArray[np.float64], seed: int) -> NDArray[np.float64]:
    """Lattice noise at places, 0 to 1, shape (n,), with a blend whose first two derivatives are steady: 6t^5 - 15t^4 +
    10t^3.

    Parameters
    ----------
    at
        Places in cells of the lattice, the last axis x and y.
    seed
        Names the chance: equal seeds give equal results.
    """
    cell = np.floor(at)
    part = at - cell
    blend = part**3 * (part * (part * 6 - 15) + 10)
    first, following = _hashed(cell.astype(np.int64), seed), _hashed(cell.astype(np.int64) + 1, seed)
    return first + (following - first) * blend


def _hashed(cell: NDArray[np.int64], seed: int) -> NDArray[np.float64]:
    """A value from 0 to 1 for each whole number: the finishing steps of SplitMix64 (Steele, Lea, Flood 2014)."""
    with np.errstate(over="ignore"):
        z = cell.astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15) + np.uint64(seed + 1) * np.uint64(0xD1B54A32D192ED03)
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        z = z ^ (z >> np.uint64(31))
    return (z >> np.uint64(11)).astype(np.float64) / 2.0**53
