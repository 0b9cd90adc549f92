"""Polar: rows become rings, or rings become rows."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, number
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, as_maps, grid
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("polar", "Polar coordinates")
class Polar(Bend):
    """Wraps the picture about a point, its foot in the middle; or unrolls it again."""

    summary: ClassVar[str] = "Polar|{way}"
    begins: ClassVar[dict[str, object]] = {"edges": "repeat"}
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    radii: ClassVar[tuple[str, ...]] = ("radius",)
    designs: ClassVar[tuple[Design, ...]] = (
        Design("bend", "Rolled to a ring", {}),
        Design("bend", "Unrolled", {"way": "unrolled"}),
    )

    way: str = choice(
        "rolled",
        {"rolled": "Rows to rings", "unrolled": "Rings to rows"},
        group="effect",
        label="Direction",
        help="Whether rows become rings, or rings become rows.",
    )
    x: float = number(
        50, lo=-100, hi=200, unit="%", label="Position X", group="effect", help="Position X of the middle."
    )
    y: float = number(
        50, lo=-100, hi=200, unit="%", label="Position Y", group="effect", help="Position Y of the middle."
    )
    radius: float = number(
        50, lo=1, hi=200, unit="%", group="effect", help="The ring that the picture's head lies on, of the short side."
    )
    angle: float = degrees(-90, lo=-3600, hi=3600, group="effect", help="Where its left edge lies: 0 is to the right.")

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        x, y = grid(area)
        x0, y0 = np.float32(view.x(self.x)), np.float32(view.y(self.y))
        radius, turn = np.float32(self.radius * view.short / 100), np.float32(np.deg2rad(self.angle))
        if self.way == "rolled":
            dx, dy = x - x0, y - y0
            share = ((np.arctan2(dy, dx) - turn) / np.float32(2 * np.pi)) % 1
            away = np.sqrt(dx * dx + dy * dy) / radius
            # Beyond its head nothing goes round again.
            v = np.where(away <= 1, (1 - away) * view.height, np.float32(1e6) if self.edges == "clear" else 0.5)
            return as_maps(share * view.width, v, area)
        angle = x / view.width * np.float32(2 * np.pi) + turn
        away = (1 - y / view.height) * radius
        return as_maps(x0 + away * np.cos(angle), y0 + away * np.sin(angle), area)
