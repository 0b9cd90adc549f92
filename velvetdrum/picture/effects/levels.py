"""Levels: black, white and middle of all channels, or of each."""

from __future__ import annotations

from typing import Any, ClassVar

from velvetdrum.declare.settings import number
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import ChannelCurves, levelled, plain_curves, recoloured
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


def _level(default: float, label: str, help: str = "", advanced: bool = True) -> Any:
    return number(
        default, lo=-100, hi=200, unit="%", step=0.5, label=label, group="effect", help=help, advanced=advanced
    )


def _gamma(label: str, advanced: bool = True) -> Any:
    return number(
        1,
        lo=0.1,
        hi=10,
        step=0.01,
        curve="log",
        label=label,
        group="effect",
        help="Above 1 lifts it.",
        advanced=advanced,
    )


@effect_kind("levels", "Levels")
class Levels(Recolour):
    """Says which values become black and white, and where the middle lies; for all channels, then for each."""

    summary: ClassVar[str] = "Levels|{black} – {white}"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("colour", "Deep blacks", {"black": 10, "white": 92}),
        Design("colour", "Faded print", {"out_black": 14, "out_white": 92, "blue_black": -12}),
    )

    black: float = _level(0, "Black", "Level that becomes black, as a share of the full range.", False)
    white: float = _level(100, "White", "Level that becomes white.", False)
    middle: float = _gamma("Gamma", False)
    out_black: float = _level(0, "Black becomes", "Level that black becomes.", False)
    out_white: float = _level(100, "White becomes", "Level that white becomes.", False)
    red_black: float = _level(0, "Red, black", "Level of red that becomes 0.")
    red_white: float = _level(100, "Red, white", "Level of red that becomes full.")
    red_middle: float = _gamma("Red, gamma")
    green_black: float = _level(0, "Green, black", "Level of green that becomes 0.")
    green_white: float = _level(100, "Green, white", "Level of green that becomes full.")
    green_middle: float = _gamma("Green, gamma")
    blue_black: float = _level(0, "Blue, black", "Level of blue that becomes 0.")
    blue_white: float = _level(100, "Blue, white", "Level of blue that becomes full.")
    blue_middle: float = _gamma("Blue, gamma")

    def curves(self) -> ChannelCurves:
        """Each channel through its own levels, then all through the common ones."""
        values = plain_curves()
        for row, name in enumerate(("blue", "green", "red")):
            ends = getattr(self, f"{name}_black"), getattr(self, f"{name}_white")
            values[row] = levelled(values[row], *ends, getattr(self, f"{name}_middle"))
        values = levelled(values, self.black, self.white, self.middle)
        return self.out_black / 100 + values * (self.out_white - self.out_black) / 100

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        return recoloured(pixels, self.curves())
