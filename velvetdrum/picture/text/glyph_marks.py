"""Glyphs as marks: each at its place, turned, scaled and as solid as it is at a time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.figures.marks.marks import Marks
from velvetdrum.picture.raster.areas import Area, Coverage
from velvetdrum.picture.raster.canvas import Canvas, softened
from velvetdrum.picture.raster.viewport import Box
from velvetdrum.picture.typesetting.layout import Layout, TextSpec, laid_out
from velvetdrum.picture.typesetting.typefaces import glyph_path, glyphs_path

Values = NDArray[np.float64]
_FURTHEST = 20_000


@cached
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


@cached
def block_path(spec: TextSpec) -> skia.Path:
    """All glyphs of a layout as one outline about the middle of its box, in thousandths of an em: filled at once, it
    costs a fraction of what its letters do."""
    layout = laid_out(spec)
    rows = zip(layout.face.tolist(), layout.glyph.tolist(), layout.x.tolist(), layout.y.tolist(), strict=True)
    return glyphs_path((layout.faces[face], glyph, x, y) for face, glyph, x, y in rows)


@dataclass(frozen=True)
class AtRest:
    """Glyphs that all stand where their layout has them: what that is made of, where its middle lies in pixels, pixels
    a thousandth of an em, and the angle in radians."""

    spec: TextSpec
    x: float
    y: float
    scale: float
    angle: float

    @property
    def path(self) -> skia.Path:
        """Their outline, in thousandths of an em."""
        return block_path(self.spec)

    @property
    def matrix(self) -> skia.Matrix:
        """From thousandths of an em to pixels."""
        c, s = float(np.cos(self.angle)) * self.scale, float(np.sin(self.angle)) * self.scale
        return skia.Matrix.MakeAll(c, -s, self.x, s, c, self.y, 0.0, 0.0, 1.0)


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
    rest: AtRest | None = None
    """Set while all of them are at rest and wholly there."""

    def changed(self, **parts: Any) -> Glyphs:
        """They with other places, sizes, angles or strengths."""
        return replace(self, rest=None, **parts)

    @property
    def box(self) -> Box | None:
        if self.rest:
            margin = self.stroke * 1.1 + 1.0
            result = self.rest.matrix.mapRect(self.rest.path.getBounds())
            if result.isEmpty():
                return None
            return Box(result.left(), result.top(), result.right(), result.bottom()).grown(margin)
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
        return replace(self, paths=paths, along=along, level=level, rest=None, **cut)

    def moved(self, dx: float, dy: float) -> Glyphs:
        """All of them by pixels."""
        rest = replace(self.rest, x=self.rest.x + dx, y=self.rest.y + dy) if self.rest else None
        return replace(self, x=self.x + dx, y=self.y + dy, rest=rest)

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None:
        brush = skia.Paint(AntiAlias=True)
        start = onto.getTotalMatrix()
        if self.rest and (colours is None or len(set(colours)) == 1):
            self._fill_at_rest(onto, 0xFFFFFFFF if colours is None else next(iter(colours)), brush, start)
            return
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

    def _fill_at_rest(self, onto: skia.Canvas, colour: int, brush: skia.Paint, start: skia.Matrix) -> None:
        assert self.rest
        brush.setColor(colour)
        if self.stroke > 0:
            brush.setStyle(skia.Paint.kStroke_Style)
            brush.setStrokeJoin(skia.Paint.kRound_Join)
            brush.setStrokeWidth(self.stroke / self.rest.scale)
        onto.setMatrix(skia.Matrix.Concat(start, self.rest.matrix))
        onto.drawPath(self.rest.path, brush)
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
        rest=AtRest(spec, x, y, scale, float(angle)) if count else None,
    )


@cached
def coverage(rest: AtRest, stroke: float = 0.0, softness: float = 0.0) -> tuple[Coverage, Area]:
    """How much of each pixel glyphs at rest cover, with edges that fade over `softness` pixels, and the area of those
    pixels. A line that stands is filled once, however often it is drawn."""
    glyphs = replace(
        glyphs_of(rest.spec, rest.scale * 1000, rest.x, rest.y, float(np.rad2deg(rest.angle))), stroke=stroke
    )
    box = glyphs.box
    if box is None:
        return np.zeros((0, 0), np.uint8), (0, 0, 0, 0)
    grown = box.grown(1.5 * softness)
    area = grown.pixels((-_FURTHEST, -_FURTHEST, _FURTHEST, _FURTHEST))
    canvas = Canvas(1, 1, area)
    mask = canvas.mask([glyphs], area)
    return (softened(mask, softness) if softness > 0 else mask), area


@cached
def word_boxes(rest: AtRest) -> tuple[tuple[int, Box, bool], ...]:
    """The boxes of words, in parts where a word goes on in another line, each with the word's number and whether its
    letters run from the right."""
    layout = laid_out(rest.spec)
    glyphs = glyphs_of(rest.spec, rest.scale * 1000, rest.x, rest.y, float(np.rad2deg(rest.angle)))
    return boxes_of_words(glyphs, layout)


def boxes_of_words(glyphs: Glyphs, layout: Layout) -> tuple[tuple[int, Box, bool], ...]:
    """As `word_boxes`, of glyphs that are anywhere."""
    out = []
    for word, row in sorted(set(zip(layout.word.tolist(), layout.row.tolist(), strict=True))):
        part = glyphs.only((layout.word == word) & (layout.row == row))
        box = part.box
        if box is not None:
            out.append((word, box, len(part.x) > 1 and bool(part.x[0] > part.x[-1])))
    return tuple(out)
