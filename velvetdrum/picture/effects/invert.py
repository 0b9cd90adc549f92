"""Invert: light and dark change places."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.settings import choice
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour, hue_matrix
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import plain_curves, recoloured
from velvetdrum.scene.effects import effect_kind


@effect_kind("invert", "Invert")
class Invert(Recolour):
    """Turns colours into their opposite, or only light into dark."""

    summary: ClassVar[str] = "Invert|{what}"

    what: str = choice(
        "all",
        {"all": "All channels", "light": "Light, not hue"},
        label="Inverts",
        group="effect",
        help="Every channel, or light alone: hues stay.",
    )

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        return recoloured(pixels, 1 - plain_curves(), hue_matrix(180) if self.what == "light" else None)
