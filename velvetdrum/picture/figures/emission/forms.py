"""What particles are drawn with: forms, letters and pictures, each in white or in its own colours."""

from __future__ import annotations

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.media.pictures import small
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.typesetting.shaping import text_outline

_SIDE = 96
_PICTURE = 256


@cached
def letter_picture(letter: str, typeface: str) -> Pixels:
    """A letter in white on nothing, 96 pixels on its longer side, premultiplied."""
    outline = text_outline(letter, typeface)
    left, top, right, bottom = outline.bounds
    scale = (_SIDE - 2) / max(right - left, bottom - top, 1e-6)
    size = (max(int(np.ceil((right - left) * scale)) + 2, 3), max(int(np.ceil((bottom - top) * scale)) + 2, 3))
    builder = skia.PathBuilder()
    for piece in outline.pieces:
        points = (piece.points - (left, top)) * scale + 1
        builder.addPolygon([skia.Point(*point) for point in points.tolist()], True)
    pixels: NDArray[np.uint8] = np.zeros((size[1], size[0], 4), np.uint8)
    surface = skia.Surface(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
    surface.getCanvas().drawPath(builder.detach(), skia.Paint(AntiAlias=True, Color=0xFFFFFFFF))
    del surface
    return pixels


@cached
def stored_picture(path: str) -> Pixels:
    """A stored picture, 256 pixels on its longer side at the most, premultiplied."""
    return small(path, _PICTURE)
