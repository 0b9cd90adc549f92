"""Where many things stand: on a grid, on rings, on spirals; each with the way outward and the way along."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.outlines.outline import Points

Values = NDArray[np.float64]

_GOLDEN = np.pi * (3.0 - np.sqrt(5.0))
"""The golden angle: leaves that follow each other by it leave no gaps (H. Vogel, 1979)."""


@dataclass(frozen=True, eq=False)
class Spots:
    """Places in pixels about a middle, the unit way outward and the unit way along at each, all of shape (n, 2)."""

    points: Points
    outward: Points
    along: Points

    def turned(self, degrees: float, middle: tuple[float, float]) -> Spots:
        """Turned clockwise about their middle, and moved with it to a place in the frame.

        Parameters
        ----------
        degrees
            By how much, clockwise.
        middle
            Where their middle comes to lie, in pixels.
        """
        angle = np.deg2rad(degrees)
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        return Spots(self.points @ turn + np.array(middle), self.outward @ turn, self.along @ turn)


def grid(count: int, columns: int, across: float, down: float) -> Spots:
    """Row by row from the top left, the whole of it about the middle; up is outward.

    Parameters
    ----------
    count
        How many.
    columns
        How many in a row.
    across
        Pixels from one to its right neighbour.
    down
        Pixels from one to its lower neighbour.
    """
    columns = min(columns, count)
    index = np.arange(count)
    rows = -(-count // columns)
    x = (index % columns - (columns - 1) / 2) * across
    y = (index // columns - (rows - 1) / 2) * down
    outward = np.broadcast_to(np.array([0.0, -1.0]), (count, 2))
    along = np.broadcast_to(np.array([1.0, 0.0]), (count, 2))
    return Spots(np.stack([x, y], axis=1), outward, along)


def rings(count: int, number: int, inner: float, outer: float) -> Spots:
    """On rings in each other from the innermost on, clockwise from the top; the longer a ring, the more stand on it.

    Parameters
    ----------
    count
        How many in all.
    number
        How many rings.
    inner
        Radius of the innermost, in pixels.
    outer
        Radius of the outermost, in pixels.
    """
    number = min(number, count)
    radii = np.linspace(inner, outer, number) if number > 1 else np.array([outer])
    edges = np.rint(np.cumsum(np.maximum(radii, 1e-6)) / np.maximum(radii, 1e-6).sum() * count).astype(int)
    on_ring = np.diff(np.concatenate([[0], edges]))
    index = np.concatenate([np.arange(each) / max(each, 1) for each in on_ring])
    return _polar(np.repeat(radii, on_ring), index * 2 * np.pi)


def spiral(count: int, turns: float, inner: float, outer: float) -> Spots:
    """Along a spiral of Archimedes, at even distances along it, from its inner end.

    Parameters
    ----------
    count
        How many.
    turns
        How often it goes round.
    inner
        Radius where it begins, in pixels.
    outer
        Radius where it ends, in pixels.
    """
    share = np.linspace(0.0, 1.0, 2048)
    radii, angles = inner + (outer - inner) * share, 2 * np.pi * turns * share
    line = np.stack([radii * np.sin(angles), -radii * np.cos(angles)], axis=1)
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.interp(np.linspace(0.0, way[-1], count), way, share) if count > 1 else np.array([1.0])
    return _polar(inner + (outer - inner) * at, 2 * np.pi * turns * at)


def sunflower(count: int, outer: float) -> Spots:
    """As seeds stand in a sunflower: all with the same room, from the middle outward.

    Parameters
    ----------
    count
        How many.
    outer
        Radius of the outermost, in pixels.
    """
    index = np.arange(count)
    return _polar(outer * np.sqrt((index + 0.5) / count), index * _GOLDEN)


def _polar(radii: Values, angles: Values) -> Spots:
    """At radii and angles, which go clockwise from the top."""
    outward = np.stack([np.sin(angles), -np.cos(angles)], axis=1)
    along = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    return Spots(outward * radii[:, None], outward, along)
