"""One colour: a layer as a silhouette."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import colour
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import by_luminance, luminances
from velvetdrum.scene.effects import effect_kind


@effect_kind("one-colour", "One colour")
class OneColour(Recolour):
    """All that the layer covers in one colour."""

    keeps_blur: ClassVar[bool] = False
    summary: ClassVar[str] = "One colour|{colour}"

    colour: str = colour("#f4eadb", help="Colour that everything takes.")

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        return by_luminance(pixels, np.tile(ramp(((0.0, self.colour),), 1), (len(luminances()), 1)))
