"""Block slips: blocks of the picture stand in the wrong place."""

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


@effect_kind("block-slips", "Block slips")
class BlockSlips(Bend):
    """Shows blocks of the picture from elsewhere, as a damaged stream does."""

    family: ClassVar[str] = "fault"
    summary: ClassVar[str] = "Block slips|{share}"
    begins: ClassVar[dict[str, object]] = {"edges": "repeat"}
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "clock"})

    share: float = percent(18, step=1, group="effect", help="How many of the blocks slip.")
    amount: float = percent(12, group="effect", help="How far at most, of the short side.")
    width: float = number(14, lo=1, hi=100, unit="%", group="effect", help="How wide a block is, of the short side.")
    height: float = number(4, lo=0.5, hi=100, unit="%", group="effect", help="How high a block is.")
    rate: float = rate(8, lo=0.5, hi=60, unit="/s", step=0.5, group="effect", help="How often they are new.")
    seed: int = seed(of="other blocks", group="effect")

    def reach(self, view: Viewport) -> float | None:
        return self.amount * view.short / 100

    def state_now(self, context: EffectContext) -> None:
        return None

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        x, y = grid(area)
        step = int(np.floor(self.integral("rate", context.time_s) + 1e-6))
        wide, high = self.width * view.short / 100, self.height * view.short / 100
        columns, rows = int(view.width / wide) + 2, int(view.height / high) + 2
        draws = np.random.Generator(np.random.PCG64((self.seed, step))).random((3, rows, columns))
        moved = (draws[0] < self.share / 100) * self.amount * view.short / 100
        across, down = (moved * (draws[n] * 2 - 1) * factor for n, factor in ((1, 1.0), (2, 0.3)))
        cells = (
            np.clip((y / high).astype(int), 0, rows - 1)[:, 0][:, None],
            np.clip((x / wide).astype(int), 0, columns - 1)[0][None, :],
        )
        return as_maps(x - across.astype(np.float32)[cells], y - down.astype(np.float32)[cells], area)
