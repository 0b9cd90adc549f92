"""Glyphs as marks: each at its place, turned, scaled and as solid as it is at a time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.limits.cache import kept
from velvetdrum.picture.marks.marks import Marks
from velvetdrum.picture.raster.viewport import Box
from velvetdrum.picture.text.layout import Layout, TextSpec, laid_out
from velvetdrum.picture.text.typefaces import glyph_path

Values = NDArray[np.float64]


@kept
def glyph_paths(spec: TextSpec) -> tuple[tuple[skia.Path, ...], Values]:
    """The outlines of a layout's glyphs, and the box of each: left, top, right, bottom, shape (n, 4)."""
    layout = laid_out(spec)
    paths = tuple(
        glyph_path(layout.faces[face][0], layout.faces[face][1], glyph)
        for face, glyph in zip(layout.face.tolist(), layout.glyph.tolist(), strict=True)
    )
    bounds = [path.getBounds() for path in paths]
    boxes = np.array([[box.left(), box.top(), box.right(), box.bottom()] for box in bounds]).reshape(-1, 4)
    return paths, boxes


@dataclass(eq=False)
class Glyphs(Marks):
    """Glyphs by their outlines in thousandths of an em. `x`, `y`: where their middles lie, in pixels; `pivots`: their
    middles in thousandths of an em; `scale`: pixels a thousandth; `angles` in radians, clockwise. `strokes`: width of
    an outline in pixels; 0 fills them."""

    paths: Sequence[skia.Path]
    boxes: Values
    x: Values
    y: Values
    pivots: Values
    scale: Values
    angles: Values
    strengths: Values
    along: Values = field(default_factory=lambda: np.zeros(0))
    level: Values = field(default_factory=lambda: np.zeros(0))
    stroke: float = 0.0
    widths: Values | None = None

    @property
    def box(self) -> Box | None:
        shown = (self.strengths > 0) & (self.boxes[:, 2] > self.boxes[:, 0])
        if not shown.any():
            return None
        boxes, pivots = self.boxes[shown], self.pivots[shown]
        corners = np.stack([boxes[:, [0, 2, 2, 0]], boxes[:, [1, 1, 3, 3]]], axis=2) - pivots[:, None]
        corners *= self.scale[shown][:, None, None]
        cos, sin = np.cos(self.angles[shown])[:, None], np.sin(self.angles[shown])[:, None]
        x = corners[..., 0] * cos - corners[..., 1] * sin + self.x[shown][:, None]
        y = corners[..., 0] * sin + corners[..., 1] * cos + self.y[shown][:, None]
        margin = self.stroke * 1.1 + 1.0
        return Box(float(x.min()) - margin, float(y.min()) - margin, float(x.max()) + margin, float(y.max()) + margin)

    def only(self, chosen: NDArray[np.bool_]) -> Glyphs:
        """Some of them."""
        cut = {
            name: getattr(self, name)[chosen] for name in ("boxes", "x", "y", "pivots", "scale", "angles", "strengths")
        }
        paths = [path for path, kept_ in zip(self.paths, chosen.tolist(), strict=True) if kept_]
        along = self.along[chosen] if len(self.along) else self.along
        level = self.level[chosen] if len(self.level) else self.level
        return replace(self, paths=paths, along=along, level=level, **cut)

    def moved(self, dx: float, dy: float) -> Glyphs:
        """All of them by pixels."""
        return replace(self, x=self.x + dx, y=self.y + dy)

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None:
        brush = skia.Paint(AntiAlias=True)
        start = onto.getTotalMatrix()
        cos, sin = np.cos(self.angles) * self.scale, np.sin(self.angles) * self.scale
        left = self.x - (self.pivots[:, 0] * cos - self.pivots[:, 1] * sin)
        top = self.y - (self.pivots[:, 0] * sin + self.pivots[:, 1] * cos)
        strokes = self.stroke > 0
        if strokes:
            brush.setStyle(skia.Paint.kStroke_Style)
            brush.setStrokeJoin(skia.Paint.kRound_Join)
        words = [0xFFFFFFFF] * len(self.paths) if colours is None else list(colours)
        if len(words) == 1:
            words = words * len(self.paths)
        rows = zip(
            self.paths, cos.tolist(), sin.tolist(), left.tolist(), top.tolist(), self.strengths.tolist(),
            self.scale.tolist(), words, strict=False,
        )  # fmt: skip
        for path, c, s, x, y, strength, scale, colour in rows:
            if strength <= 0 or scale <= 0:
                continue
            brush.setColor(round((colour >> 24) * min(strength, 1.0)) << 24 | colour & 0xFFFFFF)
            if strokes:
                brush.setStrokeWidth(self.stroke / scale)
            onto.setMatrix(skia.Matrix.Concat(start, skia.Matrix.MakeAll(c, -s, x, s, c, y, 0.0, 0.0, 1.0)))
            onto.drawPath(path, brush)
        onto.setMatrix(start)


def glyphs_of(spec: TextSpec, size: float, x: float, y: float, turn: float = 0.0) -> Glyphs:
    """The glyphs of a text, `size` pixels an em, the middle of its box at a place in pixels, turned clockwise by
    `turn` degrees."""
    layout = laid_out(spec)
    paths, boxes = glyph_paths(spec)
    scale = size / 1000.0
    # Glyphs turn and grow about the middle of their advance, at the height of small letters.
    pivots = np.stack([layout.advance / 2, np.full(len(layout.x), -250.0)], axis=1)
    places = (np.stack([layout.x, layout.y], axis=1) + pivots) * scale
    angle = np.deg2rad(turn)
    cos, sin = np.cos(angle), np.sin(angle)
    count = len(layout.x)
    left, _, right, _ = layout.box
    along = np.clip((layout.x + layout.advance / 2 - left) / max(right - left, 1e-6), 0.0, 1.0)
    return Glyphs(
        paths,
        boxes,
        x + places[:, 0] * cos - places[:, 1] * sin,
        y + places[:, 0] * sin + places[:, 1] * cos,
        pivots,
        np.full(count, scale),
        np.full(count, angle),
        np.ones(count),
        along,
        np.ones(count),
    )


def layout_of(spec: TextSpec) -> Layout:
    """The layout of a text."""
    return laid_out(spec)
