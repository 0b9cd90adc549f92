"""Light rays: what is light is drawn out away from a point."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.settings import choice, colour, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.colour_tables import lightness_share
from velvetdrum.picture.raster.layer_image import NOTHING, LayerImage
from velvetdrum.picture.raster.light import RESPONSES, added, in_colour, rays, tint_gains
from velvetdrum.picture.raster.viewport import Viewport, common
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("light-rays", "Light rays")
class LightRays(DrawnEffect):
    """Draws rays of light out of what is light, away from a point."""

    family: ClassVar[str] = "light"
    summary: ClassVar[str] = "Light rays|{length}|{gain}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    designs: ClassVar[tuple[Design, ...]] = (
        Design("light", "Light rays", {}),
        Design("light", "Rays from above", {"y": -20, "length": 70, "gain": 260}),
    )

    x: float = number(50, lo=-200, hi=300, unit="%", label="Position X", group="effect", help="Where they come from.")
    y: float = number(50, lo=-200, hi=300, unit="%", label="Position Y", group="effect", help="Where they come from.")
    length: float = number(50, lo=0, hi=98, unit="%", step=1, group="effect", help="How far they reach, of their way.")
    gain: float = number(200, lo=0, hi=1000, unit="%", step=1, group="effect", help="How strong they are.")
    decay: float = percent(60, step=1, group="effect", help="How much weaker they are at their end.")
    level: float = percent(
        40, step=1, label="Threshold", group="effect", help="Luminance above which pixels make rays."
    )
    tint: float = percent(0, step=1, group="effect", help="How far they take the colour below.")
    colour: str = colour("#ffe3b0", help="Colour of tinted rays.")
    response: str = choice(
        "film", RESPONSES, group="effect", help="Whether light keeps its hue and rolls off, or is cut.", advanced=True
    )
    what: str = choice(
        "added",
        {"added": "Added to the picture", "light": "Light only"},
        label="Shows",
        group="effect",
        help="The picture with its rays, or the rays alone.",
    )

    def blur_sigma(self, view: Viewport, before: float) -> float:
        # Light alone is worked out at half size.
        return max(before, 2.0) if self.what == "light" else before

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        view = context.view
        if image.empty or self.length <= 0:
            return image
        # Rays go through the whole frame, and come from what lies in it.
        area = common(context.wanted, view.frame)
        point = view.x(self.x), view.y(self.y)
        shining = lightness_share(self.level, 40)
        whole = image.pixels if image.bounds == view.frame else image.spread(view.frame)
        cell = 1 if context.layer.small else 2
        light = rays(whole, point, self.length / 100, 1 - self.decay / 100 * 0.98, shining, cell=cell)
        gains = tint_gains(self.colour, self.tint / 100, self.gain / 100)
        light = in_colour(light, self.tint / 100)
        lit = image if self.what == "added" else NOTHING
        return LayerImage(area[0], area[1], added(lit, area, light, gains, self.response == "film"))
