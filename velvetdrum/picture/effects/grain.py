"""Grain: seeded noise that is new in every frame."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number, rate
from velvetdrum.declare.vocabulary import percent, seed
from velvetdrum.picture.bases.effect import ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import grain_tile, grained
from velvetdrum.scene.effects import effect_kind

_TILES = 4


@effect_kind("grain", "Grain")
class Grain(Recolour):
    """Noise as of film, the most in the middle of the range."""

    keeps_blur: ClassVar[bool] = False
    summary: ClassVar[str] = "Grain|{amount}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "clock"})

    amount: float = percent(12, step=1, group="effect", help="How strong it is.")
    size: float = number(
        0.15, lo=0.05, hi=3, unit="%", step=0.01, group="effect", help="How large a grain is, of the short side."
    )
    rate: float = rate(
        24, lo=0, hi=60, unit="/s", step=1, group="effect", help="How often it is new; 0 keeps it still."
    )
    ends: float = percent(
        25, step=1, label="In black and white", group="effect", help="How far the picture is in black and white."
    )
    seed: int = seed(of="another noise", group="effect")

    @property
    def still(self) -> bool:
        return self.rate == 0 and not self.integrals

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        step = int(np.floor(self.integral("rate", context.time_s) + 1e-6))
        draws = np.random.Generator(np.random.PCG64((self.seed, step))).integers(0, 512, 3)
        tile = grain_tile(self.seed * _TILES + int(draws[2]) % _TILES, round(self.size * context.view.short / 100, 2))
        # Least at both ends, where film has none to show.
        middle = self.amount / 100 * 1.2
        return grained(
            pixels, tile, middle * self.ends / 100, middle, (place[0] + int(draws[0]), place[1] + int(draws[1]))
        )
