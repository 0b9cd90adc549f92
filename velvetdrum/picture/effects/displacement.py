"""Displacement: another layer says how far pixels move."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, layer, number
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect import ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, as_maps, grid
from velvetdrum.scene.effects import effect_kind


@effect_kind("displacement", "Displacement")
class Displacement(Bend):
    """Moves pixels as another layer's colours say, as the displacement map of Filter Effects does."""

    summary: ClassVar[str] = "Displacement|{source}|{amount}"
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "layer"})

    source: str = layer(label="Map", group="effect", help="The layer that is read.")
    amount: float = number(8, lo=-100, hi=100, unit="%", group="effect", help="How far at most, of the short side.")
    by: str = choice(
        "luminance",
        {"luminance": "Luminance", "channels": "Red and green"},
        group="effect",
        label="Channel",
        help="What of the map moves pixels: luminance along one direction, or red across and green down.",
    )
    angle: float = degrees(
        45, group="effect", help="Where light moves pixels to: 0 is to the right.", when=("by", ("luminance",))
    )

    def reach(self, view: Viewport) -> float | None:
        return abs(self.amount) * view.short / 100

    def state_now(self, context: EffectContext) -> None:
        return None

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        return super().apply(image, context) if self.source else image

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        pixels = context.other(self.source, area)
        amount = self.amount * view.short / 100
        x, y = grid(area)
        if self.by == "channels":
            across, down, u, v = pixels[..., 2], pixels[..., 1], 1.0, 1.0
        else:
            light = cv2.transform(pixels, np.array([[0.0722, 0.7152, 0.2126, 0.0]], np.float32))
            across = down = np.asarray(light, np.uint8).reshape(pixels.shape[:2])
            u, v = -float(np.cos(np.deg2rad(self.angle))), -float(np.sin(np.deg2rad(self.angle)))
        # Half of the range moves nothing: so does what the other layer leaves empty.
        alpha = pixels[..., 3].astype(np.float32) / 510
        scale = np.float32(1 / 255)
        move_x = (across.astype(np.float32) * scale - alpha) * np.float32(2 * u * amount)
        move_y = (down.astype(np.float32) * scale - alpha) * np.float32(2 * v * amount)
        return as_maps(x + move_x, y + move_y, area)
