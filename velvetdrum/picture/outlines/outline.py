"""Curves by arc length: where a place along a curve is, and which way is outward there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.kernels import curves

Points = NDArray[np.float64]
"""Points or directions in pixels, x right and y down, shape (n, 2)."""


@dataclass(frozen=True, eq=False)
class Piece:
    """One unbroken curve as close-lying points with the direction of travel in each. A corner is two points at
    one place with two directions. A closed piece ends where it began."""

    points: Points
    tangents: Points
    closed: bool
    side: float = 1.0
    """1 when outward lies left of the direction of travel, -1 when it lies right."""

    @cached_property
    def along(self) -> NDArray[np.float64]:
        """Length of the way to each point, in pixels."""
        steps = np.hypot(*np.diff(self.points, axis=0).T)
        return np.concatenate([[0.0], np.cumsum(steps)])

    @property
    def length(self) -> float:
        """Length along it, in pixels."""
        return float(self.along[-1])

    @property
    def area(self) -> float:
        """Area inside of it in pixels squared, above zero when it goes round clockwise on the screen."""
        x, y = self.points.T
        return float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y) / 2)

    def at(self, way: NDArray[np.float64]) -> tuple[Points, Points, Points]:
        """Points, outward normals and tangents after `way` pixels, each shape (n, 2)."""
        result, normals, tangents = (np.empty((len(way), 2)) for _ in range(3))
        way = np.ascontiguousarray(way, np.float64)
        curves.walk(way, self.along, *self._laid_out, self.side, result, normals, tangents)
        return result, normals, tangents

    @cached_property
    def _laid_out(self) -> tuple[Points, Points]:
        return np.ascontiguousarray(self.points, np.float64), np.ascontiguousarray(self.tangents, np.float64)


@dataclass(frozen=True, eq=False)
class Outline:
    """One or more pieces, gone through one after the other at an even pace."""

    pieces: tuple[Piece, ...]

    @cached_property
    def ends(self) -> NDArray[np.float64]:
        """Length of the way at the end of each piece, in pixels."""
        return np.cumsum([piece.length for piece in self.pieces])

    @property
    def length(self) -> float:
        """Length of the whole in pixels."""
        return float(self.ends[-1])

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of all pieces, in pixels."""
        points = np.concatenate([piece.points for piece in self.pieces])
        left, top = points.min(axis=0).tolist()
        right, bottom = points.max(axis=0).tolist()
        return left, top, right, bottom

    @property
    def closed(self) -> bool:
        """True for a single piece that ends where it began."""
        return len(self.pieces) == 1 and self.pieces[0].closed

    def piece_of(self, places: NDArray[np.float64]) -> NDArray[np.intp]:
        """Which piece each place lies on; places are 0 to 1 of the whole length."""
        result = np.searchsorted(self.ends, places * self.length - 1e-9 * self.length, side="left")
        return np.minimum(result, len(self.pieces) - 1)

    def at(self, places: NDArray[np.float64]) -> tuple[Points, Points, Points]:
        """Points, outward unit normals and unit tangents at places from 0 to 1 of the length, each shape (n, 2).

        On a closed outline places go round: 1.25 is 0.25.
        """
        if self.closed:
            places = places - np.floor(places)
        places = np.clip(places, 0.0, 1.0)
        if len(self.pieces) == 1:
            return self.pieces[0].at(places * self.length)
        owners = self.piece_of(places)
        points, normals, tangents = (np.empty((len(places), 2)) for _ in range(3))
        for number in np.unique(owners):
            here = owners == number
            piece = self.pieces[number]
            way = places[here] * self.length - (self.ends[number] - piece.length)
            points[here], normals[here], tangents[here] = piece.at(way)
        return points, normals, tangents

    def moved(self, degrees: float, x: float, y: float) -> Outline:
        """Turned clockwise about the origin, then moved, in pixels."""
        angle = np.deg2rad(degrees)
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        return Outline(
            tuple(
                Piece(piece.points @ turn + (x, y), piece.tangents @ turn, piece.closed, piece.side)
                for piece in self.pieces
            )
        )


def faced(pieces: Sequence[Piece]) -> Outline:
    """An outline of pieces with outward worked out: away from the inside of each closed one, and toward the inside
    of one that is a hole in another. Open ones: to the left of the way."""
    closed = [piece for piece in pieces if piece.closed]
    out = []
    for piece in pieces:
        side = 1.0
        if piece.closed:
            x, y = (float(value) for value in piece.points[0])
            around = [other for other in closed if other is not piece and _holds(other, x, y)]
            side = (1.0 if piece.area > 0 else -1.0) * (-1.0 if len(around) % 2 else 1.0)
        out.append(Piece(piece.points, piece.tangents, piece.closed, side))
    return Outline(tuple(out))


def _holds(piece: Piece, x: float, y: float) -> bool:
    return cv2.pointPolygonTest(piece.points.astype(np.float32)[:, None], (x, y), False) > 0
