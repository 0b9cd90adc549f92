"""Highlights: only what is brighter than a level, added once more."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.colour_tables import lightness_share, shares_by_luminance
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.light import RESPONSES, SmallLight, added, limited
from velvetdrum.scene.effects import effect_kind


@effect_kind("highlights", "Highlights")
class Highlights(Recolour):
    """Adds what is brighter than a level once more, or keeps it alone."""

    family: ClassVar[str] = "light"
    summary: ClassVar[str] = "Highlights|{level}"

    level: float = percent(
        60, step=1, label="Threshold", group="effect", help="Level above which pixels are highlights."
    )
    softness: float = percent(30, step=1, group="effect", help="How wide the change is.")
    gain: float = percent(80, step=1, group="effect", help="How much of it is added.")
    response: str = choice(
        "film", RESPONSES, group="effect", help="Whether light keeps its hue and rolls off, or is cut.", advanced=True
    )
    what: str = choice(
        "added",
        {"added": "Added to the picture", "light": "Highlights only"},
        label="Shows",
        group="effect",
        help="The picture with its highlights, or those alone.",
    )

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        bright = shares_by_luminance(pixels, lightness_share(self.level, self.softness))
        if self.what == "light":
            return bright
        if self.response == "film":
            # The layer is as solid as it was: light alone is added.
            gains = (self.gain / 100,) * 3 + (0.0,)
            area = (0, 0, pixels.shape[1], pixels.shape[0])
            return added(LayerImage(0, 0, pixels), area, SmallLight(bright, 1, 0, 0), gains, film=True)
        out = pixels.copy()
        blend(out, bright, "plus-lighter", None, self.gain / 100)
        return limited(np.asarray(cv2.insertChannel(cv2.extractChannel(pixels, 3), out, 3), np.uint8))
