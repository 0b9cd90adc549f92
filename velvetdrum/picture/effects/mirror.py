"""Mirror: one side of a line stands for both."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number, whole
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, folded
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("mirror", "Mirror")
class Mirror(Bend):
    """Shows one side of a line on both sides; several lines cross at one point."""

    keeps_blur: ClassVar[bool] = True
    summary: ClassVar[str] = "Mirror|{angle}|{lines} lines"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    turns: ClassVar[str] = "angle"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("bend", "Mirror, left and right", {}),
        Design("bend", "Mirror, four ways", {"lines": 2}),
    )

    x: float = number(50, lo=-100, hi=200, unit="%", label="Position X", group="effect", help="A point of the line.")
    y: float = number(50, lo=-100, hi=200, unit="%", label="Position Y", group="effect", help="A point of the line.")
    angle: float = degrees(
        90, lo=-3600, hi=3600, group="effect", help="Where the line points; what is on its right is kept."
    )
    lines: int = whole(1, lo=1, hi=12, group="effect", help="Lines through the point, at even angles.")

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        x, y = view.x(self.x), view.y(self.y)
        return folded(area, (x, y), np.deg2rad(self.angle), self.lines)
