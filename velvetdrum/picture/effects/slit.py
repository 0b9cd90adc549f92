"""Slit: rows or columns of the picture from earlier times."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, number, whole
from velvetdrum.picture.bases.effect import DrawnEffect, ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import common, is_empty
from velvetdrum.scene.effects import effect_kind


@effect_kind("slit", "Slit")
class Slit(DrawnEffect):
    """Shows each strip of the picture as it was a while ago, the later the farther along."""

    family: ClassVar[str] = "time"
    summary: ClassVar[str] = "Slit|{strips} strips"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "times"})

    strips: int = whole(12, lo=2, hi=32, group="effect", help="How many there are; each draws the layer once.")
    span: float = number(600, lo=10, hi=5000, unit="ms", step=10, group="effect", help="Age of the last strip.")
    way: str = choice(
        "down",
        {"down": "Down", "up": "Up", "right": "To the right", "left": "To the left", "middle": "From the middle"},
        label="Direction",
        group="effect",
        help="Direction in which the strips are older.",
    )

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        area = common(context.wanted, context.view.frame)
        if is_empty(area):
            return image.within(area)
        width, height = context.view.width, context.view.height
        out = np.zeros((area[3] - area[1], area[2] - area[0], 4), np.uint8)
        rows = self.way in ("down", "up", "middle")
        whole_ = height if rows else width
        for number_ in range(self.strips):
            seconds = self.span / 1000 * number_ / (self.strips - 1)
            if seconds > context.time_s:
                seconds = context.time_s
            picture = image if number_ == 0 else context.earlier(seconds)
            for low, high in self._strips(number_, whole_):
                part = (0, low, width, high) if rows else (low, 0, high, height)
                box = common(common(part, area), picture.bounds)
                if not is_empty(box):
                    target = out[box[1] - area[1] : box[3] - area[1], box[0] - area[0] : box[2] - area[0]]
                    target[:] = picture.within(box).pixels
        return LayerImage(area[0], area[1], out)

    def _strips(self, number_: int, whole_: int) -> list[tuple[int, int]]:
        """The whole pixels of a strip, by its number from the latest one on."""
        edges = np.rint(np.linspace(0, whole_ / 2 if self.way == "middle" else whole_, self.strips + 1)).astype(int)
        low, high = int(edges[number_]), int(edges[number_ + 1])
        if self.way in ("up", "left"):
            return [(whole_ - high, whole_ - low)]
        if self.way == "middle":
            half = whole_ // 2
            return [
                (half + low, half + high + (whole_ % 2 if number_ == self.strips - 1 else 0)),
                (half - high, half - low),
            ]
        return [(low, high)]
