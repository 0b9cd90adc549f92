"""The pixels of a frame and the few operations that layers draw with.

Pixels are BGRA bytes, premultiplied, top row first. Skia draws coverage and plain colours straight into them;
whole areas are blended with OpenCV, which is faster there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]


@dataclass(frozen=True)
class Box:
    """A rectangle in pixels of the frame; edges may lie between pixels."""

    left: float
    top: float
    right: float
    bottom: float

    def grown_to_pixels(self, width: int, height: int) -> tuple[int, int, int, int]:
        """The whole pixels that it touches, cut to the frame: left, top, right, bottom."""
        left, top = int(np.floor(self.left)), int(np.floor(self.top))
        right, bottom = int(np.ceil(self.right)), int(np.ceil(self.bottom))
        return max(left, 0), max(top, 0), min(right, width), min(bottom, height)


@dataclass(frozen=True)
class Turn:
    """A turn clockwise about a point, in degrees and pixels of the frame."""

    degrees: float
    x: float
    y: float

    def bounds(self, box: Box) -> Box:
        """The upright box around a turned one."""
        angle = np.deg2rad(self.degrees)
        corners = np.array([[x, y] for x in (box.left, box.right) for y in (box.top, box.bottom)]) - (self.x, self.y)
        x = corners @ (np.cos(angle), -np.sin(angle)) + self.x
        y = corners @ (np.sin(angle), np.cos(angle)) + self.y
        return Box(float(x.min()), float(y.min()), float(x.max()), float(y.max()))


NO_TURN = Turn(0.0, 0.0, 0.0)


class Canvas:
    """A frame being drawn. Places are per cent of the frame, sizes per cent of its short side."""

    def __init__(self, width: int, height: int) -> None:
        """A canvas with nothing settled on it yet: `clear` or `paste` comes first."""
        self.width, self.height = width, height
        self.pixels: Pixels = np.empty((height, width, 4), np.uint8)
        self._words = self.pixels.view(np.uint32)[..., 0]
        self._surface: skia.Surface | None = None

    @property
    def short(self) -> int:
        return min(self.width, self.height)

    def x(self, per_cent: float) -> float:
        return self.width * per_cent / 100.0

    def y(self, per_cent: float) -> float:
        return self.height * per_cent / 100.0

    def clear(self) -> None:
        """Opaque black everywhere."""
        self._words[:] = 0xFF000000

    def paste(self, pixels: Pixels) -> None:
        """Replace the whole frame with opaque pixels of its size."""
        np.copyto(self.pixels, pixels)

    def rounded_boxes(
        self,
        boxes: Sequence[Box],
        radii: Sequence[float],
        colours: Sequence[str],
        opacity: float,
        turn: Turn = NO_TURN,
    ) -> None:
        """Fill boxes with round corners, each in a colour (#rrggbb), all turned together. Edges are antialiased."""
        surface = self._skia()
        surface.save()
        surface.rotate(turn.degrees, turn.x, turn.y)
        alpha = round(opacity * 255)
        brush = skia.Paint(AntiAlias=True)
        for box, radius, colour in zip(boxes, radii, colours, strict=True):
            brush.setColor(alpha << 24 | int(colour[1:], 16))
            surface.drawRoundRect(skia.Rect(box.left, box.top, box.right, box.bottom), radius, radius, brush)
        surface.restore()

    def reveal(
        self,
        boxes: Sequence[Box],
        radii: Sequence[float],
        field: Pixels,
        area: Box,
        opacity: float,
        turn: Turn = NO_TURN,
    ) -> None:
        """Show `field` through rounded boxes, turned together. `field` covers `area`'s whole pixels
        (`grown_to_pixels`)."""
        left, top, right, bottom = area.grown_to_pixels(self.width, self.height)
        if right <= left or bottom <= top:
            return
        mask = np.zeros((bottom - top, right - left), np.uint8)
        info = skia.ImageInfo.MakeA8(mask.shape[1], mask.shape[0])
        with skia.Surface.MakeRasterDirect(info, mask, mask.shape[1]) as drawn:
            drawn.translate(-left, -top)
            drawn.rotate(turn.degrees, turn.x, turn.y)
            brush = skia.Paint(AntiAlias=True, Color=skia.Color(255, 255, 255, round(opacity * 255)))
            for box, radius in zip(boxes, radii, strict=True):
                drawn.drawRoundRect(skia.Rect(box.left, box.top, box.right, box.bottom), radius, radius, brush)
        below = self.pixels[top:bottom, left:right]
        cover = cv2.merge([mask, mask, mask, mask])
        shown = cv2.multiply(field, cover, scale=1 / 255)
        kept = cv2.multiply(below, cv2.bitwise_not(cover), scale=1 / 255)
        np.copyto(below, cv2.add(shown, kept))

    def _skia(self) -> skia.Canvas:
        if self._surface is None:
            self._surface = skia.Surface(self.pixels, skia.kBGRA_8888_ColorType)
        return self._surface.getCanvas()
