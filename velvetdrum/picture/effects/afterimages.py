"""Afterimages: earlier pictures of the layer behind it."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, colour, number, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect import DrawnEffect, ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.silhouette import tinted
from velvetdrum.picture.raster.transforms import transformed
from velvetdrum.picture.raster.viewport import Viewport, around, common, is_empty
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("afterimages", "Afterimages")
class Afterimages(DrawnEffect):
    """Shows the layer as it was before, again and again, each time fainter."""

    family: ClassVar[str] = "time"
    summary: ClassVar[str] = "Afterimages|{count}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "times"})
    designs: ClassVar[tuple[Design, ...]] = (
        Design("time", "Afterimages", {}),
        Design("time", "Growing echo", {"count": 6, "scale": 108, "fade": 30, "step_ms": 60}),
        Design("time", "Rising smoke", {"count": 10, "move_y": -1.4, "fade": 22, "tint": 60, "colour": "#a99bff"}),
    )

    count: int = whole(6, lo=1, hi=16, group="effect", help="How many there are.")
    unit: str = choice("ms", {"ms": "Time", "beats": "Beats"}, label="Step in", group="effect", help="Unit of a step.")
    step_ms: float = number(
        80,
        lo=4,
        hi=2000,
        unit="ms",
        step=1,
        label="Step",
        group="effect",
        help="Time from one copy to the next.",
        when=("unit", ("ms",)),
    )
    step_beats: float = number(
        0.25,
        lo=0.0625,
        hi=8,
        unit="beats",
        step=0.0625,
        label="Step",
        group="effect",
        help="Time from one copy to the next.",
        when=("unit", ("beats",)),
    )
    fade: float = percent(35, step=1, group="effect", help="How much fainter each is.")
    mode: str = choice(
        "normal",
        {"normal": "Normal", "plus-lighter": "Plus-lighter", "screen": "Screen"},
        label="Mode",
        group="effect",
        help="How the copies are blended with each other.",
    )
    scale: float = number(
        100, lo=20, hi=200, unit="%", step=0.5, group="effect", help="Size of each copy, of the one after it."
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
    move_x: float = number(
        0,
        lo=-50,
        hi=50,
        unit="%",
        label="Offset X",
        group="effect",
        help="Offset X from copy to copy, as a share of the frame's short side.",
    )
    move_y: float = number(
        0,
        lo=-50,
        hi=50,
        unit="%",
        label="Offset Y",
        group="effect",
        help="Offset Y from copy to copy, as a share of the frame's short side.",
    )
    tint: float = percent(0, step=1, group="effect", help="How far they take the colour below.")
    colour: str = colour("#a99bff", help="Colour of tinted ones.")

    def steps_s(self, context: EffectContext) -> list[float]:
        """How many seconds ago each is, the latest first; none from before the project began."""
        if self.unit == "ms":
            result = [self.step_ms / 1000 * number_ for number_ in range(1, self.count + 1)]
        else:
            grid = context.moment.beats
            if grid is None:
                result = [self.step_beats * 0.5 * number_ for number_ in range(1, self.count + 1)]
            else:
                beat = grid.beat_at(np.array([context.time_s]))[0]
                times = grid.time_of(beat - self.step_beats * np.arange(1, self.count + 1))
                result = [context.time_s - float(time) for time in times]
        return [seconds for seconds in result if seconds <= context.time_s + 1e-9]

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        pictures: list[tuple[LayerImage, float]] = []
        area: Area = image.within(context.wanted).bounds
        for number_, seconds in enumerate(self.steps_s(context), 1):
            share = (1 - self.fade / 100) ** number_
            if share < 1 / 512:
                break
            earlier = self._placed(context.earlier(seconds), context.view, number_, context.wanted)
            earlier = earlier.within(context.wanted)
            if not earlier.empty:
                pictures.append((earlier, share))
                area = around(area, earlier.bounds)
        if not pictures or is_empty(area):
            return image
        out = np.zeros((area[3] - area[1], area[2] - area[0], 4), np.uint8)
        for earlier, share in reversed(pictures):
            self._lay(out, area, self._tinted(earlier), share)
        self._lay(out, area, image.within(area), 1.0)
        return LayerImage(area[0], area[1], out)

    def _lay(self, out: NDArray[np.uint8], area: Area, image: LayerImage, share: float) -> None:
        left, top, right, bottom = common(image.bounds, area)
        if not image.empty:
            part = out[top - area[1] : bottom - area[1], left - area[0] : right - area[0]]
            blend(part, image.pixels, self.mode, None, share)

    def _placed(self, image: LayerImage, view: Viewport, number_: int, wanted: Area) -> LayerImage:
        if (self.scale, self.turn, self.move_x, self.move_y) == (100, 0, 0, 0):
            return image
        scale, angle = (self.scale / 100) ** number_, np.deg2rad(self.turn * number_)
        linear = scale * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        middle = np.array([view.width / 2, view.height / 2])
        place = np.eye(3)
        place[:2, :2] = linear
        place[:2, 2] = middle - linear @ middle + np.array([self.move_x, self.move_y]) / 100 * view.short * number_
        return transformed(image, place, wanted)

    def _tinted(self, image: LayerImage) -> LayerImage:
        if self.tint <= 0:
            return image
        return LayerImage(image.left, image.top, tinted(image.pixels, self.colour, self.tint / 100))
