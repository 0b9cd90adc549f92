"""A block of text drawn at a time: its plate, its parts in motion, the word that is sung or spoken now."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.marks.painter import premultiplied
from velvetdrum.picture.figures.paint.paint import Ink
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box
from velvetdrum.picture.text.glyph_marks import Glyphs, boxes_of_words, coverage, word_boxes
from velvetdrum.picture.text.lettering import Block, Lettered
from velvetdrum.picture.text.text_motion import MovedParts, Stretch
from velvetdrum.picture.typesetting.layout import Layout

_BLURS = 4
"""Steps of blur that glyphs in motion are drawn in."""


class MovedText(MovedParts, Lettered):
    """Text with a look and with parts in motion."""

    def draw_block(
        self, canvas: Canvas, block: Block, at: RenderContext, when: Stretch, ink: Ink | None = None
    ) -> Glyphs:
        """Draw a block as it is at a time; gives its glyphs as they were drawn."""
        glyphs, blur = self.in_motion(block.glyphs(), block.layout, block.size, at, when)
        ink = ink or self.ink(canvas, float(at.time))
        if len(glyphs.strengths):
            self.draw_plates(canvas, block, float(np.max(glyphs.strengths)))
        sharp = blur < 0.4
        if sharp.all():
            self.draw_glyphs(canvas, glyphs, block, at, ink)
            return glyphs
        self.draw_glyphs(canvas, glyphs.only(sharp), block, at, ink)
        top = float(blur.max())
        for step in range(_BLURS):
            low, high = max(0.4, top * step / _BLURS), top * (step + 1) / _BLURS
            chosen = (blur >= low) & ((blur < high) if step + 1 < _BLURS else (blur <= high + 1e-9)) & ~sharp
            if chosen.any():
                draw_soft(canvas, glyphs.only(chosen), ink, (low + high) / 2)
        return glyphs

    def margin(self, size: float) -> float:
        """How far from the letters anything is drawn, in pixels."""
        moved = self.distance * (self.enter != "none" or self.leave != "none") + abs(self.lift)
        wider = 25.0 if self.axis_by else 0.0
        return super().margin(size) + size * (moved + 1.2 * max(self.swell, 0) + wider) / 100


def draw_soft(canvas: Canvas, glyphs: Glyphs, ink: Ink, softness: float) -> None:
    """Glyphs out of focus, in the colour at the start of an ink, each as solid as it is."""
    box = glyphs.box
    if box is None:
        return
    red, green, blue = np.rint(ink.along(np.full(1, 0.5))[0] * 255 * ink.opacity).astype(int).tolist()
    word = round(255 * ink.opacity) << 24 | red << 16 | green << 8 | blue
    canvas.tint([glyphs], word, box.grown(3 * softness), 2 * softness)


def draw_words(canvas: Canvas, glyphs: Glyphs, layout: Layout, ink: Ink, shares: NDArray[np.float64]) -> None:
    """Words in another colour, each as far from its beginning as its share says, 0 to 1: from its left edge, or from
    its right where its letters run that way. Letters that are drawn over others keep their edges."""
    if not len(shares) or not (shares > 0).any():
        return
    if glyphs.rest:
        mask, area = coverage(glyphs.rest)
        boxes = word_boxes(glyphs.rest)
    else:
        box = glyphs.box
        area = box.pixels(canvas.area) if box else (0, 0, 0, 0)
        if area[2] <= area[0] or area[3] <= area[1]:
            return
        mask, boxes = canvas.mask([glyphs], area), boxes_of_words(glyphs, layout)
    shown = np.zeros(mask.shape, np.float32)
    columns = np.arange(area[0], area[2], dtype=np.float64) + 0.5
    for word, box, backward in boxes:
        if word < len(shares) and shares[word] > 0:
            low, high = max(int(box.top) - area[1] - 1, 0), max(int(box.bottom) + 2 - area[1], 0)
            part = _shown_columns(columns, box, float(shares[word]), backward)
            np.maximum(shown[low:high], part, out=shown[low:high])
    canvas.tint_mask(np.rint(mask * shown).astype(np.uint8), area, premultiplied(ink))


def _shown_columns(columns: NDArray[np.float64], box: Box, share: float, backward: bool) -> NDArray[np.float32]:
    """How much of each column of pixels is said; the edge between said and not is a pixel and a half wide."""
    left, right = box.left + 0.5, box.right - 0.5
    way = share * (right - left)
    edge = right - way if backward else left + way
    part = np.clip((columns - edge) / 1.5 + 0.5 if backward else (edge - columns) / 1.5 + 0.5, 0.0, 1.0)
    if share >= 1:
        part = np.ones_like(columns)
    return (part * ((columns > box.left - 1) & (columns < box.right + 1))).astype(np.float32)


@dataclass(frozen=True)
class WordTimes:
    """How far each word of a block has been said, 0 to 1, and the place of the one that is said now; -1 for none."""

    said: NDArray[np.float64]
    now: int


def grown(glyphs: Glyphs, chosen: NDArray[np.bool_], factor: float) -> Glyphs:
    """Glyphs of which some are larger, about the middle of them all."""
    if not chosen.any():
        return glyphs
    inked = chosen & (glyphs.boxes[:, 2] > glyphs.boxes[:, 0])
    middle_x = float((glyphs.x[inked].min() + glyphs.x[inked].max()) / 2) if inked.any() else 0.0
    x = np.where(chosen, middle_x + (glyphs.x - middle_x) * factor, glyphs.x)
    return glyphs.changed(x=x, scale=np.where(chosen, glyphs.scale * factor, glyphs.scale))
