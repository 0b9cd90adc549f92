"""Kaleidoscope: one wedge, turned and mirrored about a point."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number, whole
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, as_maps, grid
from velvetdrum.scene.effects import effect_kind


@effect_kind("kaleidoscope", "Kaleidoscope")
class Kaleidoscope(Bend):
    """Turns and mirrors one wedge of the picture about a point."""

    keeps_blur: ClassVar[bool] = True
    summary: ClassVar[str] = "Kaleidoscope|{wedges} wedges"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    turns: ClassVar[str] = "angle"

    wedges: int = whole(6, lo=1, hi=48, group="effect", help="Pairs of wedges, each with its mirror image.")
    x: float = number(
        50, lo=-100, hi=200, unit="%", label="Position X", group="effect", help="Position X of the middle."
    )
    y: float = number(
        50, lo=-100, hi=200, unit="%", label="Position Y", group="effect", help="Position Y of the middle."
    )
    angle: float = degrees(0, lo=-3600, hi=3600, group="effect", help="Turns the whole pattern.")
    pick: float = degrees(0, lo=-3600, hi=3600, label="Wedge angle", group="effect", help="Which wedge is shown.")
    zoom: float = number(
        100, lo=10, hi=1000, unit="%", step=1, curve="log", group="effect", help="How large its picture is."
    )

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        x, y = grid(area)
        x0, y0 = np.float32(view.x(self.x)), np.float32(view.y(self.y))
        dx, dy = x - x0, y - y0
        away = np.sqrt(dx * dx + dy * dy) * np.float32(100 / self.zoom)
        whole_ = np.float32(2 * np.pi / self.wedges)
        angle = np.arctan2(dy, dx) - np.float32(np.deg2rad(self.angle))
        # From the middle of a wedge to either side: there and back.
        angle = np.abs(angle - whole_ * np.rint(angle / whole_)) + np.float32(np.deg2rad(self.pick + self.angle))
        return as_maps(x0 + away * np.cos(angle), y0 + away * np.sin(angle), area)
