"""Four corners: colours between the frame's corners, seen only where the layer is."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.oklab import from_oklab, parse_hex, to_oklab
from velvetdrum.declare.settings import choice, colour, number
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Area, Pixels
from velvetdrum.picture.raster.blending import apply_mask
from velvetdrum.picture.raster.colour import dithered, packed_image
from velvetdrum.scene.effects import effect_kind

_BLOCK = 256


@effect_kind("four-corners", "Four corners")
class FourCorners(Recolour):
    """A gradient between four corners over the layer, seen only where the layer is."""

    summary: ClassVar[str] = "Four corners"

    corner_1: str = colour("#ff7a66", label="Top left", help="Colour of the frame's corner.")
    corner_2: str = colour("#e0ac55", label="Top right", help="Colour of the frame's corner.")
    corner_3: str = colour("#5fc4b4", label="Bottom right", help="Colour of the frame's corner.")
    corner_4: str = colour("#a99bff", label="Bottom left", help="Colour of the frame's corner.")
    size: float = number(
        100, lo=5, hi=300, unit="%", step=1, group="effect", help="How far apart the corners are, of the frame."
    )
    light: str = choice(
        "times",
        {"times": "Times its light", "over": "In its place"},
        label="Colours",
        group="effect",
        help="The layer's own light stays and takes the colour, or the colour stands alone.",
    )

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        view = context.view
        height, width = pixels.shape[:2]
        area = (place[0], place[1], place[0] + width, place[1] + height)
        corners = (self.corner_1, self.corner_2, self.corner_3, self.corner_4)
        # Fields are kept, and a layer that moves asks for another area at every frame: whole blocks stay the same.
        block = (area[0] // _BLOCK, area[1] // _BLOCK, -(-area[2] // _BLOCK), -(-area[3] // _BLOCK))
        left, top, right, bottom = (edge * _BLOCK for edge in block)
        whole = _field(view.width, view.height, (left, top, right, bottom), corners, self.size)
        field = whole[area[1] - top : area[3] - top, area[0] - left : area[2] - left]
        if self.light == "over":
            return apply_mask(field, np.ascontiguousarray(pixels[..., 3]))
        # Its brightest channel is how much light there is.
        blue, green, red, alpha = cv2.split(pixels)
        out = apply_mask(field, np.asarray(cv2.max(cv2.max(blue, green), red), np.uint8))
        return np.asarray(cv2.insertChannel(alpha, out, 3), np.uint8)


@cached
def _field(width: int, height: int, area: Area, corners: tuple[str, str, str, str], size: float) -> Pixels:
    """Colours between four corners about the frame's middle, even to the eye; beyond them they stay."""
    ends = to_oklab(np.array([parse_hex(value) for value in corners]))
    u, v = (
        np.clip(((np.arange(low, high) + 0.5) / side - 0.5) * 100 / size + 0.5, 0, 1)
        for low, high, side in ((area[0], area[2], width), (area[1], area[3], height))
    )
    u, v = u[None, :, None], v[:, None, None]
    result = (ends[0] * (1 - u) + ends[1] * u) * (1 - v) + (ends[3] * (1 - u) + ends[2] * u) * v
    return dithered(packed_image(from_oklab(result)))
