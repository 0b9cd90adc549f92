"""Outline: a line along the edge of any layer."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, colour, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.silhouette import coloured, cover_of, distances, over
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("outline", "Outline")
class Outline(DrawnEffect):
    """Draws a line along the edge of the layer, outside, inside or on it."""

    family: ClassVar[str] = "edge"
    summary: ClassVar[str] = "Outline|{width}|{colour}"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("edge", "Outline", {}),
        Design("edge", "Line only", {"fill": 0, "place": "middle", "width": 0.4}),
    )

    width: float = number(0.6, lo=0.05, hi=20, unit="%", group="effect", help="How wide it is, of the short side.")
    place: str = choice(
        "outside",
        {"outside": "Outside", "middle": "On the edge", "inside": "Inside"},
        group="effect",
        help="Position of the line: inside, on or outside of the edge.",
    )
    gap: float = number(
        0, lo=-20, hi=20, unit="%", group="effect", help="How far from the edge it lies.", advanced=True
    )
    fill: float = percent(100, step=1, group="effect", help="Opacity of the layer itself.")
    colour: str = colour("#f4eadb", help="Colour of the effect.")

    def margin(self, view: Viewport) -> int:
        return int(np.ceil((self.width + abs(self.gap)) * view.short / 100)) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        if image.empty:
            return image
        margin, short = self.margin(context.view), context.view.short / 100
        area = common(grown(image.bounds, margin), grown(context.wanted, margin))
        shown = common(area, context.wanted)
        if is_empty(shown):
            return image.within(shown)
        wide = self.width * short
        low = self.gap * short + {"outside": 0.0, "middle": -wide / 2, "inside": -wide}[self.place]
        away = distances(cover_of(image, area))
        # Between two distances, each edge smooth over a pixel.
        share = np.clip(low + wide + np.float32(0.5) - away, 0, 1) - np.clip(low + np.float32(0.5) - away, 0, 1)
        line = coloured(np.asarray(cv2.convertScaleAbs(share, alpha=255), np.uint8), self.colour)
        lies = LayerImage(area[0], area[1], line)
        if self.fill < 100:
            kept = cv2.convertScaleAbs(image.pixels, alpha=self.fill / 100)
            image = LayerImage(image.left, image.top, np.asarray(kept, np.uint8))
        if self.place == "outside" and self.gap >= 0:
            return LayerImage(shown[0], shown[1], over(image, lies, shown))
        return LayerImage(shown[0], shown[1], over(lies, image, shown))
