"""Smooth noise over a plane, that changes with time: value noise of several sizes on cubic splines."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached

GRID = 64
"""Values that the noise has on each side, before it goes round."""


@dataclass(frozen=True)
class Noise:
    """Noise by its seed, and how many sizes it has, each half as large and half as strong."""

    seed: int
    detail: int = 1

    def at(self, x: NDArray[np.float64], y: NDArray[np.float64], changes: float) -> NDArray[np.float64]:
        """Noise about 0 with a deviation near a half, at a row of x and a column of y, in sizes of the largest clouds.
        Shape (len(y), len(x)).

        Parameters
        ----------
        x
            A row of places.
        y
            A column of places.
        changes
            How often the largest clouds have changed.
        """
        total = np.zeros((len(y), len(x)))
        for octave in range(self.detail):
            step = changes * 2 ** (octave / 2)
            number = int(np.floor(step))
            part = step - number
            part = part * part * (3 - 2 * part)
            cells = 2.0**octave
            values = _values(self.seed, octave, number) * (1 - part) + _values(self.seed, octave, number + 1) * part
            # A mean of two noises is flatter than either: its spread is kept.
            spread = 0.5**octave / np.sqrt(part**2 + (1 - part) ** 2)
            total += spread * (spline_weights(y * cells) @ values @ spline_weights(x * cells).T)
        return total


def wander(seed: int, changes: float) -> float:
    """Smooth noise over time alone, about -1 to 1.

    Parameters
    ----------
    seed
        Names the chance: equal seeds give equal results.
    changes
        How often it has changed.
    """
    return float(Noise(seed).at(np.array([changes + 0.37]), np.array([0.61 + seed % 7]), 0.0)[0, 0] * 2.4)


@cached
def _values(seed: int, octave: int, number: int) -> NDArray[np.float64]:
    draws = np.random.Generator(np.random.PCG64((seed, octave, number & 0xFFFFFFFF, 14)))
    return draws.random((GRID, GRID)) * 2 - 1


def spline_weights(places: NDArray[np.floating]) -> NDArray[Any]:
    """Weights of the grid's values at places, by the cubic B-spline, shape (n, GRID); the grid goes round.

    Parameters
    ----------
    places
        Places in cells of the lattice.
    """
    whole = np.floor(places)
    t = places - whole
    weights = np.stack([(1 - t) ** 3, 3 * t**3 - 6 * t**2 + 4, -3 * t**3 + 3 * t**2 + 3 * t + 1, t**3])
    weights /= weights.dtype.type(6)
    out = np.zeros((len(places), GRID), places.dtype)
    rows = np.arange(len(places))
    for offset, weight in zip(range(-1, 3), weights, strict=True):
        np.add.at(out, (rows, (whole.astype(np.int64) + offset) % GRID), weight)
    return out
