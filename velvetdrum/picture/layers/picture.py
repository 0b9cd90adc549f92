"""A picture: fitted, cropped, recoloured."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number, picture
from velvetdrum.declare.vocabulary import position_x, position_y
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.image_placement import BOXED, box_about, fitting, lay, missing, scales
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.bases.recoloured import Recoloured, Recolouring, recoloured
from velvetdrum.picture.media.pictures import Crop, PictureError, scaled, size_of
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import Design, Sizing
from velvetdrum.scene.kinds import layer_kind


@layer_kind("picture", "Picture")
class Picture(Recoloured):
    """A picture of yours: PNG, JPEG, WebP, GIF or SVG."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design(
            "shape",
            "Picture",
            {},
            (
                "shape",
                {
                    "form": "rectangle",
                    "width": 76.0,
                    "height": 50.0,
                    "corner": 2.0,
                    "paint": "field",
                    "field": "corners",
                },
            ),
        ),
    )
    sizings: ClassVar[tuple[Sizing, ...]] = BOXED
    drops: ClassVar[dict[str, str]] = {"picture": "image"}

    first = ("image",)

    image: str = picture(label="Picture", help="The picture that is shown.")
    fit: str = fitting("contain")  # type: ignore[assignment]
    x: float = position_x(50, of="the middle of its box")
    y: float = position_y(50, of="the middle of its box")
    width: float = number(
        40, lo=0.5, hi=300, unit="%", help="Width of the layer's box, as a share of the frame's width."
    )
    height: float = number(
        40, lo=0.5, hi=300, unit="%", help="Height of the layer's box, as a share of the frame's height."
    )
    crop_left: float = number(0, lo=0, hi=95, unit="%", advanced=True, help="Cut away on the left, of the picture.")
    crop_right: float = number(0, lo=0, hi=95, unit="%", advanced=True, help="Cut away on the right, of the picture.")
    crop_top: float = number(0, lo=0, hi=95, unit="%", advanced=True, help="Cut away at the top, of the picture.")
    crop_bottom: float = number(0, lo=0, hi=95, unit="%", advanced=True, help="Cut away below, of the picture.")

    @property
    def still(self) -> bool:
        return True

    @property
    def crop(self) -> Crop:
        """What is cut away on the left, at the top, on the right and below, each as a share of the picture."""
        return (self.crop_left, self.crop_top, self.crop_right, self.crop_bottom)

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self.extent(view, at).grown(2.0)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        """The picture itself where it is contained; else its box."""
        width, height = canvas.width * self.width / 100, canvas.height * self.height / 100
        path = at.media.get(self.image)
        if self.fit == "contain" and path is not None:
            try:
                own = _cut_size(path, self.crop)
                across, down = scales(self.fit, *own, width, height)
                width, height = max(round(own[0] * across), 1), max(round(own[1] * down), 1)
            except (PictureError, OSError):
                pass
        return box_about(canvas.x(self.x), canvas.y(self.y), width, height)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        if not self.image:
            return
        box = (canvas.width * self.width / 100, canvas.height * self.height / 100)
        x, y = canvas.x(self.x), canvas.y(self.y)
        path = at.media.get(self.image)
        try:
            result = _prepared(path or "", self.crop, self.fit, box, self.recolouring)
        except (PictureError, OSError):
            missing(canvas, box_about(x, y, *box))
            return
        lay(canvas, result, x - result.shape[1] / 2, y - result.shape[0] / 2)


def _cut_size(path: str, crop: Crop) -> tuple[float, float]:
    width, height = size_of(path)
    left, top, right, bottom = crop
    if left + right > 95 or top + bottom > 95:
        raise PictureError("Nothing is left of this picture: it is cut away from both sides.")
    return width * (100 - left - right) / 100, height * (100 - top - bottom) / 100


@cached
def _prepared(path: str, crop: Crop, fit: str, box: tuple[float, float], recolouring: Recolouring) -> Pixels:
    """A stored picture scaled to its box, cut and recoloured, premultiplied. Raises PictureError and OSError."""
    width, height = _cut_size(path, crop)
    across, down = scales(fit, width, height, *box)
    result = scaled(path, max(round(width * across), 1), max(round(height * down), 1), crop)
    if fit == "cover":
        x, y = (result.shape[1] - round(box[0])) // 2, (result.shape[0] - round(box[1])) // 2
        result = result[max(y, 0) : max(y, 0) + max(round(box[1]), 1), max(x, 0) : max(x, 0) + max(round(box[0]), 1)]
    return np.ascontiguousarray(recoloured(result, recolouring))
