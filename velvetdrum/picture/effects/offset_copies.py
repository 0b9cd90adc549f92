"""Offset copies: the layer behind itself again and again, each a step further."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import colour, number, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.silhouette import tinted
from velvetdrum.picture.raster.transforms import reached
from velvetdrum.picture.raster.viewport import Viewport, common, is_empty
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("offset-copies", "Offset copies")
class OffsetCopies(DrawnEffect):
    """Lays copies of the layer behind it, each moved, scaled, turned and faded a step more."""

    family: ClassVar[str] = "edge"
    summary: ClassVar[str] = "Offset copies|{count}"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("edge", "Offset copies", {}),
        Design("edge", "Hard offset", {"count": 1, "fade": 0, "tint": 100, "move_x": 1.2, "move_y": 1.2}),
    )

    count: int = whole(5, lo=1, hi=40, group="effect", help="How many there are.")
    move_x: float = number(
        1.5,
        lo=-100,
        hi=100,
        unit="%",
        label="Offset X",
        group="effect",
        help="Offset X from copy to copy, as a share of the frame's short side.",
    )
    move_y: float = number(
        1.5,
        lo=-100,
        hi=100,
        unit="%",
        label="Offset Y",
        group="effect",
        help="Offset Y from copy to copy, as a share of the frame's short side.",
    )
    scale: float = number(
        100, lo=10, hi=300, unit="%", step=0.5, group="effect", help="Size of each to the one before."
    )
    turn: float = number(
        0,
        lo=-180,
        hi=180,
        unit="°",
        group="effect",
        label="Rotation",
        help="Angle between a copy and the one before it.",
    )
    fade: float = percent(30, step=1, group="effect", help="How much fainter each is.")
    tint: float = percent(0, step=1, group="effect", help="How far they take the colour below.")
    colour: str = colour("#ff7a66", help="Colour of tinted copies.")

    def margin(self, view: Viewport) -> int:
        far = self.count * np.hypot(self.move_x, self.move_y) / 100 * view.short
        return int(np.ceil(min(far, 4 * view.width))) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        view, here = context.view, image.trimmed()
        if here.empty:
            return here
        places = [self._place(view, step) for step in range(1, self.count + 1)]
        area = here.bounds
        for place in places:
            box = reached(place, here.bounds, 1)
            area = (min(area[0], box[0]), min(area[1], box[1]), max(area[2], box[2]), max(area[3], box[3]))
        area = common(area, context.wanted)
        if is_empty(area):
            return here.within(area)
        pixels = here.pixels
        if self.tint > 0:
            pixels = tinted(pixels, self.colour, self.tint / 100)
        out = np.zeros((area[3] - area[1], area[2] - area[0], 4), np.uint8)
        for step in range(self.count, 0, -1):
            share = (1 - self.fade / 100) ** step
            if share < 1 / 512:
                continue
            place = places[step - 1].copy()
            place[:2, 2] += place[:2, :2] @ (here.left + 0.5, here.top + 0.5) - (area[0] + 0.5, area[1] + 0.5)
            copy = cv2.warpAffine(pixels, place[:2], (out.shape[1], out.shape[0]), flags=cv2.INTER_LINEAR)
            blend(out, np.asarray(copy, np.uint8), opacity=share)
        top = here.within(area)
        if not top.empty:
            left, upper, right, lower = top.bounds
            blend(out[upper - area[1] : lower - area[1], left - area[0] : right - area[0]], top.pixels)
        return LayerImage(area[0], area[1], out)

    def _place(self, view: Viewport, step: int) -> NDArray[np.float64]:
        """Where the copy of a step lies: scaled and turned about the frame's middle, then moved; shape (3, 3)."""
        scale, angle = (self.scale / 100) ** step, np.deg2rad(self.turn * step)
        linear = scale * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        middle = np.array([view.width / 2, view.height / 2])
        move = np.array([self.move_x, self.move_y]) / 100 * view.short * step
        out = np.eye(3)
        out[:2, :2] = linear
        out[:2, 2] = middle - linear @ middle + move
        return out
