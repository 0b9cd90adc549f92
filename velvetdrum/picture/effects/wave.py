"""Wave: the picture sways along a direction."""

from __future__ import annotations

from collections.abc import Hashable
from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, number, rate
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect import ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, along_direction
from velvetdrum.scene.effects import effect_kind


@effect_kind("wave", "Wave")
class Wave(Bend):
    """Waves that run through the picture along a direction."""

    keeps_blur: ClassVar[bool] = True
    summary: ClassVar[str] = "Wave|{amount}|{wavelength}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "clock"})

    amount: float = number(2, lo=0, hi=50, unit="%", group="effect", help="How far it moves pixels, of the short side.")
    wavelength: float = number(40, lo=0.5, hi=400, unit="%", group="effect", help="From crest to crest.")
    angle: float = degrees(90, group="effect", help="Where it runs: 0 is to the right.")
    speed: float = rate(0.4, lo=-10, hi=10, unit="Hz", step=0.01, group="effect", help="Crests that pass a second.")
    way: str = choice(
        "across",
        {"across": "Transverse", "along": "Longitudinal"},
        group="effect",
        label="Wave type",
        help="A transverse wave moves pixels across the direction that it runs in, a longitudinal one along it.",
    )
    form: str = choice(
        "sine",
        {"sine": "Sine", "triangle": "Triangle", "square": "Square"},
        group="effect",
        label="Waveform",
        help="Shape of the wave.",
    )
    phase: float = degrees(
        0, lo=-3600, hi=3600, group="effect", help="Phase of the wave, which moves its crests.", advanced=True
    )

    @property
    def still(self) -> bool:
        return (self.speed == 0 or self.amount == 0) and not self.integrals

    def reach(self, view: Viewport) -> float | None:
        return self.amount * view.short / 100

    def state_now(self, context: EffectContext) -> Hashable | None:
        return self.state() if self.still else None

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        angle = np.deg2rad(self.angle)
        u, v = np.cos(angle), np.sin(angle)
        ends = [x * u + y * v for x in (area[0], area[2]) for y in (area[1], area[3])]
        low, high = min(ends), max(ends) + 1
        length = self.wavelength * view.short / 100
        turns = self.phase / 360 + self.integral("speed", context.time_s)
        crests = np.linspace(low, high, max(2048, int(high - low) * 4)) / length - turns
        form = {
            "sine": lambda t: np.sin(2 * np.pi * t),
            "triangle": lambda t: 4 * np.abs((t - 0.25) % 1 - 0.5) - 1,
            "square": lambda t: np.where(t % 1 < 0.5, 1.0, -1.0),
        }[self.form]
        by = form(crests) * self.amount * view.short / 100
        return along_direction(area, angle, low, high, by, (u, v) if self.way == "along" else (-v, u))
