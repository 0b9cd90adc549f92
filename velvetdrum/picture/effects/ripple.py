"""Ripple: rings that run outward from a point."""

from __future__ import annotations

from collections.abc import Hashable
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import number, rate
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect import ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, about_point
from velvetdrum.scene.effects import effect_kind


@effect_kind("ripple", "Ripple")
class Ripple(Bend):
    """Rings that run outward from a point, as on water."""

    keeps_blur: ClassVar[bool] = True
    summary: ClassVar[str] = "Ripple|{amount}|{wavelength}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "clock"})

    amount: float = number(
        1.2, lo=0, hi=20, unit="%", group="effect", help="How far it moves pixels, of the short side."
    )
    wavelength: float = number(12, lo=0.5, hi=200, unit="%", group="effect", help="From crest to crest.")
    speed: float = rate(0.6, lo=-10, hi=10, unit="Hz", step=0.01, group="effect", help="Crests that pass a second.")
    decay: float = percent(0, step=1, group="effect", help="How much lower each crest is than the one before it.")
    x: float = number(
        50,
        lo=-100,
        hi=200,
        unit="%",
        label="Position X",
        group="effect",
        help="Position X of the point where it begins.",
    )
    y: float = number(
        50,
        lo=-100,
        hi=200,
        unit="%",
        label="Position Y",
        group="effect",
        help="Position Y of the point where it begins.",
    )
    phase: float = degrees(
        0, lo=-3600, hi=3600, group="effect", help="Phase of the wave, which moves its crests.", advanced=True
    )

    @property
    def still(self) -> bool:
        return (self.speed == 0 or self.amount == 0) and not self.integrals

    def reach(self, view: Viewport) -> float | None:
        return self.amount * view.short / 100

    def state_now(self, context: EffectContext) -> Hashable | None:
        return self.state() if self.still else None

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        centre = view.x(self.x), view.y(self.y)
        amount, length = self.amount * view.short / 100, self.wavelength * view.short / 100
        corners = [(x - centre[0], y - centre[1]) for x in (area[0], area[2]) for y in (area[1], area[3])]
        reach = max(float(np.hypot(*corner)) for corner in corners) + 1
        turns = self.integral("speed", context.time_s) + self.phase / 360

        def way(away: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
            crests = away / length
            by = amount * np.sin(2 * np.pi * (crests - turns)) * (1 - self.decay / 100) ** crests
            # At the very middle there is no way outward.
            by *= np.clip(crests * 4, 0, 1)
            return 1 - by / np.maximum(away, 1e-6), np.zeros_like(away)

        return about_point(area, centre, reach, way)
