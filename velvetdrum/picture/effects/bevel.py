"""Bevel: light on the edges of a layer, as if it were raised."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, colour, number
from velvetdrum.picture.drawn_effect import DrawnEffect
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.compositing import Source
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.silhouette import coloured, distances
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

    width: float = number(1.6, lo=0.05, hi=20, unit="%", group="effect", help="How wide the edge is, of the short side.")
    angle: float = number(-125, lo=-360, hi=360, unit="°", step=1, group="effect", help="Where light comes from: -90 is above.")
    form: str = choice("round", {"round": "Round", "straight": "Straight"}, group="effect", help="Form of the edge.")
    light: float = number(70, lo=0, hi=100, unit="%", step=1, group="effect", help="How strong the lit side is.")
    shade: float = number(55, lo=0, hi=100, unit="%", step=1, group="effect", help="How dark the other side is.")
    light_colour: str = colour("#ffffff", help="Colour of the lit side.")
    shade_colour: str = colour("#000000", help="Colour of the other side.")

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self.width * view.short / 100)) + 3

    def apply(self, image: LayerImage, source: Source) -> LayerImage:
        here = image.trimmed()
        if here.empty:
            return here
        wide = max(self.width * source.view.short / 100, 0.5)
        area = common(grown(here.bounds, 2), grown(source.wanted, self.margin(source.view)))
        pixels = here.spread(area)
        cover = np.ascontiguousarray(pixels[..., 3])
        slope = _slope(cover, wide, np.deg2rad(self.angle), self.form == "round")
        # Both only where the layer is: its coverage stays as it was.
        for share, strength, tone in ((slope, self.light, self.light_colour), (-slope, self.shade, self.shade_colour)):
            part = np.asarray(cv2.convertScaleAbs(np.maximum(share, 0), alpha=255), np.uint8)
            part = np.asarray(cv2.multiply(part, cover, scale=1 / 255), np.uint8)
            _lay(pixels, coloured(part, tone, strength / 100))
        return LayerImage(area[0], area[1], pixels).within(source.wanted)


def _slope(cover: np.ndarray, wide: float, angle: float, is_round: bool) -> np.ndarray:
    """How far the surface faces the light, -1 to 1: 0 where it is flat."""
    inside = np.clip(-distances(cover) / np.float32(wide), 0, 1)
    # A quarter of a circle, or a straight ramp; softened so that ridges do not alias.
    height = np.sqrt(np.maximum(1 - (1 - inside) ** 2, 0)) if is_round else inside
    height = cv2.GaussianBlur(height.astype(np.float32), (0, 0), max(wide * 0.12, 0.6))
    dx, dy = cv2.Scharr(height, cv2.CV_32F, 1, 0), cv2.Scharr(height, cv2.CV_32F, 0, 1)
    scale = np.float32(wide / 32)
    facing = -(dx * np.float32(np.cos(angle)) + dy * np.float32(np.sin(angle))) * scale
    steep = np.sqrt(1 + (dx * dx + dy * dy) * scale * scale)
    # The surface rises inward: it faces the light where it rises away from it.
    return np.asarray(facing / steep * 1.35, np.float32).clip(-1, 1)


def _lay(pixels: Pixels, light: Pixels) -> None:
    alpha = pixels[..., 3].copy()
    blend(pixels, light)
    pixels[..., 3] = alpha
