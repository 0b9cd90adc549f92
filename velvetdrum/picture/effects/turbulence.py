"""Turbulence: pixels are moved by smooth noise."""

from __future__ import annotations

from collections.abc import Hashable
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import number, rate, whole
from velvetdrum.declare.vocabulary import seed
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect import ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.noise import Noise
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, coarse
from velvetdrum.scene.effects import effect_kind

_CELLS = 4
"""Points of the map in the smallest cloud, at the least."""


@effect_kind("turbulence", "Turbulence")
class Turbulence(Bend):
    """Moves pixels about as heat or moving water does."""

    keeps_blur: ClassVar[bool] = True
    summary: ClassVar[str] = "Turbulence|{amount}|{scale}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "clock"})

    amount: float = number(3, lo=0, hi=60, unit="%", group="effect", help="How far it moves pixels, of the short side.")
    scale: float = number(
        40, lo=2, hi=300, unit="%", label="Cloud size", group="effect", help="Size of the largest swirls."
    )
    detail: int = whole(2, lo=1, hi=5, group="effect", help="How many sizes of swirls there are, each half as large.")
    speed: float = rate(0.25, lo=0, hi=4, unit="Hz", step=0.01, group="effect", help="How fast they change.")
    seed: int = seed(of="other swirls", group="effect")

    @property
    def still(self) -> bool:
        return (self.speed == 0 or self.amount == 0) and not self.integrals

    def reach(self, view: Viewport) -> float | None:
        return self.amount * view.short / 100 * 2

    def state_now(self, context: EffectContext) -> Hashable | None:
        return self.state() if self.still else None

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        amount = self.amount * view.short / 100
        changes = self.integral("speed", context.time_s)
        smallest = self.scale / 100 * view.short / 2 ** (self.detail - 1)
        step = max(1, min(int(smallest / _CELLS), 16))
        noises = [Noise(self.seed * 2 + side, self.detail) for side in (0, 1)]

        def moved(x: NDArray[np.float64], y: NDArray[np.float64]) -> Maps:
            cells = 100 / self.scale / view.short
            across, down = (noise.at(x[0] * cells, y[:, 0] * cells, changes) for noise in noises)
            return (
                (x + np.clip(across, -2, 2) * amount).astype(np.float32),
                (y + np.clip(down, -2, 2) * amount).astype(np.float32),
            )

        return coarse(area, step, moved)
