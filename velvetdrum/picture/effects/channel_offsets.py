"""Channel offsets: red, green and blue drift apart."""

from __future__ import annotations

from typing import Any, ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, number
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.scene.effects import effect_kind


@effect_kind("channel-offsets", "Channel offsets")
class ChannelOffsets(DrawnEffect):
    """Moves red and blue apart, along a direction or away from the middle."""

    family: ClassVar[str] = "fault"
    summary: ClassVar[str] = "Channel offsets|{amount}"

    amount: float = number(0.8, lo=0, hi=30, unit="%", step=0.05, group="effect", help="How far, of the short side.")
    way: str = choice(
        "along",
        {"along": "Along a direction", "out": "Outward"},
        group="effect",
        label="Direction",
        help="Whether channels part along one direction, or outward from the centre.",
    )
    angle: float = degrees(0, group="effect", help="Where red goes: 0 is to the right.", when=("way", ("along",)))
    green: float = number(
        0,
        lo=-100,
        hi=100,
        unit="%",
        step=1,
        group="effect",
        help="How far green goes, of the way of red.",
        advanced=True,
    )

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self.amount * view.short / 100)) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        view, by = context.view, self.amount * context.view.short / 100
        if image.empty or by < 1e-3:
            return image
        area = common(grown(image.bounds, self.margin(view)), context.wanted)
        if is_empty(area):
            return image.within(area)
        size = (area[2] - area[0], area[3] - area[1])
        fills = common(image.bounds, view.frame) == view.frame
        shown = image.within(view.frame) if fills else image
        border = cv2.BORDER_REPLICATE if fills else cv2.BORDER_CONSTANT
        planes: list[Any] = []
        alphas: list[Any] = []
        for channel, share in ((0, -1.0), (1, self.green / 100), (2, 1.0)):
            place = self._place(view, share * by)
            place[:, 2] += place[:, :2] @ (shown.left + 0.5, shown.top + 0.5) - (area[0] + 0.5, area[1] + 0.5)
            for number_, result in ((channel, planes), (3, alphas)):
                if number_ == 3 and fills:
                    continue
                plane = cv2.extractChannel(shown.pixels, number_)
                result.append(cv2.warpAffine(plane, place, size, flags=cv2.INTER_LINEAR, borderMode=border))
        # There is as much of it as any channel has.
        alpha = np.full(size[::-1], 255, np.uint8) if fills else np.maximum(np.maximum(alphas[0], alphas[1]), alphas[2])
        return LayerImage(area[0], area[1], np.asarray(cv2.merge([*planes, alpha]), np.uint8))

    def _place(self, view: Viewport, by: float) -> np.ndarray:
        if self.way == "along":
            angle = np.deg2rad(self.angle)
            return np.array([[1, 0, by * np.cos(angle)], [0, 1, by * np.sin(angle)]])
        scale = 1 + by / (view.short / 2)
        return np.array([[scale, 0, view.width / 2 * (1 - scale)], [0, scale, view.height / 2 * (1 - scale)]])
