"""Tiles: the picture again and again, side by side."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, number
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, as_maps, grid
from velvetdrum.scene.effects import effect_kind


@effect_kind("tiles", "Tiles")
class Tiles(Bend):
    """Shows the whole picture in every tile of a grid."""

    summary: ClassVar[str] = "Tiles|{across}|{down}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)

    across: float = number(3, lo=1, hi=40, step=0.1, group="effect", help="How many stand side by side.")
    down: float = number(3, lo=1, hi=40, step=0.1, group="effect", help="How many stand one below another.")
    turned: str = choice(
        "mirrored",
        {"plain": "As it is", "mirrored": "Every other one mirrored"},
        label="Tile",
        group="effect",
        help="Mirrored tiles meet without a seam.",
    )
    angle: float = degrees(0, group="effect", help="Turns the whole grid.")
    x: float = number(50, lo=-100, hi=200, unit="%", label="Position X", group="effect", help="Middle of one tile.")
    y: float = number(50, lo=-100, hi=200, unit="%", label="Position Y", group="effect", help="Middle of one tile.")
    offset: float = percent(0, step=1, group="effect", help="How far each row is moved against the one above.")

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        x, y = grid(area)
        turn = np.deg2rad(self.angle)
        dx, dy = x - np.float32(view.x(self.x)), y - np.float32(view.y(self.y))
        u = (dx * np.float32(np.cos(turn)) + dy * np.float32(np.sin(turn))) * np.float32(self.across / view.width)
        v = (dy * np.float32(np.cos(turn)) - dx * np.float32(np.sin(turn))) * np.float32(self.down / view.height)
        u, v = u + np.float32(0.5), v + np.float32(0.5)
        if self.offset:
            u = np.asarray(u + np.floor(v) * np.float32(self.offset / 100), np.float32)
        if self.turned == "mirrored":
            return as_maps((1 - np.abs(1 - u % 2)) * view.width, (1 - np.abs(1 - v % 2)) * view.height, area)
        return as_maps((u % 1) * view.width, (v % 1) * view.height, area)
