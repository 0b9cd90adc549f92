"""Curves from SVG path data, and from pens that draw Bézier curves."""

from __future__ import annotations

import re
from typing import Any

import numpy as np
from fontTools.pens.basePen import BasePen
from fontTools.svgLib.path import parse_path

from velvetdrum.picture.outlines.curves import joined
from velvetdrum.picture.outlines.outline import Outline, Piece, Points, faced

LONGEST_PATH = 100_000
"""Characters of path data."""

_STEPS = 48
_ALLOWED = re.compile(r"[MmZzLlHhVvCcSsQqTtAa0-9eE+\-.,\s]*")


class PathError(ValueError):
    """Path data that cannot be drawn, with a sentence for the person who brought it."""


class OutlinePen(BasePen):
    """Collects what is drawn with it as pieces, curves as close-lying points. Takes segments in any units."""

    def __init__(self, glyphs: Any = None) -> None:
        super().__init__(glyphs)
        self.pieces: list[Piece] = []
        self._parts: list[Points] = []
        self._start = (0.0, 0.0)

    def _moveTo(self, point: Any) -> None:
        self._flush(closed=False)
        self._start = point

    def _lineTo(self, point: Any) -> None:
        self._parts.append(np.array([self._getCurrentPoint(), point], float))

    def _curveToOne(self, first: Any, second: Any, point: Any) -> None:
        t = np.linspace(0.0, 1.0, _STEPS + 1)[:, None]
        start, a, b, end = (np.array(value, float) for value in (self._getCurrentPoint(), first, second, point))
        self._parts.append((1 - t) ** 3 * start + 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t**2 * b + t**3 * end)

    def _closePath(self) -> None:
        current = self._getCurrentPoint()
        if current is not None and np.hypot(*(np.array(current) - self._start)) > 1e-9:
            self._parts.append(np.array([current, self._start], float))
        self._flush(closed=True)

    def _endPath(self) -> None:
        self._flush(closed=False)

    def outline(self) -> Outline:
        """What was drawn. Raises PathError when that has no length."""
        self._flush(closed=False)
        if not self.pieces:
            raise PathError("This path draws nothing: it only moves, or all its points are one.")
        return faced(self.pieces)

    def _flush(self, *, closed: bool) -> None:
        parts, self._parts = self._parts, []
        if not all(np.isfinite(part).all() and np.abs(part).max() < 1e9 for part in parts):
            raise PathError("This path has numbers that are too large to draw.")
        if parts and any(np.ptp(part, axis=0).max() > 1e-9 for part in parts):
            # A curve that comes back to its start is closed, whether it says so or not.
            met = float(np.hypot(*(parts[-1][-1] - parts[0][0]))) < 1e-6
            self.pieces.append(joined(parts, closed=closed or (met and len(parts) > 1)))


def path_outline(data: str) -> Outline:
    """The curves of SVG path data (SVG 2, chapter 9), in its own units. Raises PathError."""
    if len(data) > LONGEST_PATH:
        raise PathError(f"This path has {len(data):,} characters; up to {LONGEST_PATH:,} can be read. Simplify it.")
    odd = _ALLOWED.match(data)
    assert odd is not None
    if odd.end() < len(data):
        raise PathError(
            f'Path data has no “{data[odd.end()]}” (character {odd.end() + 1}). Paste what stands in d="…" of a path.'
        )
    if not data.strip():
        raise PathError('There is no path data yet: paste what stands in d="…" of a path, or choose an SVG file.')
    if data.strip()[0] not in "Mm":
        raise PathError("Path data begins with M: the place where the pen starts.")
    pen = OutlinePen()
    try:
        parse_path(data, pen)
    except PathError:
        raise
    except Exception as problem:
        raise PathError("This path data breaks off or has numbers missing; copy all of it.") from problem
    return pen.outline()


def fitted(outline: Outline, size: float) -> Outline:
    """The outline about the origin, the longer side of its box `size` pixels long."""
    points = np.concatenate([piece.points for piece in outline.pieces])
    low, high = points.min(axis=0), points.max(axis=0)
    scale = size / max(float((high - low).max()), 1e-9)
    middle = (low + high) / 2
    return Outline(
        tuple(
            Piece((piece.points - middle) * scale, piece.tangents, piece.closed, piece.side) for piece in outline.pieces
        )
    )
