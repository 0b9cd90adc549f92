"""Scan lines: dark lines across the picture."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number, rate
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect import ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.blending import weaken
from velvetdrum.scene.effects import effect_kind


@effect_kind("scan-lines", "Scan lines")
class ScanLines(Recolour):
    """Darkens every other line, still or rolling."""

    keeps_blur: ClassVar[bool] = False
    family: ClassVar[str] = "fault"
    summary: ClassVar[str] = "Scan lines|{amount}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "clock"})

    amount: float = percent(45, step=1, group="effect", help="How dark the lines are.")
    spacing: float = number(0.8, lo=0.2, hi=20, unit="%", step=0.05, group="effect", help="From line to line.")
    roll: float = rate(0, lo=-20, hi=20, unit="Hz", step=0.1, group="effect", help="Lines that pass a second.")

    @property
    def still(self) -> bool:
        return self.roll == 0 and not self.integrals

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        height, width = pixels.shape[:2]
        step = max(self.spacing * context.view.short / 100, 1.0)
        y = np.arange(place[1], place[1] + height)
        turns = self.integral("roll", context.time_s)
        # The mean over each row of pixels, so that it looks the same at every size.
        low, high = (-np.cos(2 * np.pi * ((y + end) / step - turns)) * step / (2 * np.pi) for end in (0.0, 1.0))
        dark = 0.5 + 0.5 * (high - low)
        share = np.rint(255 * (1 - self.amount / 100 * dark)).clip(0, 255).astype(np.uint8)
        out = pixels.copy()
        alpha = pixels[..., 3].copy()
        weaken(out, np.ascontiguousarray(np.broadcast_to(share[:, None], (height, width))))
        out[..., 3] = alpha
        return out
