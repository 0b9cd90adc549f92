"""Small print on figures: band names, levels on a scale."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import skia

from velvetdrum.picture.canvas import Canvas
from velvetdrum.picture.shapes.lettering import typeface_file


def draw_labels(
    canvas: Canvas, labels: Sequence[tuple[str, float, float]], size: float, colour: str, opacity: float
) -> None:
    """Texts with their middles at places in pixels, `size` pixels tall, in one colour (#rrggbb)."""
    font = skia.Font(_typeface("work-sans-medium"), size)
    font.setSubpixel(True)
    font.setEdging(skia.Font.Edging.kAntiAlias)
    brush = skia.Paint(AntiAlias=True, Color=round(opacity * 255) << 24 | int(colour[1:], 16))
    surface = canvas.surface()
    for text, x, y in labels:
        # Figures are about 0.66 em tall in this typeface.
        surface.drawString(text, x - font.measureText(text) / 2, y + 0.33 * size, font, brush)


@cache
def _typeface(name: str) -> skia.Typeface:
    return skia.Typeface.MakeFromData(skia.Data.MakeWithCopy(typeface_file(name)))
