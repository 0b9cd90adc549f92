"""Pump: black and white point and exposure by one setting, to brighten with the loudness."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.settings import number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import coded, levelled, linear, plain_curves, recoloured
from velvetdrum.scene.effects import effect_kind


@effect_kind("pump", "Pump")
class Pump(Recolour):
    """Dark and flat when it is quiet, bright when it is loud: give its amount a signal."""

    family: ClassVar[str] = "light"
    summary: ClassVar[str] = "Pump|{amount}"

    amount: float = percent(100, step=1, group="effect", help="Give it the loudness: 0 is quiet.")
    quiet: float = number(
        -1.5,
        lo=-8,
        hi=8,
        unit="EV",
        step=0.05,
        label="Exposure when quiet",
        group="effect",
        help="Exposure at an amount of 0.",
    )
    loud: float = number(
        0.5,
        lo=-8,
        hi=8,
        unit="EV",
        step=0.05,
        label="Exposure when loud",
        group="effect",
        help="Exposure at an amount of 100.",
    )
    black: float = percent(8, step=0.5, label="Black when quiet", group="effect", help="What is black at no amount.")
    white: float = number(
        92,
        lo=0,
        hi=200,
        unit="%",
        step=0.5,
        label="White when loud",
        group="effect",
        help="What is white at full amount.",
    )

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        share = self.amount / 100
        exposure = self.quiet + (self.loud - self.quiet) * share
        values = coded((linear(plain_curves()) * 2**exposure).clip(0, 16))
        values = levelled(values, self.black * (1 - share), 100 + (self.white - 100) * share, 1.0)
        return recoloured(pixels, values)
