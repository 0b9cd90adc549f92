"""Typefaces: what characters each has, its measures, its shaping, and the outlines of its glyphs."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from pathlib import Path
from typing import Any

import skia
import uharfbuzz as hb
from cachetools import LRUCache
from cachetools import cached as cached_in
from fontTools.pens.basePen import BasePen

from velvetdrum.limits import openers
from velvetdrum.limits.cache import cached
from velvetdrum.picture.typesetting.families import Axes
from velvetdrum.picture.typesetting.typeface_files import blob_of

EM = 1000.0
"""Units of an em in everything that is laid out."""


class Typeface:
    """A file of a typeface at places on its axes."""

    def __init__(self, path: Path, axes: Axes) -> None:
        self.path, self.axes = path, axes
        self.face = openers.face(blob_of(path))
        self.font = hb.Font(self.face)
        own = {axis.tag for axis in self.face.axis_infos}
        if own:
            self.font.set_variations({tag: value for tag, value in axes if tag in own})
        self.scale = EM / self.face.upem

    @cached_property
    def characters(self) -> frozenset[int]:
        """Code points that it has glyphs for."""
        return frozenset(self.face.unicodes)

    @cached_property
    def measures(self) -> tuple[float, float]:
        """How far letters reach above and below the baseline, in thousandths of an em."""
        extents = self.font.get_font_extents("ltr")
        return extents.ascender * self.scale, -extents.descender * self.scale

    @cached_property
    def digit_width(self) -> float:
        """How far the pen goes for the widest digit that it has, tabular ones where there are some, in thousandths of
        an em."""
        widths = []
        for digit in "0123456789":
            buffer = hb.Buffer()
            buffer.add_str(digit)
            buffer.guess_segment_properties()
            hb.shape(self.font, buffer, {"tnum": True})
            widths += [place.x_advance for place in buffer.glyph_positions]
        return max(widths, default=0) * self.scale


@cached_in(LRUCache(64))
def typeface(path: Path, axes: Axes) -> Typeface:
    """The typeface of a file at places on its axes."""
    return Typeface(path, axes)


class _PathPen(BasePen):
    """Draws glyphs into a path of the drawing library, y down, each from its own origin."""

    def __init__(self) -> None:
        super().__init__(None)
        self.path = skia.PathBuilder()
        self.scale, self.origin = 1.0, (0.0, 0.0)

    def _at(self, point: Any) -> tuple[float, float]:
        return self.origin[0] + point[0] * self.scale, self.origin[1] - point[1] * self.scale

    def _moveTo(self, point: Any) -> None:
        self.path.moveTo(*self._at(point))

    def _lineTo(self, point: Any) -> None:
        self.path.lineTo(*self._at(point))

    def _curveToOne(self, first: Any, second: Any, point: Any) -> None:
        self.path.cubicTo(*self._at(first), *self._at(second), *self._at(point))

    def _qCurveToOne(self, control: Any, point: Any) -> None:
        self.path.quadTo(*self._at(control), *self._at(point))

    def _closePath(self) -> None:
        self.path.close()


def glyphs_path(glyphs: Iterable[tuple[tuple[Path, Axes], int, float, float]]) -> skia.Path:
    """Outlines of glyphs (typeface, glyph, origin on the baseline) as one, an em being 1000 units, y down."""
    pen = _PathPen()
    for key, glyph, x, y in glyphs:
        result = typeface(*key)
        pen.scale, pen.origin = result.scale, (x, y)
        result.font.draw_glyph_with_pen(glyph, pen)
    # Parts of a letter overlap in many typefaces: an outline would show where.
    return skia.Simplify(pen.path.detach())


@cached
def glyph_path(path: Path, axes: Axes, glyph: int) -> skia.Path:
    """The outline of a glyph about its origin on the baseline, an em being 1000 units, y down."""
    return glyphs_path([((path, axes), glyph, 0.0, 0.0)])
