"""Long shadow: the layer's form drawn out along a direction, fading."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import colour, number
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Coverage
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.silhouette import coloured, cover_of, over
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.scene.effects import effect_kind


@effect_kind("long-shadow", "Long shadow")
class LongShadow(DrawnEffect):
    """Draws the layer's form out along a direction, in one colour."""

    family: ClassVar[str] = "edge"
    summary: ClassVar[str] = "Long shadow|{distance}"

    distance: float = number(
        30, lo=0, hi=300, unit="%", step=1, group="effect", help="How long it is, of the short side."
    )
    angle: float = degrees(45, group="effect", help="Where it falls: 90 is down.")
    solid: float = percent(55, step=1, label="Opacity", group="effect", help="How dense it is.")
    fade: float = percent(100, step=1, group="effect", help="How much fainter it is at its end.")
    colour: str = colour("#120a10", help="Colour of the effect.")

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self.distance * view.short / 100)) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        far = self.distance * context.view.short / 100
        if image.empty or far < 1:
            return image
        margin = self.margin(context.view)
        area = common(grown(image.bounds, margin), grown(context.wanted, margin))
        shown = common(area, context.wanted)
        if is_empty(shown):
            return image.within(shown)
        angle = np.deg2rad(self.angle)
        way = float(np.cos(angle)), float(np.sin(angle))
        cover = _drawn_out(cover_of(image, area), far, way, self.fade / 100)
        lies = LayerImage(area[0], area[1], coloured(cover, self.colour, self.solid / 100))
        return LayerImage(shown[0], shown[1], over(image, lies, shown))


def _drawn_out(cover: Coverage, far: float, way: tuple[float, float], fade: float) -> Coverage:
    """The densest of a form's places along a direction, each fainter; by doubling. What is `far` away has lost `fade`:
    fades add up, so that they do so along the whole way."""
    steps = max(1, int(np.ceil(np.log2(far))) + 1)
    size = (cover.shape[1], cover.shape[0])
    out = cover.astype(np.float32)
    for step in range(steps):
        by = far / 2 ** (steps - step)
        place = np.array([[1, 0, by * way[0]], [0, 1, by * way[1]]])
        moved = cv2.warpAffine(out, place, size, flags=cv2.INTER_LINEAR)
        out = np.maximum(out, moved - np.float32(255 * fade * by / far))
    return np.asarray(cv2.convertScaleAbs(np.maximum(out, 0)), np.uint8)
