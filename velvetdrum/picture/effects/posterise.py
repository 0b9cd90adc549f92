"""Posterise: few levels in each channel."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import whole
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import plain_curves, recoloured
from velvetdrum.scene.effects import effect_kind


@effect_kind("posterise", "Posterise")
class Posterise(Recolour):
    """Brings each channel to a few even levels."""

    keeps_blur: ClassVar[bool] = False
    summary: ClassVar[str] = "Posterise|{levels} levels"

    levels: int = whole(4, lo=2, hi=64, group="effect", help="How many there are of each channel.")

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        steps = np.minimum(np.floor(plain_curves() * self.levels), self.levels - 1)
        return recoloured(pixels, steps / (self.levels - 1))
