"""Gradient map: dark to light along a gradient."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, flag, number, stops
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import by_luminance, luminances
from velvetdrum.scene.designs import DUSK, QUAY, Design, even_ramp
from velvetdrum.scene.effects import effect_kind


@effect_kind("gradient-map", "Gradient map")
class GradientMap(Recolour):
    """Gives each luminance its colour of a gradient, from dark to light."""

    summary: ClassVar[str] = "Gradient map"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("colour", "Gradient map: ember", {}),
        Design("colour", "Gradient map: dusk", {"colours": even_ramp("#1b1119", *(stop["colour"] for stop in DUSK))}),
        Design(
            "colour",
            "Gradient map: hard steps",
            {"colours": even_ramp("#0c1022", *(stop["colour"] for stop in QUAY), "#f4eadb"), "stepped": True},
        ),
    )

    colours: tuple[Stop, ...] = stops(
        [(0.0, "#14060c"), (0.35, "#7c1f3c"), (0.65, "#ff7a66"), (0.85, "#e0ac55"), (1.0, "#fff3d6")],
        label="Gradient",
        help="Colours from black to white.",
    )
    stepped: bool = flag(
        False, label="Hard steps", group="effect", help="Holds each colour up to the next one, unmixed."
    )
    softness: float = number(
        1,
        lo=0,
        hi=20,
        unit="%",
        step=0.1,
        group="effect",
        help="How wide the change from one step to the next is, of the luminance.",
        when=("stepped", (True,)),
    )
    mix: str = choice(
        "oklab",
        {"oklab": "Even to the eye", "srgb": "As CSS does"},
        label="Mixing",
        group="effect",
        help="The space in which neighbours are mixed.",
        advanced=True,
    )

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        table = ramp(self.colours, len(luminances()), self.mix, self.stepped)
        wide = round(self.softness / 100 * len(table)) // 2
        if self.stepped and wide > 0:
            # A hard step in the table would leave a ragged edge in the picture.
            framed = np.pad(table, ((wide, wide), (0, 0)), mode="edge")
            table = np.mean([framed[n : n + len(table)] for n in range(2 * wide + 1)], axis=0)
        return by_luminance(pixels, table)
