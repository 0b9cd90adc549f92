"""The pixels of a frame, or of an area of it or beyond it, and the few operations that layers draw with.

Skia draws coverage and plain colours straight into them; whole areas are blended by compiled loops.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any, Protocol

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Area, Coverage, Pixels, words_of
from velvetdrum.picture.raster.blending import blend, tint
from velvetdrum.picture.raster.colour import Colours
from velvetdrum.picture.raster.viewport import Box, Viewport, around, common, is_empty

_MOST_SPARE = 8


class Fills(Protocol):
    """Anything that fills itself onto a surface: each part in its colour (0xaarrggbb), or all in white."""

    def fill(self, onto: skia.Canvas, colours: Sequence[int] | None) -> None:
        """Fill a path or a mask with a paint.

        Parameters
        ----------
        onto
            The surface, in pixels of the frame.
        colours
            Words 0xaarrggbb, one for each part; None for opaque white.
        """


class Canvas(Viewport):
    """Pixels of a frame being drawn. `area` says which: all of the frame, a part of it, or more than it."""

    def __init__(
        self, width: int, height: int, area: Area | None = None, spare: list[NDArray[np.uint32]] | None = None
    ) -> None:
        """A canvas with nothing settled on it yet: `clear` or `paste` comes first. `spare` is memory to lend."""
        super().__init__(width, height)
        self.area = area or self.frame
        self._spare: list[NDArray[np.uint32]] = [] if spare is None else spare
        left, top, right, bottom = self.area
        # Memory begins at the frame's corner where it can: paths are then filled with the very coordinates that they
        # have on a whole frame, and so to the same bytes. What lies before the area is never read.
        x, y = self._origin = min(left, 0), min(top, 0)
        count = (right - x) * (bottom - y)
        self._memory = self._taken(count)
        self._whole = self._memory[:count].reshape(bottom - y, right - x)
        self._words = self._whole[top - y :, left - x :]
        self.pixels: Pixels = self._whole.view(np.uint8).reshape(*self._whole.shape, 4)[top - y :, left - x :]
        self.touched: Area | None = None
        """What has been drawn on since it was cleared, at the most; None for nothing."""
        self._surface: skia.Surface | None = None

    def _taken(self, count: int) -> NDArray[np.uint32]:
        fitting = [memory for memory in self._spare if memory.size >= count]
        if not fitting:
            return np.empty(count, np.uint32)
        result = min(fitting, key=lambda memory: memory.size)
        for index, memory in enumerate(self._spare):
            if memory is result:
                del self._spare[index]
                break
        return result

    def fill(self, colour: str) -> None:
        """One opaque colour (#rrggbb) over all of the frame that is at hand.

        Parameters
        ----------
        colour
            A colour as #rrggbb.
        """
        here = common(self.area, self.frame)
        self.part(here).view(np.uint32)[..., 0] = 0xFF000000 | int(colour[1:], 16)
        self.touch(here)

    def clear(self, colour: str = "#000000") -> None:
        """One opaque colour (#rrggbb) everywhere.

        Parameters
        ----------
        colour
            A colour as #rrggbb.
        """
        self._words[:] = 0xFF000000 | int(colour[1:], 16)
        self.touched = self.area

    def clear_through(self) -> None:
        """Nothing everywhere: transparent black."""
        self._words[:] = 0
        self.touched = None

    def touch(self, area: Area) -> None:
        """Say that something was drawn on an area.

        Parameters
        ----------
        area
            Whole pixels of the frame that were drawn on, at the most.
        """
        self.touched = around(self.touched, common(area, self.area))

    @contextmanager
    def lent(self, viewport: Viewport, area: Area) -> Iterator[Canvas]:
        """Another canvas with nothing on it, for as long as the block lasts; its memory is used again.

        Parameters
        ----------
        viewport
            The frame that it is a part of.
        area
            Whole pixels of the frame: left, top, right, bottom.
        """
        other = Canvas(viewport.width, viewport.height, area, self._spare)
        other.clear_through()
        try:
            yield other
        finally:
            if len(self._spare) < _MOST_SPARE:
                self._spare.append(other._memory)

    def part(self, area: Area) -> Pixels:
        """The pixels of an area that lies within this canvas's; what is written to them is drawn.

        Parameters
        ----------
        area
            Whole pixels of the frame: left, top, right, bottom.
        """
        left, top = self.area[:2]
        return self.pixels[area[1] - top : area[3] - top, area[0] - left : area[2] - left]

    def target(self) -> tuple[NDArray[np.uint32], int, int, int, int, int]:
        """What compiled loops draw into: the words of all that is at hand, the step from row to row, and left, top,
        width and height in pixels of the frame."""
        left, top, right, bottom = self.area
        words, step = words_of(self.part(self.area))
        return words, step, left, top, right - left, bottom - top

    def paste(self, pixels: Pixels) -> None:
        """Replace all of the frame that is at hand with opaque pixels of the frame's size.

        Parameters
        ----------
        pixels
            Opaque BGRA pixels of the frame's size.
        """
        here = common(self.area, self.frame)
        np.copyto(self.part(here), pixels[here[1] : here[3], here[0] : here[2]])
        self.touch(here)

    def reveal(
        self, shapes: Sequence[Fills], colours: Colours, box: Box, opacity: float, softness: float = 0.0
    ) -> None:
        """Show colours through shapes with antialiased edges, or with edges that fade over `softness` pixels; what lies
        outside of `box` is not touched.

        Parameters
        ----------
        shapes
            What fills itself.
        colours
            The colours of an area.
        box
            What may be covered, in pixels of the frame.
        opacity
            0 to 1.
        softness
            Width of the edge in pixels.
        """
        here = common(box.pixels(self.area), colours.area)
        if is_empty(here):
            return
        mask = self.mask(shapes, here)
        if softness > 0:
            mask = softened(mask, softness)
        colours.lay(self.part(here), here[:2], mask, opacity)
        self.touch(here)

    def tint(self, shapes: Sequence[Fills], colour: int, box: Box, softness: float = 0.0) -> None:
        """As `reveal`, in one premultiplied colour (0xaarrggbb).

        Parameters
        ----------
        shapes
            What fills itself.
        colour
            A premultiplied word, 0xaarrggbb.
        box
            What may be covered, in pixels of the frame.
        softness
            Width of the edge in pixels.
        """
        here = box.pixels(self.area)
        if is_empty(here):
            return
        mask = self.mask(shapes, here)
        tint(self.part(here), colour, softened(mask, softness) if softness > 0 else mask)
        self.touch(here)

    def tint_mask(self, mask: Coverage, area: Area, colour: int) -> None:
        """One premultiplied colour (0xaarrggbb) through a mask of an area; what of it is not at hand is left out.

        Parameters
        ----------
        mask
            Coverage, 0 to 255, shape (height, width).
        area
            Whole pixels of the frame: left, top, right, bottom.
        colour
            A premultiplied word, 0xaarrggbb.
        """
        here = common(area, self.area)
        if is_empty(here):
            return
        cut = mask[here[1] - area[1] : here[3] - area[1], here[0] - area[0] : here[2] - area[0]]
        tint(self.part(here), colour, cut)
        self.touch(here)

    def mask(self, shapes: Sequence[Fills], area: Area) -> Coverage:
        """Coverage of shapes in the pixels of an area, 0 to 255.

        Parameters
        ----------
        shapes
            What fills itself.
        area
            Whole pixels of the frame: left, top, right, bottom.
        """
        left, top, right, bottom = area
        mask = np.zeros((bottom - top, right - left), np.uint8)
        info = skia.ImageInfo.MakeA8(mask.shape[1], mask.shape[0])
        with skia.Surface.MakeRasterDirect(info, mask, mask.shape[1]) as drawn:
            drawn.translate(-left, -top)
            for shape in shapes:
                shape.fill(drawn, None)
        return mask

    def blend(
        self, above: Pixels, area: Area, mode: str = "normal", mask: Coverage | None = None, opacity: float = 1.0
    ) -> None:
        """Blend premultiplied pixels over an area of their size; what of it is not at hand is left out.

        Parameters
        ----------
        above
            Premultiplied BGRA pixels of the size of the area.
        area
            Whole pixels of the frame: left, top, right, bottom.
        mode
            Name of a blend mode.
        mask
            Coverage, 0 to 255, shape (height, width).
        opacity
            0 to 1.
        """
        here = common(area, self.area)
        if is_empty(here):
            return
        if here != area:
            cut: Any = np.s_[here[1] - area[1] : here[3] - area[1], here[0] - area[0] : here[2] - area[0]]
            above, mask = above[cut], mask if mask is None else mask[cut]
        blend(self.part(here), above, mode, mask, opacity)
        self.touch(here)

    def surface(self, box: Box | None = None) -> skia.Canvas:
        """A surface that draws straight into the pixels, in pixels of the frame. `box`: what is going to be drawn on,
        all without it.

        Parameters
        ----------
        box
            What is going to be drawn on; all without it.
        """
        if self._surface is None:
            whole = self._whole.view(np.uint8).reshape(*self._whole.shape, 4)
            self._surface = skia.Surface(whole, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
            if self._origin != (0, 0):
                self._surface.getCanvas().translate(-self._origin[0], -self._origin[1])
        self.touch(self.area if box is None else box.pixels(self.area))
        return self._surface.getCanvas()


def softened(mask: Coverage, width: float) -> Coverage:
    """A mask with its edges faded over `width` pixels. Wide fades are worked out on a smaller copy.

    Parameters
    ----------
    mask
        How much of each pixel is let through, 0 to 255, shape (height, width); None for all.
    width
        Width of the edge in pixels.
    """
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
