"""Dither: few levels, with the rest told by a pattern."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.settings import whole
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import dithered_levels
from velvetdrum.scene.effects import effect_kind


@effect_kind("dither", "Dither")
class Dither(Recolour):
    """Brings each channel to a few levels, and mixes those between by an ordered pattern."""

    keeps_blur: ClassVar[bool] = False
    summary: ClassVar[str] = "Dither|{levels} levels"

    levels: int = whole(3, lo=2, hi=64, group="effect", help="How many there are of each channel.")

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        return dithered_levels(pixels, self.levels, place)
