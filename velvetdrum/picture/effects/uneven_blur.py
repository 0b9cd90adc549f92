"""Uneven blur: sharp along a line or in the middle, or as another layer says."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import choice, flag, layer, number
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.effect import DrawnEffect, ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area, Coverage
from velvetdrum.picture.raster.blending import replace
from velvetdrum.picture.raster.blur import gaussian
from velvetdrum.picture.raster.colour_tables import LUMA
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind

_SHARES = (0.18, 0.45, 1.0)
"""The blurs that are made, as shares of the widest; between them pictures are mixed."""
_PLACED = ("by", ("line", "middle"))


@effect_kind("uneven-blur", "Uneven blur")
class UnevenBlur(DrawnEffect):
    """Keeps a band or the middle sharp and blurs the rest; or blurs where another layer is light."""

    family: ClassVar[str] = "blur"
    summary: ClassVar[str] = "Uneven blur|{by}|{radius}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "layer"})
    designs: ClassVar[tuple[Design, ...]] = (
        Design("blur", "Tilt", {}),
        Design("blur", "At the edges only", {"by": "middle", "size": 30}),
        Design("blur", "By another layer", {"by": "layer"}),
    )

    by: str = choice(
        "line",
        {"line": "A band", "middle": "A middle", "layer": "Another layer"},
        label="Focus",
        group="effect",
        help="What stays sharp: a band, a circle, or what is dark in another layer.",
    )
    radius: float = number(2.5, lo=0, hi=20, unit="%", group="effect", help="Standard deviation of the widest blur.")
    size: float = percent(15, step=1, group="effect", help="Width of what stays sharp.", when=_PLACED)
    falloff: float = number(
        35,
        lo=1,
        hi=200,
        unit="%",
        step=1,
        group="effect",
        help="Distance from what is sharp to the widest blur.",
        when=_PLACED,
    )
    angle: float = degrees(0, group="effect", help="Turn of the band.", when=("by", ("line",)))
    x: float = number(
        50,
        lo=-100,
        hi=200,
        unit="%",
        label="Position X",
        group="effect",
        help="Position X of the middle.",
        when=_PLACED,
    )
    y: float = number(
        50,
        lo=-100,
        hi=200,
        unit="%",
        label="Position Y",
        group="effect",
        help="Position Y of the middle.",
        when=_PLACED,
    )
    map: str = layer(label="Map", group="effect", help="The layer that is read.", when=("by", ("layer",)))
    invert: bool = flag(False, label="Inverted", group="effect", help="Blurs what would stay sharp.")

    @property
    def still(self) -> bool:
        return self.by != "layer"

    def layers(self) -> list[str]:
        return super().layers() if self.by == "layer" else [self.through] if self.through else []

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(self.radius * view.short / 100 * 3)) + 1

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        view = context.view
        sigma = self.radius * view.short / 100
        margin = self.margin(view)
        area = common(grown(image.bounds, margin), grown(context.wanted, margin))
        shown = common(area, context.wanted)
        if image.empty or sigma < 0.3 or is_empty(shown) or (self.by == "layer" and not self.map):
            return image
        weights = self._weights(context, shown)
        whole = image.spread(area)
        fills = common(image.bounds, view.frame) == view.frame
        if fills:
            # Beyond the frame it goes on as its last pixels are.
            inside = common(area, view.frame)
            part = whole[inside[1] - area[1] : inside[3] - area[1], inside[0] - area[0] : inside[2] - area[0]]
            sides = (inside[1] - area[1], area[3] - inside[3], inside[0] - area[0], area[2] - inside[2])
            whole = np.asarray(cv2.copyMakeBorder(part, *sides, cv2.BORDER_REPLICATE), np.uint8)
        cut = np.s_[shown[1] - area[1] : shown[3] - area[1], shown[0] - area[0] : shown[2] - area[0]]
        out = np.ascontiguousarray(whole[cut])
        for number_, share in enumerate(_SHARES):
            if sigma * share < 0.5:
                continue  # too little to be seen, and to be worked out
            cover = np.clip(weights * len(_SHARES) - number_, 0, 1)
            soft = gaussian(whole, sigma * share)[cut]
            replace(out, soft, np.asarray(cv2.convertScaleAbs(cover, alpha=255), np.uint8))
        return LayerImage(shown[0], shown[1], out)

    def _weights(self, context: EffectContext, area: Area) -> np.ndarray:
        """How blurred each pixel is, 0 to 1."""
        if self.by == "layer":
            pixels = context.other(self.map, area)
            light = cv2.transform(pixels, np.array([[*LUMA, 0]], np.float32)).reshape(pixels.shape[:2])
            result = np.asarray(light, np.float32) / 255
        else:
            form = (self.by, self.size, self.falloff, self.angle, self.x, self.y)
            result = _away(context.view.width, context.view.height, area, form).astype(np.float32) / 255
        return 1 - result if self.invert else result


@cached
def _away(width: int, height: int, area: Area, form: tuple[str, float, float, float, float, float]) -> Coverage:
    """How far each pixel lies from what is sharp, 0 to 255, smooth."""
    by, size, falloff, angle, x, y = form
    short = min(width, height)
    dx = (np.arange(area[0], area[2]) + 0.5 - width * x / 100)[None, :]
    dy = (np.arange(area[1], area[3]) + 0.5 - height * y / 100)[:, None]
    if by == "line":
        turn = np.deg2rad(angle)
        away = np.abs(dy * np.cos(turn) - dx * np.sin(turn))
    else:
        away = np.sqrt(dx * dx + dy * dy)
    share = np.clip((away - size * short / 200) / (falloff * short / 100), 0, 1)
    return np.rint(share * share * (3 - 2 * share) * 255).astype(np.uint8)
