"""Line jitter: rows of the picture slip to either side."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number, rate
from velvetdrum.declare.vocabulary import percent, seed
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect import ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, as_maps, grid
from velvetdrum.scene.effects import effect_kind


@effect_kind("line-jitter", "Line jitter")
class LineJitter(Bend):
    """Lets rows slip to either side, anew many times a second."""

    family: ClassVar[str] = "fault"
    summary: ClassVar[str] = "Line jitter|{amount}"
    begins: ClassVar[dict[str, object]] = {"edges": "repeat"}
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "clock"})

    amount: float = percent(3, group="effect", help="How far at most, of the short side.")
    height: float = number(0.6, lo=0.1, hi=50, unit="%", group="effect", help="How high a row is, of the short side.")
    share: float = percent(35, step=1, group="effect", help="How many of the rows slip.")
    rate: float = rate(15, lo=0.5, hi=60, unit="/s", step=0.5, group="effect", help="How often they are new.")
    seed: int = seed(of="other rows", group="effect")

    def reach(self, view: Viewport) -> float | None:
        return self.amount * view.short / 100

    def state_now(self, context: EffectContext) -> None:
        return None

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        x, y = grid(area)
        step = int(np.floor(self.integral("rate", context.time_s) + 1e-6))
        rows = int(np.ceil(view.height / (self.height * view.short / 100))) + 2
        draws = np.random.Generator(np.random.PCG64((self.seed, step))).random((2, rows))
        by = np.where(draws[0] < self.share / 100, draws[1] * 2 - 1, 0) * self.amount * view.short / 100
        row = np.clip((y / (self.height * view.short / 100)).astype(int), 0, rows - 1)
        return as_maps(x - by[row].astype(np.float32), y, area)
