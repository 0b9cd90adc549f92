"""Easings of CSS Easing Functions, level 1, for arrays."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

_BEZIER = {
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": (0.42, 0.0, 0.58, 1.0),
}


def ease(name: str, part: NDArray[np.float64]) -> NDArray[np.float64]:
    """Progress after easing, for progress `part` from 0 to 1. `hold` stays at 0 until the end."""
    if name == "hold":
        return np.where(part >= 1.0, 1.0, 0.0)
    if name not in _BEZIER:
        return part
    return cubic_bezier(*_BEZIER[name], part)


def cubic_bezier(x1: float, y1: float, x2: float, y2: float, x: NDArray[np.float64]) -> NDArray[np.float64]:
    """The CSS cubic Bezier through (0, 0) and (1, 1), as y over x. Solved by bisection: exact to 2^-40."""

    def curve(first: float, second: float, t: NDArray[np.float64]) -> NDArray[np.float64]:
        return 3 * (1 - t) ** 2 * t * first + 3 * (1 - t) * t**2 * second + t**3

    low, high = np.zeros_like(x), np.ones_like(x)
    for _ in range(40):
        middle = (low + high) / 2
        below = curve(x1, x2, middle) < x
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    return np.where(x <= 0, 0.0, np.where(x >= 1, 1.0, curve(y1, y2, (low + high) / 2)))
