"""The pixels of a frame and the few operations that layers draw with.

Pixels are BGRA bytes, premultiplied, top row first. Skia draws coverage and plain colours straight into them;
whole areas are blended with OpenCV, which is faster there.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Protocol

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


class Fills(Protocol):
    """Anything that fills itself onto a surface: each part in its colour (0xaarrggbb), or all in white."""

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None: ...


class Canvas:
    """A frame being drawn. Places are per cent of the frame, sizes per cent of its short side."""

    def __init__(self, width: int, height: int, spare: list[Canvas] | None = None) -> None:
        """A canvas with nothing settled on it yet: `clear` or `paste` comes first. `spare` are canvases to lend."""
        self.width, self.height = width, height
        self.pixels: Pixels = np.empty((height, width, 4), np.uint8)
        self._words = self.pixels.view(np.uint32)[..., 0]
        self.solid = False
        """True when all of it is known to be opaque."""
        self._surface: skia.Surface | None = None
        self._spare: list[Canvas] = [] if spare is None else spare

    @property
    def short(self) -> int:
        return min(self.width, self.height)

    def x(self, per_cent: float) -> float:
        return self.width * per_cent / 100.0

    def y(self, per_cent: float) -> float:
        return self.height * per_cent / 100.0

    def clear(self, colour: str = "#000000") -> None:
        """One opaque colour (#rrggbb) everywhere."""
        self._words[:] = 0xFF000000 | int(colour[1:], 16)
        self.solid = True

    def clear_through(self) -> None:
        """Nothing everywhere: transparent black."""
        self._words[:] = 0
        self.solid = False

    @contextmanager
    def lent(self) -> Iterator[Canvas]:
        """Another canvas of this size with nothing on it, for as long as the block lasts; its memory is used again."""
        other = self._spare.pop() if self._spare else Canvas(self.width, self.height, self._spare)
        other.clear_through()
        try:
            yield other
        finally:
            self._spare.append(other)

    def paste(self, pixels: Pixels) -> None:
        """Replace the whole frame with opaque pixels of its size."""
        np.copyto(self.pixels, pixels)
        self.solid = True

    def reveal(
        self,
        shapes: Sequence[Fills],
        field: Pixels,
        area: tuple[int, int, int, int],
        box: Box,
        opacity: float,
        softness: float = 0.0,
    ) -> None:
        """Show `field` through shapes with antialiased edges, or with edges that fade over `softness` pixels.

        `field` covers the pixels of `area` (left, top, right, bottom); what lies outside of `box` is not touched.
        """
        left, top, right, bottom = box.grown_to_pixels(self.width, self.height)
        left, top, right, bottom = max(left, area[0]), max(top, area[1]), min(right, area[2]), min(bottom, area[3])
        if right <= left or bottom <= top:
            return
        mask = self.mask(shapes, (left, top, right, bottom))
        if softness > 0:
            mask = softened(mask, softness)
        seen = field[top - area[1] : bottom - area[1], left - area[0] : right - area[0]]
        self.blend(seen, mask, left, top, opacity)

    def mask(self, shapes: Sequence[Fills], area: tuple[int, int, int, int]) -> NDArray[np.uint8]:
        """Coverage of shapes in the pixels of an area, 0 to 255."""
        left, top, right, bottom = area
        mask = np.zeros((bottom - top, right - left), np.uint8)
        info = skia.ImageInfo.MakeA8(mask.shape[1], mask.shape[0])
        with skia.Surface.MakeRasterDirect(info, mask, mask.shape[1]) as drawn:
            drawn.translate(-left, -top)
            for shape in shapes:
                shape.fill(drawn, None)
        return mask

    def blend(self, colours: Pixels, mask: NDArray[np.uint8], left: int, top: int, opacity: float) -> None:
        """Blend premultiplied colours over the frame through a mask of their size, its corner at left and top."""
        if opacity < 1:
            mask = np.asarray(cv2.convertScaleAbs(mask, alpha=opacity), np.uint8)
        below = self.pixels[top : top + mask.shape[0], left : left + mask.shape[1]]
        cover = cv2.merge([mask, mask, mask, mask])
        shown = cv2.multiply(colours, cover, scale=1 / 255)
        # What is covered is the share of the mask that the colours fill: all of it where they are opaque.
        alpha = shown[..., 3]
        hidden = cover if is_opaque(colours) else cv2.merge([alpha, alpha, alpha, alpha])
        kept = cv2.multiply(below, cv2.bitwise_not(hidden), scale=1 / 255)
        np.copyto(below, cv2.add(shown, kept))

    def surface(self) -> skia.Canvas:
        """A surface that draws straight into the pixels."""
        if self._surface is None:
            self._surface = skia.Surface(self.pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
        return self._surface.getCanvas()


def is_opaque(pixels: Pixels) -> bool:
    """True when every pixel is solid."""
    words = pixels.view(np.uint32)[..., 0] if pixels.strides[1] == 4 else np.ascontiguousarray(pixels).view(np.uint32)
    return bool(pixels.size) and int(np.bitwise_and.reduce(words, axis=None)) >> 24 == 255


def softened(mask: NDArray[np.uint8], width: float) -> NDArray[np.uint8]:
    """A mask with its edges faded over `width` pixels. Wide fades are worked out on a smaller copy."""
    if width < 0.05:
        return mask  # too little to be seen, and to be worked out
    shrink = max(1, int(width / 6))
    if shrink > 1:
        # A narrow mask keeps a pixel at the least.
        size = (max(round(mask.shape[1] / shrink), 1), max(round(mask.shape[0] / shrink), 1))
        small = cv2.resize(mask, size, interpolation=cv2.INTER_AREA)
        faded = cv2.GaussianBlur(small, (0, 0), width / 3 / shrink, borderType=cv2.BORDER_CONSTANT)
        return np.asarray(cv2.resize(faded, mask.shape[::-1], interpolation=cv2.INTER_LINEAR), np.uint8)
    return np.asarray(cv2.GaussianBlur(mask, (0, 0), width / 3, borderType=cv2.BORDER_CONSTANT), np.uint8)
