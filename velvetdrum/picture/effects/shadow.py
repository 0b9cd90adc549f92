"""Shadow: the layer's own form, soft, behind it."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import colour, flag, number
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.silhouette import blurred_cover, coloured, over
from velvetdrum.picture.raster.viewport import Viewport, around, common, grown, is_empty
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("shadow", "Shadow, outer edge")
class Shadow(DrawnEffect):
    """Lays a soft shadow behind the layer; at no distance, in a light colour, it is an edge that shines."""

    family: ClassVar[str] = "light"
    summary: ClassVar[str] = "Shadow|{distance}|{softness}"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("light", "Shadow", {}),
        Design("light", "Outer edge", {"distance": 0, "grow": 1, "softness": 3, "colour": "#7cc0f2", "solid": 90}),
    )

    distance: float = number(1.5, lo=0, hi=50, unit="%", group="effect", help="How far it falls, of the short side.")
    angle: float = degrees(90, group="effect", help="Where it falls: 90 is down.")
    softness: float = number(1.5, lo=0, hi=30, unit="%", group="effect", help="Standard deviation of its blur.")
    grow: float = number(0, lo=0, hi=20, unit="%", group="effect", help="How much wider than the layer it is.")
    solid: float = percent(60, step=1, label="Opacity", group="effect", help="How dense it is.")
    colour: str = colour("#000000", help="Colour of the effect.")
    alone: bool = flag(False, label="Shadow only", group="effect", help="Leaves the layer itself out.", advanced=True)

    def margin(self, view: Viewport) -> int:
        return int(np.ceil((self.distance + self.grow + 3 * self.softness) * view.short / 100)) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        if image.empty:
            return image
        view = context.view
        margin, short = self.margin(view), view.short / 100
        angle = np.deg2rad(self.angle)
        by = round(np.cos(angle) * self.distance * short), round(np.sin(angle) * self.distance * short)
        area = common(grown(image.bounds, margin), grown(context.wanted, margin))
        cover = blurred_cover(image, area, self.grow * short, self.softness * short)
        shade = coloured(cover, self.colour, self.solid / 100)
        lies = LayerImage(area[0] + by[0], area[1] + by[1], shade)
        both = common(around(lies.bounds, image.bounds), context.wanted)
        if is_empty(both):
            return image.within(both)
        return LayerImage(both[0], both[1], lies.spread(both) if self.alone else over(image, lies, both))
