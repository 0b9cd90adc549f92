"""Motion blur: what a shutter that stays open for a part of the frame sees, as the mean of sub-frames."""

from __future__ import annotations

from functools import reduce
from typing import ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import number, whole
from velvetdrum.picture.bases.effect import DrawnEffect, ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area, Pixels
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.motion import movement_px
from velvetdrum.picture.raster.viewport import around, is_empty
from velvetdrum.picture.space.placement import matrix
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind

_COUNTS = (4, 6, 8, 12, 16)
_STEP_PX = 2.5
"""Pixels between two sub-frames up to which their mean looks even."""


@effect_kind("shutter", "Motion blur")
class Shutter(DrawnEffect):
    """Blurs what moves, as a camera does whose shutter is open for a part of each frame: exact, and costly."""

    family: ClassVar[str] = "time"
    summary: ClassVar[str] = "Motion blur|{angle}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "times"})
    designs: ClassVar[tuple[Design, ...]] = (
        Design("time", "Motion blur", {}),
        Design("time", "Long shutter", {"angle": 720}),
    )

    angle: float = number(
        180,
        lo=0,
        hi=1440,
        unit="°",
        step=1,
        label="Shutter angle",
        group="effect",
        help="How long the shutter is open: 360 is a whole frame, 180 half of it as in film.",
    )
    phase: float = number(
        -50,
        lo=-100,
        hi=100,
        unit="%",
        step=1,
        label="Shutter phase",
        group="effect",
        help="When it opens, in parts of its open time: -50 has the frame's time in its middle, 0 at its start.",
        advanced=True,
    )
    most: int = whole(
        16,
        lo=4,
        hi=16,
        label="Sub-frames at most",
        group="effect",
        help="From 4 up to so many are drawn, the more the farther things move; nothing more is drawn where all rests.",
    )

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        project = context.moment.project
        if self.angle <= 0 or project is None or is_empty(context.wanted):
            return image
        open_s = self.angle / 360.0 / float(project.rate)
        begin = context.time_s + self.phase / 100.0 * open_s
        # No time outside of the project is looked at.
        first, last = (min(max(at, 0.0), project.length_s) for at in (begin, begin + open_s))
        left, top, right, bottom = context.wanted
        total = np.zeros((bottom - top, (right - left) * 4), np.float32)
        shown: list[Area] = []

        def add(part: LayerImage) -> None:
            part = part.within(context.wanted)
            if part.empty:
                return
            shown.append(part.bounds)
            x, y = part.left - left, part.top - top
            height, width = part.pixels.shape[:2]
            rows = total[y : y + height, x * 4 : (x + width) * 4]
            # Sums of whole numbers below 2^24: exact in any order.
            np.add(rows, np.ascontiguousarray(part.pixels).reshape(height, width * 4), out=rows)

        ends = tuple(self._kept(context, at) for at in (first, last))
        for part in ends:
            add(part)
        if not shown:
            return image.within((left, top, left, top))
        both = around(*shown) if len(shown) > 1 else shown[0]
        opened, closed = (part.spread(both) for part in ends)
        if np.array_equal(opened, closed):
            return LayerImage(both[0], both[1], opened)
        count = self._count(context, (opened, closed), (first, last))
        for index in range(1, count - 1):
            context.look(context.time_s - (first + (last - first) * index / (count - 1)), add)
        area = reduce(around, shown)
        rows = total[area[1] - top : area[3] - top, (area[0] - left) * 4 : (area[2] - left) * 4]
        mean = np.asarray(cv2.convertScaleAbs(rows, alpha=1.0 / count), np.uint8)
        return LayerImage(area[0], area[1], mean.reshape(area[3] - area[1], area[2] - area[0], 4))

    def _kept(self, context: EffectContext, at: float) -> LayerImage:
        """The layer at a time, as far as it is wanted, in memory of its own."""
        result: list[LayerImage] = []

        def keep(part: LayerImage) -> None:
            part = part.within(context.wanted)
            result.append(LayerImage(part.left, part.top, part.pixels.copy()))

        context.look(context.time_s - at, keep)
        return result[0]

    def _count(self, context: EffectContext, ends: tuple[Pixels, Pixels], times: tuple[float, float]) -> int:
        """How many sub-frames: as many as keep two neighbours near each other."""
        far = max(movement_px(*ends), self._placed_px(context, times))
        needed = far / _STEP_PX + 1
        return min(next((count for count in _COUNTS if count >= needed), _COUNTS[-1]), self.most)

    def _placed_px(self, context: EffectContext, times: tuple[float, float]) -> float:
        """How far a corner of the frame is carried by the layer's placing, in pixels."""
        view = context.view
        corners: NDArray[np.float64] = np.array(
            [[0, 0, 1], [view.width, 0, 1], [0, view.height, 1], [view.width, view.height, 1]], float
        ).T
        places = []
        for at in times:
            layer = context.staged(context.time_s - at).layer
            place = matrix(layer, view.width, view.height) @ corners
            places.append(place[:2] / np.maximum(np.abs(place[2]), 1e-9))
        return float(np.hypot(*(places[1] - places[0])).max())
