"""Marks: what a figure is made of, as geometry in pixels. Each kind knows its box and how to fill itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import repeat

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.picture.raster.viewport import Box
from velvetdrum.picture.shapes.outline import Points

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
        lengths = np.hypot(*ways.T)
        thick = np.broadcast_to(self.thickness, lengths.shape)
        radii = (np.minimum(thick, lengths) / 2 * self.roundness).tolist()
        units = ways / np.maximum(lengths, 1e-9)[:, None]
        brush = skia.Paint(AntiAlias=True)
        words = _colours(colours)
        if self.strengths:
            words = [_weakened(word, strength) for word, strength in zip(words, self.strengths, strict=False)]
        rows = zip(self.feet.tolist(), units.tolist(), lengths.tolist(), thick.tolist(), radii, words, strict=False)
        if np.all(np.abs(units[:, 0]) < 1e-9):
            for (x, y), (_, down), length, wide, radius, colour in rows:
                brush.setColor(colour)
                top = y if down > 0 else y - length
                box = skia.Rect(x - wide / 2, top, x + wide / 2, top + length)
                if radius > 0:
                    onto.drawRoundRect(box, radius, radius, brush)
                else:
                    onto.drawRect(box, brush)
            return
        start = onto.getTotalMatrix()
        for (x, y), (u, v), length, wide, radius, colour in rows:
            if length <= 0:
                continue
            brush.setColor(colour)
            # Local axes: down the bar's length, and across it.
            onto.setMatrix(skia.Matrix.Concat(start, skia.Matrix.MakeAll(v, u, x, -u, v, y, 0, 0, 1)))
            onto.drawRoundRect(skia.Rect(-wide / 2, 0, wide / 2, length), radius, radius, brush)
        onto.setMatrix(start)


def joined_bars(marks: Sequence[Marks]) -> list[Marks]:
    """The same marks, in their order, with bars that follow each other and are equally round as one: each kind of
    marks costs some work of its own, whatever its number."""
    out: list[Marks] = []
    run: list[Bars] = []
    for part in [*marks, None]:
        if isinstance(part, Bars) and part.strengths is None and (not run or run[0].roundness == part.roundness):
            run.append(part)
            continue
        if run:
            thick = np.concatenate([np.broadcast_to(bars.thickness, len(bars.feet)) for bars in run])
            feet, heads, along, level = (
                np.concatenate([getattr(bars, name) for bars in run]) for name in ("feet", "heads", "along", "level")
            )
            out.append(run[0] if len(run) == 1 else Bars(feet, heads, thick, run[0].roundness, along, level))
            run = []
        if isinstance(part, Bars) and part.strengths is None:
            run = [part]
        elif part is not None:
            out.append(part)
    return out


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
        path = skia.Path()
        for points in self.polygons:
            path.addPath(_path(points, True))
        if self.holes:
            path.setFillType(skia.PathFillType.kEvenOdd)
        onto.drawPath(path, brush)


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
    return _path(_spared(points, within), closed)


def _path(points: Points, closed: bool) -> skia.Path:
    return skia.Path.Polygon(list(map(skia.Point, points[:, 0].tolist(), points[:, 1].tolist())), closed)
