"""Thickness: a flat layer gets sides."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import colour, number
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.silhouette import over, tinted
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.scene.effects import effect_kind


@effect_kind("thickness", "Thickness")
class Thickness(DrawnEffect):
    """Draws the layer out along a direction, as a block with darker sides."""

    family: ClassVar[str] = "edge"
    summary: ClassVar[str] = "Thickness|{distance}"

    distance: float = number(4, lo=0, hi=60, unit="%", group="effect", help="How thick it is, of the short side.")
    angle: float = degrees(60, group="effect", help="Where its sides go: 90 is down.")
    darken: float = percent(55, step=1, group="effect", help="How far sides take the colour below.")
    far: float = percent(
        30, step=1, group="effect", label="Shading", help="How much darker the sides are at their far end."
    )
    shade: str = colour("#120a10", help="What sides are darkened to.")

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self.distance * view.short / 100)) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        far = self.distance * context.view.short / 100
        if image.empty or far < 1:
            return image
        area = common(grown(image.bounds, self.margin(context.view)), grown(context.wanted, self.margin(context.view)))
        shown = common(area, context.wanted)
        if is_empty(shown):
            return image.within(shown)
        angle = np.deg2rad(self.angle)
        sides = _drawn_out(image.spread(area), far, (float(np.cos(angle)), float(np.sin(angle))), self.far / 100)
        sides = tinted(sides, self.shade, self.darken / 100)
        return LayerImage(shown[0], shown[1], over(image, LayerImage(area[0], area[1], sides), shown))


def _drawn_out(pixels: Pixels, far: float, way: tuple[float, float], dim: float) -> Pixels:
    """A picture behind itself again and again along a direction, a pixel apart or less; by doubling, so that it costs
    the logarithm of the distance. The nearer ones lie over the farther ones, which are dimmer."""
    steps = max(1, int(np.ceil(np.log2(far))) + 1)
    size = (pixels.shape[1], pixels.shape[0])
    out = pixels.copy()
    for step in range(steps):
        by = far / 2 ** (steps - step)
        behind = np.asarray(
            cv2.warpAffine(out, np.array([[1, 0, by * way[0]], [0, 1, by * way[1]]]), size, flags=cv2.INTER_LINEAR),
            np.uint8,
        )
        behind[..., :3] = cv2.convertScaleAbs(np.ascontiguousarray(behind[..., :3]), alpha=1 - dim * by / far)
        blend(behind, out)
        out = behind
    return out
