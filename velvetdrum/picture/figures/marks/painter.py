"""Marks and ink onto the canvas."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from velvetdrum.picture.figures.marks.marks import Marks
from velvetdrum.picture.figures.paint.fields import Reach, ink_colours
from velvetdrum.picture.figures.paint.paint import Ink
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, common


def paint_marks(
    canvas: Canvas,
    marks: Sequence[Marks],
    ink: Ink,
    reach: Reach,
    *,
    softness: float = 0.0,
    one_level: bool = False,
) -> None:
    """Draw marks in the colours of the ink.

    `softness` is the width in pixels over which edges fade. `one_level`: each mark has one level (a segment, a dot),
    so that paint by level gives it one colour.
    """
    shown = [(part, part.box) for part in marks]
    boxes = [box for _, box in shown if box is not None]
    if not boxes or ink.opacity <= 0:
        return
    parts = [part for part, box in shown if box is not None]
    single = ink.even or (
        all(len(part.along) for part in parts) and (ink.by_item or (one_level and ink.paint == "level"))
    )
    # Bars on a bend may overlap: where they are translucent and of one colour, they are drawn as one.
    overlap = ink.opacity < 1 and ink.even and (len(parts) > 1 or reach.ground.form != "line")
    if single and softness <= 0 and not overlap:
        surface = canvas.surface(_around(boxes))
        for part in parts:
            part.fill(surface, _words(part, ink))
        return
    grown = softness * 1.5
    box = _around(boxes).grown(grown)
    if ink.even:
        canvas.tint(parts, premultiplied(ink), box, softness)
        return
    area = _area(canvas, reach)
    if area[2] <= area[0] or area[3] <= area[1]:
        return
    canvas.reveal(parts, ink_colours(ink, reach, area), box, ink.opacity, softness)


def _around(boxes: Sequence[Box]) -> Box:
    """The box that holds all of them, and a pixel more."""
    return Box(
        min(box.left for box in boxes) - 1,
        min(box.top for box in boxes) - 1,
        max(box.right for box in boxes) + 1,
        max(box.bottom for box in boxes) + 1,
    )


def premultiplied(ink: Ink) -> int:
    """The one colour of an even ink as a premultiplied word."""
    opacity = ink.opacity * float(np.min(ink.solid_along(np.zeros(1))))
    red, green, blue = np.rint(ink.along(np.zeros(1))[0] * 255 * opacity).astype(int).tolist()
    return round(255 * opacity) << 24 | red << 16 | green << 8 | blue


def _words(part: Marks, ink: Ink) -> list[int]:
    """Colours of the marks of one kind, as 0xaarrggbb."""
    along = part.along if len(part.along) else np.zeros(1)
    level = part.level if len(part.level) else np.zeros(1)
    rgb = np.rint(ink.at_level(along, level) * 255).astype(np.int64)
    alpha = np.rint(np.full(len(rgb), ink.opacity) * ink.solid_at_level(along, level) * 255).astype(np.int64) << 24
    words = alpha | rgb[:, 0] << 16 | rgb[:, 1] << 8 | rgb[:, 2]
    count = getattr(part, "lines", None)
    return words.tolist() * len(count) if count is not None and len(words) == 1 else words.tolist()


def _area(canvas: Canvas, reach: Reach) -> tuple[int, int, int, int]:
    """The pixels that a figure can ever cover: the field is worked out there, and kept."""
    box = Box(*reach.ground.outline.bounds).grown(max(reach.out, reach.inward) + 0.06 * canvas.short + 4)
    # On a grid of 16 pixels, so that a base shape that moves a little keeps its field's size.
    left, top = math.floor(box.left / 16) * 16, math.floor(box.top / 16) * 16
    right, bottom = math.ceil(box.right / 16) * 16, math.ceil(box.bottom / 16) * 16
    return common((left, top, right, bottom), canvas.area)
