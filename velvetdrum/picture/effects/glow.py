"""Glow: light parts shine over what is beside them."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, colour, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.colour_tables import lightness_share
from velvetdrum.picture.raster.layer_image import NOTHING, LayerImage
from velvetdrum.picture.raster.light import RESPONSES, added, in_colour, spread, tint_gains
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind

_REACH = 2.6
"""Deviations of the widest Gaussian from which on less than half a level is left of what shines."""


@effect_kind("glow", "Glow")
class Glow(DrawnEffect):
    """Lets what is light shine over what is beside it, with a falloff like that of light."""

    family: ClassVar[str] = "light"
    summary: ClassVar[str] = "Glow|{radius}|{gain}"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("light", "Lamp glow", {}),
        Design("light", "Strong neon", {"radius": 9, "gain": 220, "level": 20}),
        Design("light", "Warm halo", {"radius": 14, "gain": 130, "colour": "#ffb070", "tint": 70}),
    )

    level: float = percent(35, step=1, label="Threshold", group="effect", help="Luminance above which pixels shine.")
    knee: float = percent(
        40,
        step=1,
        group="effect",
        label="Softness",
        help="Width of the range of levels over which pixels begin to shine.",
        advanced=True,
    )
    radius: float = number(6, lo=0.1, hi=50, unit="%", group="effect", help="How far it reaches, of the short side.")
    gain: float = number(100, lo=0, hi=800, unit="%", step=1, group="effect", help="How strong the light is.")
    tint: float = percent(0, step=1, group="effect", help="How far it takes the colour below.")
    colour: str = colour("#ffd9a0", help="Colour of tinted light.")
    response: str = choice(
        "film", RESPONSES, group="effect", help="Whether light keeps its hue and rolls off, or is cut.", advanced=True
    )
    what: str = choice(
        "added",
        {"added": "Added to the picture", "light": "Light only"},
        label="Shows",
        group="effect",
        help="The picture with its light, or the light alone.",
    )

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self.radius * view.short / 100 * _REACH)) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        if image.empty:
            return image
        margin = self.margin(context.view)
        area = common(grown(image.bounds, margin), context.wanted)
        if is_empty(area):
            return image.within(area)
        part = image.within(common(grown(image.bounds, margin), grown(context.wanted, margin)))
        shining = lightness_share(self.level, self.knee)
        light = spread(part, area, self.radius * context.view.short / 100, shining)
        gains = tint_gains(self.colour, self.tint / 100, self.gain / 100)
        light = in_colour(light, self.tint / 100)
        lit = image if self.what == "added" else NOTHING
        return LayerImage(area[0], area[1], added(lit, area, light, gains, self.response == "film"))
