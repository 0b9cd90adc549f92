"""Pixel blocks: the picture in few, large pixels."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, number
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport, common, is_empty
from velvetdrum.scene.effects import effect_kind


@effect_kind("pixel-blocks", "Pixel blocks")
class PixelBlocks(DrawnEffect):
    """Joins the pixels of a grid of blocks, from the middle of the frame on."""

    family: ClassVar[str] = "bend"
    summary: ClassVar[str] = "Pixel blocks|{size}"

    size: float = number(2.5, lo=0.1, hi=50, unit="%", group="effect", help="How large a block is, of the short side.")
    form: str = choice("mean", {"mean": "Mean", "middle": "Middle pixel"}, group="effect", help="What a block shows.")

    def margin(self, view: Viewport) -> int:
        return self._side(view)

    def _side(self, view: Viewport) -> int:
        return max(1, round(self.size * view.short / 100))

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        view, side = context.view, self._side(context.view)
        if image.empty or side < 2:
            return image
        # Whole blocks about what there is; one has its corner in the middle of the frame.
        x0, y0 = view.width // 2, view.height // 2
        left, top = x0 - -(-(x0 - image.left) // side) * side, y0 - -(-(y0 - image.top) // side) * side
        columns, rows = -(-(image.bounds[2] - left) // side), -(-(image.bounds[3] - top) // side)
        area = (left, top, left + columns * side, top + rows * side)
        whole = image.spread(area)
        if view.frame[0] > left or view.frame[1] > top or view.width < area[2] or view.height < area[3]:
            # Blocks at the frame's edges are made of what lies inside.
            inside = common(area, view.frame)
            if not is_empty(inside) and common(image.bounds, view.frame) == image.bounds:
                part = whole[inside[1] - top : inside[3] - top, inside[0] - left : inside[2] - left]
                sides = (inside[1] - top, area[3] - inside[3], inside[0] - left, area[2] - inside[2])
                whole = np.asarray(cv2.copyMakeBorder(part, *sides, cv2.BORDER_REFLECT), np.uint8)
        if self.form == "mean":
            small = np.asarray(cv2.resize(whole, (columns, rows), interpolation=cv2.INTER_AREA), np.uint8)
        else:
            small = np.ascontiguousarray(whole[side // 2 :: side, side // 2 :: side])
        large = cv2.resize(small, (columns * side, rows * side), interpolation=cv2.INTER_NEAREST)
        return LayerImage(left, top, np.asarray(large, np.uint8)).within(context.wanted)
