"""Marks: what a figure is made of, as geometry in pixels. Each kind knows its box and how to fill itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import repeat

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.picture.outlines.outline import Points
from velvetdrum.picture.raster.paths import polygons
from velvetdrum.picture.raster.viewport import Box

Values = NDArray[np.float64]
_NOTHING: Values = np.zeros(0)


class Marks:
    """Base of all kinds. `along` and `level` place each mark in the figure, 0 to 1; empty for marks that run through
    all of it."""

    along: Values
    level: Values

    @property
    def box(self) -> Box | None:
        """What they cover; None for nothing."""
        raise NotImplementedError

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None:
        """Fill with antialiased edges: each mark in its colour (0xaarrggbb), or all in opaque white."""
        raise NotImplementedError


def _colours(colours: Sequence[int] | None) -> Sequence[int] | repeat[int]:
    return repeat(0xFFFFFFFF) if colours is None else colours


def _weakened(colour: int, strength: float) -> int:
    """A colour with its alpha times `strength`."""
    return colour if strength >= 1 else round((colour >> 24) * strength) << 24 | colour & 0xFFFFFF


@dataclass(eq=False)
class Bars(Marks):
    """Straight bars with round corners, from foot to head. `thickness` in pixels; `roundness` is the corner radius as
    a share of half the shorter side. `strengths` as for strokes."""

    feet: Points
    heads: Points
    thickness: float | Values
    roundness: float
    along: Values
    level: Values
    strengths: list[float] | None = None

    @property
    def box(self) -> Box | None:
        if not len(self.feet):
            return None
        both = np.concatenate([self.feet, self.heads])
        return _around(both, float(np.max(self.thickness)) / 2)

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None:
        ways = self.heads - self.feet
        lengths = np.sqrt(ways[:, 0] ** 2 + ways[:, 1] ** 2)
        thick = np.broadcast_to(self.thickness, lengths.shape)
        radii = (np.minimum(thick, lengths) / 2 * self.roundness).tolist()
        words = _colours(colours)
        if self.strengths:
            words = [_weakened(word, strength) for word, strength in zip(words, self.strengths, strict=False)]
        brush, draw = skia.Paint(AntiAlias=True), onto.drawRoundRect
        painted = -1
        if np.all(np.abs(ways[:, 0]) < 1e-9 * np.maximum(lengths, 1e-9)):
            left, top = self.feet[:, 0] - thick / 2, np.minimum(self.feet[:, 1], self.feet[:, 1] + ways[:, 1])
            corners = (left, top, self.feet[:, 0] + thick / 2, top + lengths)
            boxes = map(skia.Rect, *(side.tolist() for side in corners))
            for box, radius, colour in zip(boxes, radii, words, strict=False):
                if colour != painted:
                    painted = colour
                    brush.setColor(colour)
                if radius > 0:
                    draw(box, radius, radius, brush)
                else:
                    onto.drawRect(box, brush)
            return
        start = onto.getTotalMatrix()
        # Local axes: down the bar's length, and across it.
        (u, v), (x, y) = (ways / np.maximum(lengths, 1e-9)[:, None]).T, self.feet.T
        half, zero, one = thick / 2, np.zeros_like(u), np.ones_like(u)
        places = map(skia.Matrix.MakeAll, *(part.tolist() for part in (v, u, x, -u, v, y, zero, zero, one)))
        boxes = map(skia.Rect, *(side.tolist() for side in (-half, zero, half, lengths)))
        turn, join = onto.setMatrix, skia.Matrix.Concat
        for place, box, length, radius, colour in zip(places, boxes, lengths.tolist(), radii, words, strict=False):
            if length <= 0:
                continue
            if colour != painted:
                painted = colour
                brush.setColor(colour)
            turn(join(start, place))
            draw(box, radius, radius, brush)
        onto.setMatrix(start)


@dataclass(eq=False)
class Dots(Marks):
    """Discs, each as solid as its strength says; all wholly without it."""

    points: Points
    radii: Values
    along: Values
    level: Values
    strengths: list[float] | None = None

    @property
    def box(self) -> Box | None:
        return _around(self.points, float(np.max(self.radii))) if len(self.points) else None

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None:
        brush = skia.Paint(AntiAlias=True)
        strengths = self.strengths or repeat(1.0)
        for (x, y), radius, colour, strength in zip(
            self.points.tolist(), self.radii.tolist(), _colours(colours), strengths, strict=False
        ):
            brush.setColor(_weakened(colour, strength))
            onto.drawCircle(x, y, radius, brush)


@dataclass(eq=False)
class Strokes(Marks):
    """Lines through points, with round joins and ends; all of one width, in pixels. Closed ones close.

    `strengths`: how solid each line is, 0 to 1; all wholly without it. Lines of several strengths end flat, so that
    pieces of one line do not overlap."""

    lines: list[tuple[Points, bool]]
    width: float
    strengths: list[float] | None = None
    along: Values = field(default_factory=lambda: _NOTHING)
    level: Values = field(default_factory=lambda: _NOTHING)
    paths: list[skia.Path] | None = None
    """The lines as the drawing library has them, where they were made before."""

    @property
    def box(self) -> Box | None:
        kept = [points for points, _ in self.lines if len(points)]
        return _around(np.concatenate(kept), self.width / 2 + 1) if kept else None

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None:
        brush = skia.Paint(
            AntiAlias=True,
            Style=skia.Paint.kStroke_Style,
            StrokeWidth=self.width,
            StrokeCap=skia.Paint.kButt_Cap if self.strengths else skia.Paint.kRound_Cap,
            # Round joins cost several points for each one of a line; on thin lines nobody sees them.
            StrokeJoin=skia.Paint.kRound_Join if self.width > _THIN else skia.Paint.kMiter_Join,
            StrokeMiter=2.0,
        )
        strengths = self.strengths or repeat(1.0)
        paths = self.paths or [line_path(points, closed) for points, closed in self.lines]
        for path, colour, strength in zip(paths, _colours(colours), strengths, strict=False):
            brush.setColor(_weakened(colour, strength))
            onto.drawPath(path, brush)


@dataclass(eq=False)
class Areas(Marks):
    """Filled polygons; the pieces of one share a winding, so that overlaps are filled once."""

    polygons: list[Points]
    along: Values = field(default_factory=lambda: _NOTHING)
    level: Values = field(default_factory=lambda: _NOTHING)
    holes: bool = False
    """True when polygons are counted even-odd: an inner one is a hole in the outer."""
    strength: float = 1.0

    @property
    def box(self) -> Box | None:
        kept = [points for points in self.polygons if len(points)]
        return _around(np.concatenate(kept), 1.0) if kept else None

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None:
        brush = skia.Paint(AntiAlias=True, Color=_weakened(colours[0] if colours else 0xFFFFFFFF, self.strength))
        onto.drawPath(polygons([(points, True) for points in self.polygons], holes=self.holes), brush)


_THIN = 2.0
"""Width in pixels up to which joins are mitred."""


def _around(points: Points, margin: float) -> Box:
    low, high = points.min(axis=0) - margin, points.max(axis=0) + margin
    return Box(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


def _spared(points: Points, within: float = 0.05) -> Points:
    """The points without those that lie within a twentieth of a pixel of the line through the others: stroking costs
    by the point."""
    if len(points) < 8:
        return points
    kept = cv2.approxPolyDP(points.astype(np.float32)[:, None], within, False)
    return np.asarray(kept[:, 0], np.float64)


def line_path(points: Points, closed: bool, within: float = 0.05) -> skia.Path:
    """A line through points as the drawing library has it, to so many pixels."""
    return polygons([(_spared(points, within), closed)])
