"""Shake: the picture trembles, by noise or on hits."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, number, rate
from velvetdrum.declare.vocabulary import percent, seed
from velvetdrum.picture.bases.effect import DrawnEffect, ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.noise import wander
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.picture.raster.warp import BORDERS, EDGES
from velvetdrum.scene.effects import effect_kind


@effect_kind("shake", "Shake")
class Shake(DrawnEffect):
    """Moves and turns the picture by smooth noise, as a hand-held camera does; a patch makes it tremble on hits."""

    family: ClassVar[str] = "bend"
    summary: ClassVar[str] = "Shake|{amount}|{rate}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "clock"})

    amount: float = number(1, lo=0, hi=30, unit="%", group="effect", help="How far it moves, of the short side.")
    turn: float = number(
        0.4,
        lo=0,
        hi=45,
        unit="°",
        group="effect",
        label="Rotation",
        help="Largest angle by which the picture is turned.",
    )
    grow: float = percent(0, group="effect", help="How much it grows and shrinks.")
    rate: float = rate(7, lo=0.05, hi=40, unit="Hz", curve="log", group="effect", help="How often it changes its way.")
    seed: int = seed(of="another way", group="effect")
    edges: str = choice(
        "mirror", EDGES, label="Edge mode", group="effect", help="What is seen beyond the frame.", advanced=True
    )

    def margin(self, view: Viewport) -> int:
        far = self.amount / 100 * view.short + (np.deg2rad(self.turn) + self.grow / 100) * max(view.width, view.height)
        return int(np.ceil(far)) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        view, changes = context.view, self.integral("rate", context.time_s)
        if image.empty or (self.amount, self.turn, self.grow) == (0, 0, 0):
            return image
        across, down, turned, larger = (wander(self.seed * 4 + n, changes) for n in range(4))
        angle, scale = np.deg2rad(self.turn * turned), 1 + self.grow / 100 * larger * 0.5
        cos, sin = np.cos(angle) * scale, np.sin(angle) * scale
        x0, y0 = view.width / 2, view.height / 2
        by = self.amount * view.short / 100
        place = np.array([[cos, -sin, x0 + across * by], [sin, cos, y0 + down * by]])
        place[:, 2] -= place[:, :2] @ (x0, y0)
        fills = common(image.bounds, view.frame) == view.frame
        area = context.wanted if fills else common(grown(image.bounds, self.margin(view)), context.wanted)
        if is_empty(area):
            return image.within(area)
        # What reaches beyond the frame is left out where the frame's edges go on.
        shown = image.within(view.frame) if fills else image
        place[:, 2] += place[:, :2] @ (shown.left + 0.5, shown.top + 0.5) - (area[0] + 0.5, area[1] + 0.5)
        pixels = cv2.warpAffine(
            shown.pixels,
            place,
            (area[2] - area[0], area[3] - area[1]),
            flags=cv2.INTER_LINEAR,
            borderMode=BORDERS[self.edges] if fills else cv2.BORDER_CONSTANT,
        )
        return LayerImage(area[0], area[1], np.asarray(pixels, np.uint8))
