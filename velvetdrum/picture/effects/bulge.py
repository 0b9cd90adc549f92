"""Bulge: the picture swells about a point, or is pinched, or turned."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import number
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, about_point
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("bulge", "Bulge, pinch")
class Bulge(Bend):
    """Swells or pinches the picture about a point, or twists it."""

    keeps_blur: ClassVar[bool] = True
    summary: ClassVar[str] = "Bulge|{amount}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    radii: ClassVar[tuple[str, ...]] = ("radius",)
    designs: ClassVar[tuple[Design, ...]] = (
        Design("bend", "Bulge", {}),
        Design("bend", "Pinch", {"amount": -60}),
        Design("bend", "Twist", {"amount": 0, "twist": 120}),
    )

    amount: float = number(60, lo=-100, hi=100, unit="%", step=1, group="effect", help="Outward, or inward below 0.")
    twist: float = degrees(0, lo=-1440, hi=1440, group="effect", help="How far its middle turns.")
    x: float = number(
        50, lo=-100, hi=200, unit="%", label="Position X", group="effect", help="Position X of the middle."
    )
    y: float = number(
        50, lo=-100, hi=200, unit="%", label="Position Y", group="effect", help="Position Y of the middle."
    )
    radius: float = number(40, lo=0.1, hi=200, unit="%", group="effect", help="How far it reaches.")

    def reach(self, view: Viewport) -> float | None:
        return 2 * self.radius * view.short / 100

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        radius = self.radius * view.short / 100

        def way(away: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
            inside = np.clip(1 - away / radius, 0, 1)
            # Smooth at the middle and at its edge: a weight that is flat at both.
            weight = inside**2 * (3 - 2 * inside)
            factor = 1 - self.amount / 100 * 0.75 * weight
            return factor, -np.deg2rad(self.twist) * weight

        return about_point(area, (view.x(self.x), view.y(self.y)), radius * 1.001 + 1, way)
