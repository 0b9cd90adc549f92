"""Bevel: light on the edges of a layer, as if it were raised."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, colour, number
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Coverage, bytes_of, words_of
from velvetdrum.picture.raster.kernels import relief
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport, common, grown
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("bevel", "Bevel")
class Bevel(DrawnEffect):
    """Lights the edges of the layer from one side, and shades those away from it."""

    family: ClassVar[str] = "edge"
    summary: ClassVar[str] = "Bevel|{width}"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("edge", "Bevel, round", {}),
        Design("edge", "Bevel, straight", {"form": "straight", "width": 0.8}),
        Design("edge", "Pressed in", {"angle": 55, "form": "round"}),
    )

    width: float = number(
        1.6, lo=0.05, hi=20, unit="%", group="effect", help="How wide the edge is, of the short side."
    )
    angle: float = degrees(-125, group="effect", help="Where light comes from: -90 is above.")
    form: str = choice("round", {"round": "Round", "straight": "Straight"}, group="effect", help="Form of the edge.")
    light: float = percent(70, step=1, group="effect", help="How strong the lit side is.")
    shade: float = percent(55, step=1, group="effect", help="How dark the other side is.")
    light_colour: str = colour("#ffffff", help="Colour of the lit side.")
    shade_colour: str = colour("#000000", help="Colour of the other side.")

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self.width * view.short / 100)) + 3

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        here = image.trimmed()
        if here.empty:
            return here
        wide = max(self.width * context.view.short / 100, 0.5)
        area = common(grown(here.bounds, 2), grown(context.wanted, self.margin(context.view)))
        if area[0] % 2 or area[1] % 2:
            area = (area[0] - area[0] % 2, area[1] - area[1] % 2, area[2], area[3])
        pixels = here.spread(area)
        cover = np.ascontiguousarray(pixels[..., 3])
        slope = _slope(cover, wide, np.deg2rad(self.angle), self.form == "round")
        tones = [int(tone[1:], 16) for tone in (self.light_colour, self.shade_colour)]
        shares = [round(value * 2.55) for value in (self.light, self.shade)]
        light, dark = ((np.uint32(tone), np.uint32(share)) for tone, share in zip(tones, shares, strict=True))
        height, width = pixels.shape[:2]
        words, step = words_of(pixels)
        relief.shade(words, step, words, *bytes_of(slope), light[0], light[1], dark[0], dark[1], width, height)
        return LayerImage(area[0], area[1], pixels).within(context.wanted)


def _slope(cover: Coverage, wide: float, angle: float, is_round: bool) -> NDArray[np.int16]:
    """How far the surface faces the light, in 255ths: 0 where it is flat. A wide edge is worked out at half the size:
    what is sharp about it is the layer's own edge."""
    step = 2 if wide > 5 else 1
    small = cover if step == 1 else np.asarray(cv2.resize(cover, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA))
    wide /= step
    solid = np.asarray(cv2.threshold(small, 127, 255, cv2.THRESH_BINARY)[1], np.uint8)
    # The distance within 2 %, by masks of 5 by 5.
    inside = cv2.distanceTransform(solid, cv2.DIST_L2, 5)
    inside = np.minimum(inside * np.float32(1 / wide), np.float32(1))
    # A quarter of a circle, or a straight ramp; softened so that ridges do not alias.
    height = cv2.sqrt(inside * (2 - inside)) if is_round else inside
    height = cv2.GaussianBlur(height, (0, 0), max(wide * 0.12, 0.6))
    dx, dy = cv2.Scharr(height, cv2.CV_32F, 1, 0), cv2.Scharr(height, cv2.CV_32F, 0, 1)
    # The surface rises inward: it faces the light where it rises away from it.
    scale = wide / 32
    facing = cv2.addWeighted(dx, -float(np.cos(angle)) * scale, dy, -float(np.sin(angle)) * scale, 0)
    steep = cv2.magnitude(dx, dy)
    lit = facing / cv2.sqrt(steep * steep * np.float32(scale * scale) + 1) * np.float32(1.35 * 255)
    result = np.asarray(lit, np.float32).astype(np.int16)
    if step == 1:
        return result
    large = cv2.resize(result, cover.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(large, np.int16)
