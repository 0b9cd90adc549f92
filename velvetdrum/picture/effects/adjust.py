"""Brightness, contrast, exposure, saturation and the other plain adjustments, in one pass."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour, hue_matrix, saturation_matrix
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import ChannelCurves, coded, linear, plain_curves, recoloured
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("adjust", "Adjust colour")
class Adjust(Recolour):
    """Exposure, brightness, contrast, gamma, saturation, hue, temperature and tint."""

    summary: ClassVar[str] = "Adjust colour"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("colour", "Warm and rich", {"saturation": 130, "temperature": 35, "contrast": 112}),
        Design("colour", "Cold dusk", {"saturation": 80, "temperature": -50, "exposure": -0.3}),
        Design("colour", "Black and white", {"saturation": 0, "contrast": 115}),
        Design("colour", "Hue turned", {"hue": 120}),
    )

    exposure: float = number(0, lo=-8, hi=8, unit="EV", step=0.05, group="effect", help="Light doubled with each step.")
    brightness: float = number(100, lo=0, hi=400, unit="%", step=1, group="effect", help="All values times this.")
    contrast: float = number(100, lo=0, hi=400, unit="%", step=1, group="effect", help="Distance from middle grey.")
    gamma: float = number(1, lo=0.1, hi=10, step=0.01, curve="log", group="effect", help="Above 1 lifts the middle.")
    saturation: float = number(100, lo=0, hi=400, unit="%", step=1, group="effect", help="How rich colours are.")
    hue: float = degrees(0, lo=-3600, hi=3600, group="effect", help="Angle by which all hues are turned.")
    temperature: float = number(
        0, lo=-100, hi=100, step=1, group="effect", help="Colder below 0 (blue), warmer above (amber)."
    )
    tint: float = number(0, lo=-100, hi=100, step=1, group="effect", help="Greener below 0, more magenta above.")

    def curves(self) -> ChannelCurves:
        """What each channel becomes before hue and saturation: exposure in linear light, then brightness, contrast and
        gamma on the coded values."""
        values = plain_curves()
        gains = np.exp2(
            self.exposure
            + np.array([-self.temperature, 0.0, self.temperature]) / 100 * 0.6
            + np.array([self.tint, -self.tint, self.tint]) / 100 * np.array([0.2, 0.4, 0.2])
        )
        if np.any(gains != 1):
            values = coded(np.minimum(linear(values) * gains[:, None], 16.0))
        values = values * (self.brightness / 100)
        values = (values - 0.5) * (self.contrast / 100) + 0.5
        if self.gamma != 1:
            values = np.maximum(values, 0) ** (1 / self.gamma)
        return values

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        matrix = hue_matrix(self.hue) @ saturation_matrix(self.saturation / 100)
        return recoloured(pixels, self.curves(), matrix)
