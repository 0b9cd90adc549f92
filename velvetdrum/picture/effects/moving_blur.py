"""Moving blur: along a direction, turning about a point, or zooming out of it."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, number
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.light import limited
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.picture.raster.warp import smeared
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind

_ABOUT = ("way", ("turning", "zooming"))


@effect_kind("moving-blur", "Moving blur")
class MovingBlur(DrawnEffect):
    """Blurs as movement does: along a direction, round a point, or out of it."""

    family: ClassVar[str] = "blur"
    summary: ClassVar[str] = "Moving blur|{way}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    designs: ClassVar[tuple[Design, ...]] = (
        Design("blur", "Along a direction", {}),
        Design("blur", "Turning", {"way": "turning"}),
        Design("blur", "Zooming", {"way": "zooming"}),
    )

    way: str = choice(
        "along",
        {"along": "Along a direction", "turning": "Turning", "zooming": "Zooming"},
        label="Movement",
        group="effect",
        help="How the picture seems to move.",
    )
    length: float = percent(6, group="effect", help="How far, of the short side.", when=("way", ("along",)))
    angle: float = degrees(0, group="effect", help="Where to: 0 is to the right.", when=("way", ("along",)))
    turn: float = number(
        12,
        lo=0,
        hi=180,
        unit="°",
        group="effect",
        label="Angle",
        help="Angle that the picture turns through.",
        when=("way", ("turning",)),
    )
    zoom: float = number(
        20, lo=0, hi=90, unit="%", group="effect", help="How far it grows.", when=("way", ("zooming",))
    )
    x: float = number(
        50, lo=-200, hi=300, unit="%", label="Position X", group="effect", help="Position X of the middle.", when=_ABOUT
    )
    y: float = number(
        50, lo=-200, hi=300, unit="%", label="Position Y", group="effect", help="Position Y of the middle.", when=_ABOUT
    )

    def _far(self, view: Viewport) -> float:
        """How far a pixel is moved at the most, in pixels."""
        if self.way == "along":
            return self.length * view.short / 100
        farthest = max(
            np.hypot(x - view.x(self.x), y - view.y(self.y)) for x in (0, view.width) for y in (0, view.height)
        )
        return float(farthest * (np.deg2rad(self.turn) if self.way == "turning" else self.zoom / 100))

    def margin(self, view: Viewport) -> int:
        return int(np.ceil(min(self._far(view) / 2, view.width))) + 2

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        view, far = context.view, self._far(context.view)
        if image.empty or far < 0.5:
            return image
        fills = common(image.bounds, view.frame) == view.frame
        reach = view.frame if fills else common(grown(image.bounds, self.margin(view)), context.wanted)
        if is_empty(reach):
            return image.within(reach)
        steps = int(np.clip(np.ceil(np.log2(far * 2)), 2, 8))
        pixels = image.spread(reach) if image.bounds != reach else image.pixels
        x0, y0 = view.x(self.x) - 0.5 - reach[0], view.y(self.y) - 0.5 - reach[1]
        count = 2**steps

        def matrix(part: float) -> NDArray[np.float64]:
            return self._matrix(view, part, x0, y0)

        # Moved back by half of it first, so that it spreads to both sides alike.
        size = (pixels.shape[1], pixels.shape[0])
        border = cv2.BORDER_REPLICATE if fills else cv2.BORDER_CONSTANT
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        first = cv2.warpAffine(
            pixels.astype(np.float32), matrix(-(count - 1) / count / 2), size, flags=flags, borderMode=border
        )
        result = smeared(np.asarray(first), steps, matrix, border=border)
        out = limited(np.asarray(cv2.convertScaleAbs(result), np.uint8))
        return LayerImage(reach[0], reach[1], out)

    def _matrix(self, view: Viewport, part: float, x0: float, y0: float) -> NDArray[np.float64]:
        """So much of the whole movement, from places in the result to those in the picture."""
        if self.way == "along":
            by, angle = part * self.length * view.short / 100, np.deg2rad(self.angle)
            return np.array([[1, 0, by * np.cos(angle)], [0, 1, by * np.sin(angle)]])
        if self.way == "turning":
            angle = part * np.deg2rad(self.turn)
            linear = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        else:
            linear = np.eye(2) * np.exp(part * np.log(1 - self.zoom / 100))
        middle = np.array([x0, y0])
        return np.concatenate([linear, (middle - linear @ middle)[:, None]], axis=1)
