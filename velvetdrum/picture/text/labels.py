"""Small print on figures: band names, levels on a scale."""

from __future__ import annotations

from collections.abc import Sequence

import skia

from velvetdrum.limits.cache import cached
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.paths import polygons
from velvetdrum.picture.typesetting.shaping import text_outline

_TYPEFACE = "work-sans-medium"


def draw_labels(
    canvas: Canvas, labels: Sequence[tuple[str, float, float]], size: float, colour: str, opacity: float
) -> None:
    """Texts with their middles at places in pixels, `size` pixels an em, in one colour (#rrggbb).

    Drawn as outlines, without hinting: equal on every machine, whatever typefaces it has.
    """
    brush = skia.Paint(AntiAlias=True, Color=round(opacity * 255) << 24 | int(colour[1:], 16))
    surface = canvas.surface()
    for text, x, y in labels:
        path, middle = _label(text)
        surface.save()
        # Figures are about 0.66 em tall in this typeface.
        surface.translate(x, y + 0.33 * size)
        surface.scale(size / 1000.0, size / 1000.0)
        surface.translate(-middle, 0.0)
        surface.drawPath(path, brush)
        surface.restore()


@cached
def _label(text: str) -> tuple[skia.Path, float]:
    """A text's outlines, an em being 1000 units, and the middle of its width."""
    path = polygons([(piece.points, True) for piece in text_outline(text, _TYPEFACE).pieces])
    box = path.getBounds()
    return path, (box.left() + box.right()) / 2
