"""Sharpen: what differs from its surroundings differs more."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import number
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.blur import gaussian
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.light import limited
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.scene.effects import effect_kind


@effect_kind("sharpen", "Sharpen")
class Sharpen(DrawnEffect):
    """Makes edges stronger, by an unsharp mask."""

    family: ClassVar[str] = "blur"
    summary: ClassVar[str] = "Sharpen|{amount}"

    amount: float = number(80, lo=0, hi=500, unit="%", step=1, group="effect", help="How much stronger edges become.")
    radius: float = number(
        0.2,
        lo=0.05,
        hi=10,
        unit="%",
        step=0.01,
        group="effect",
        help="Size of the detail that is sharpened, of the short side.",
    )

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self.radius * view.short / 100 * 3)) + 1

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        sigma = max(self.radius * context.view.short / 100, 0.3)
        if image.empty or self.amount <= 0:
            return image
        margin = self.margin(context.view)
        # Edges of the frame are none of the picture.
        framed = cv2.copyMakeBorder(image.pixels, margin, margin, margin, margin, cv2.BORDER_REPLICATE)
        soft = gaussian(np.asarray(framed, np.uint8), sigma)[margin:-margin, margin:-margin]
        share = self.amount / 100
        result = np.asarray(cv2.addWeighted(image.pixels, 1 + share, soft, -share, 0), np.uint8)
        result[..., 3] = image.pixels[..., 3]
        return LayerImage(image.left, image.top, limited(result)).within(context.wanted)
