"""Soft blur: a Gaussian, as the blur of Filter Effects."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, number
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area, Pixels
from velvetdrum.picture.raster.blur import gaussian
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.scene.effects import effect_kind

_SEEN = 3.0
"""Standard deviations from which on a Gaussian is left out: less than half a level of 255 is beyond."""


@effect_kind("soft-blur", "Soft blur")
class SoftBlur(DrawnEffect):
    """Blurs the layer evenly in all directions."""

    family: ClassVar[str] = "blur"
    summary: ClassVar[str] = "Soft blur|{radius}"

    radius: float = number(
        1.5,
        lo=0,
        hi=20,
        unit="%",
        step=0.1,
        group="effect",
        help="Standard deviation of the blur, of the frame's short side.",
    )
    edges: str = choice(
        "hold",
        {"hold": "Duplicate", "clear": "None"},
        label="Edge mode",
        group="effect",
        help="What fills the frame goes on beyond its edges, or it fades toward them.",
        advanced=True,
    )

    def _sigma(self, view: Viewport) -> float:
        return self.radius * view.short / 100

    def blur_sigma(self, view: Viewport, before: float) -> float:
        return float(np.hypot(before, self._sigma(view)))

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self._sigma(view) * _SEEN)) + 1 if self.radius > 0 else 0

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        sigma, margin = self._sigma(context.view), self.margin(context.view)
        if sigma < 0.05 or image.empty:
            return image
        area = common(grown(image.bounds, margin), grown(context.wanted, margin))
        shown = common(area, context.wanted)
        if self.edges == "hold":
            # The small copy that it is done on sees a cell farther, where nothing would darken the edge.
            area = grown(area, int(np.ceil(sigma)))
        if is_empty(shown):
            return LayerImage(shown[0], shown[1], np.zeros((0, 0, 4), np.uint8))
        pixels = image.spread(area)
        if self.edges == "hold":
            pixels = _held(pixels, area, image.bounds, context.view)
        blurred = LayerImage(area[0], area[1], gaussian(pixels, sigma))
        return blurred.within(shown)


def _held(pixels: Pixels, area: Area, bounds: Area, view: Viewport) -> Pixels:
    """Pixels of an area with a picture that ends at the frame's edges gone on beyond them, as its last pixels are."""
    sides = [bounds[0] == 0, bounds[1] == 0, bounds[2] == view.width, bounds[3] == view.height]
    beyond = [
        max(bounds[0] - area[0], 0),
        max(bounds[1] - area[1], 0),
        max(area[2] - bounds[2], 0),
        max(area[3] - bounds[3], 0),
    ]
    left, top, right, bottom = (width if ends else 0 for ends, width in zip(sides, beyond, strict=True))
    if not (left or top or right or bottom):
        return pixels
    height, width = pixels.shape[:2]
    inner = pixels[top : height - bottom, left : width - right]
    return np.asarray(cv2.copyMakeBorder(inner, top, bottom, left, right, cv2.BORDER_REPLICATE), np.uint8)
