"""Curves: what each level becomes, drawn; for all channels, then for each."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from velvetdrum.declare.settings import CurvePoint, curve, curve_at
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import ChannelCurves as Tables
from velvetdrum.picture.raster.colour_tables import plain_curves, recoloured
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


def _drawn(label: str, help: str, advanced: bool = True) -> Any:
    return curve([(0.0, 0.0), (1.0, 100.0)], lo=0, hi=100, label=label, help=help, group="effect", advanced=advanced)


def _points(*given: tuple[float, float]) -> list[dict[str, float]]:
    return [{"at": at, "value": value} for at, value in given]


@effect_kind("curves", "Curves")
class ChannelCurves(Recolour):
    """Draws what dark, middle and light values become; for all channels, then for red, green and blue alone."""

    summary: ClassVar[str] = "Curves"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("colour", "Deeper darks, lighter lights", {"all": _points((0, 0), (0.25, 14), (0.75, 87), (1, 100))}),
        Design(
            "colour",
            "Cool shadows, warm lights",
            {
                "red": _points((0, 0), (0.3, 22), (0.75, 84), (1, 100)),
                "blue": _points((0, 9), (0.3, 36), (0.75, 68), (1, 88)),
            },
        ),
    )

    all: tuple[CurvePoint, ...] = _drawn("All channels", "What each level becomes: from dark to light.", False)
    red: tuple[CurvePoint, ...] = _drawn("Red", "What each level of red becomes, before all of them.")
    green: tuple[CurvePoint, ...] = _drawn("Green", "What each level of green becomes, before all of them.")
    blue: tuple[CurvePoint, ...] = _drawn("Blue", "What each level of blue becomes, before all of them.")

    def tables(self) -> Tables:
        """Each channel through its own curve, then all through the common one."""
        own = [
            curve_at(points, row) for points, row in zip((self.blue, self.green, self.red), plain_curves(), strict=True)
        ]
        return np.asarray(curve_at(self.all, np.stack(own) / 100) / 100)

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        return recoloured(pixels, self.tables())
