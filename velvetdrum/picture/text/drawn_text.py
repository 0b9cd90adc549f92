"""A block of text drawn at a time: its plate, its parts in motion, the word that is sung or spoken now."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.drawn_layer import RenderContext
from velvetdrum.picture.paint.paint import Ink
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.text.glyph_marks import Glyphs
from velvetdrum.picture.text.lettering import Block, Lettered
from velvetdrum.picture.text.text_motion import MovedParts, Stretch

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
        return super().margin(size) + size * (moved + 1.2 * max(self.swell, 0)) / 100


def draw_soft(canvas: Canvas, glyphs: Glyphs, ink: Ink, softness: float) -> None:
    """Glyphs out of focus, in the colour at the start of an ink, each as solid as it is."""
    box = glyphs.box
    if box is None:
        return
    red, green, blue = np.rint(ink.along(np.full(1, 0.5))[0] * 255 * ink.opacity).astype(int).tolist()
    word = round(255 * ink.opacity) << 24 | red << 16 | green << 8 | blue
    canvas.tint([glyphs], word, box.grown(3 * softness), 2 * softness)


def draw_swept(canvas: Canvas, glyphs: Glyphs, ink: Ink, share: float, *, backward: bool = False) -> None:
    """Glyphs shown from their left edge, or from their right where they run `backward`, as far as a share says."""
    box = glyphs.box
    if box is None or share <= 0:
        return
    area = box.pixels(canvas.area)
    if area[2] <= area[0] or area[3] <= area[1]:
        return
    mask = canvas.mask([glyphs], area)
    inner_left, inner_right = box.left + 1, box.right - 1
    width = max(inner_right - inner_left, 1e-3)
    columns = np.arange(area[0], area[2]) + 0.5
    # Half an em of soft edge would smear letters; a pixel and a half keeps the sweep smooth between frames.
    if backward:
        shown = np.clip((columns - (inner_right - share * width)) / 1.5 + 0.5, 0.0, 1.0)
    else:
        shown = np.clip((inner_left + share * width - columns) / 1.5 + 0.5, 0.0, 1.0)
    mask = np.rint(mask * shown[None]).astype(np.uint8)
    red, green, blue = np.rint(ink.along(np.full(1, 0.5))[0] * 255).astype(int).tolist()
    plain = np.empty((*mask.shape, 4), np.uint8)
    plain[:] = (blue, green, red, 255)
    canvas.blend(plain, area, mask=mask, opacity=ink.opacity)


@dataclass(frozen=True)
class WordTimes:
    """How far each word of a block has been said, 0 to 1, and the place of the one that is said now; -1 for none."""

    said: NDArray[np.float64]
    now: int


def grown(glyphs: Glyphs, chosen: NDArray[np.bool_], factor: float) -> Glyphs:
    """Glyphs of which some are larger, about the middle of them all."""
    if not chosen.any():
        return glyphs
    middle_x = float((glyphs.x[chosen].min() + glyphs.x[chosen].max()) / 2)
    x = np.where(chosen, middle_x + (glyphs.x - middle_x) * factor, glyphs.x)
    return replace(glyphs, x=x, scale=np.where(chosen, glyphs.scale * factor, glyphs.scale))
