"""Threshold: what is light becomes one colour, what is dark another."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.oklab import parse_hex
from velvetdrum.declare.settings import colour
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import by_luminance, lightness_share
from velvetdrum.scene.effects import effect_kind


@effect_kind("threshold", "Threshold")
class Threshold(Recolour):
    """Parts the picture into light and dark."""

    keeps_blur: ClassVar[bool] = False
    summary: ClassVar[str] = "Threshold|{level}"

    level: float = percent(50, step=1, group="effect", help="Luminance above which a pixel counts as light.")
    softness: float = percent(2, step=1, group="effect", help="How wide the change is.")
    light: str = colour("#f4eadb", help="Colour that light parts take.")
    dark: str = colour("#1b1119", help="Colour that dark parts take.")

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        share = lightness_share(self.level, self.softness)[:, None]
        return by_luminance(pixels, parse_hex(self.dark) * (1 - share) + parse_hex(self.light) * share)
