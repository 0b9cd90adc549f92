"""A mask that is another layer: where that one is solid, or where it is light."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, layer, number
from velvetdrum.picture.bases.mask import DrawnMask, MaskTarget
from velvetdrum.picture.raster.areas import Area, Coverage
from velvetdrum.picture.raster.canvas import softened
from velvetdrum.picture.raster.viewport import grown
from velvetdrum.scene.masks import mask_kind

_LUMA = np.array([[0.0722, 0.7152, 0.2126, 0.0]], np.float32)  # blue, green, red: Rec. BT.709, as CSS Masking says


@mask_kind("layer", "Another layer")
class LayerMask(DrawnMask):
    """Another layer decides what shows. Hide that layer, and it is seen through this one alone."""

    summary: ClassVar[str] = "{source}|by {by}|{join}|{invert}"

    source: str = layer(label="Layer", group="mask", help="The layer that is read.")
    by: str = choice(
        "alpha",
        {"alpha": "Alpha", "luminance": "Luminance"},
        label="Mask type",
        group="mask",
        help="Shows where the other one is solid (alpha), or where it is light (luminance).",
    )
    feather: float = number(
        0, lo=0, hi=60, unit="%", group="mask", help="Width over which its edge fades, of the frame's short side."
    )

    def cover(self, target: MaskTarget, area: Area) -> Coverage:
        left, top, right, bottom = area
        if not self.source:
            return np.full((bottom - top, right - left), 255, np.uint8)
        feather = self.feather * target.canvas.short / 100
        margin = int(np.ceil(feather * 1.5))
        wide = grown(area, margin)
        pixels = target.drawn(self.source, wide)
        # Colours are premultiplied: their luminance is already that of what is seen.
        cover = pixels[..., 3] if self.by == "alpha" else cv2.transform(pixels, _LUMA)
        result = np.ascontiguousarray(cover, np.uint8)
        if feather > 0:
            result = softened(result, feather)
        x, y = left - wide[0], top - wide[1]
        return np.ascontiguousarray(result[y : y + bottom - top, x : x + right - left])
