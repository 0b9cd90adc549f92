"""Three-point tint: colours for shadows, middle and highlights."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import colour, number
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import by_luminance, luminances
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("three-point-tint", "Three-point tint")
class ThreePointTint(Recolour):
    """Shadows, middle and highlights in a colour each, between them even to the eye."""

    summary: ClassVar[str] = "Three-point tint|{shadows}|{middle}|{highlights}"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("colour", "Tinted: plum and brass", {}),
        Design("colour", "Tinted: tide", {"shadows": "#06222b", "middle": "#2f8f86", "highlights": "#e6fff4"}),
    )

    shadows: str = colour("#1b1119", help="Colour that black becomes.")
    middle: str = colour("#a2527c", help="What the middle becomes.")
    highlights: str = colour("#ffe3b0", help="Colour that white becomes.")
    place: float = number(
        50, lo=1, hi=99, unit="%", step=1, label="Middle at", group="effect", help="Which luminance is the middle."
    )

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        stops = ((0.0, self.shadows), (self.place / 100, self.middle), (1.0, self.highlights))
        return by_luminance(pixels, ramp(stops, len(luminances())))
