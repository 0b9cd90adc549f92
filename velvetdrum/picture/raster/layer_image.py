"""A layer's picture between two stages: pixels that lie anywhere in the frame, or beyond it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from velvetdrum.limits.records import changed
from velvetdrum.picture.raster.areas import Area, Coverage, Pixels
from velvetdrum.picture.raster.viewport import common


@dataclass(frozen=True)
class LayerImage:
    """Premultiplied pixels with their corner at a whole pixel of the frame. Outside of them there is nothing."""

    left: int
    top: int
    pixels: Pixels
    cover: Coverage | None = None
    """How much of each pixel the layer's masks let through; None for all."""
    opacity: float = 1.0

    @property
    def bounds(self) -> Area:
        """Where it lies: left, top, right, bottom in pixels of the frame."""
        height, width = self.pixels.shape[:2]
        return self.left, self.top, self.left + width, self.top + height

    @property
    def empty(self) -> bool:
        """True when nothing of it is left to be laid."""
        return not self.pixels.size

    def within(self, area: Area) -> LayerImage:
        """The part that lies in an area, without a copy.

        Parameters
        ----------
        area
            Whole pixels of the frame: left, top, right, bottom.
        """
        here = common(self.bounds, area)
        if here == self.bounds:
            return self
        cut = np.s_[here[1] - self.top : here[3] - self.top, here[0] - self.left : here[2] - self.left]
        cover = None if self.cover is None else self.cover[cut]
        return changed(self, left=here[0], top=here[1], pixels=self.pixels[cut], cover=cover)

    def trimmed(self) -> LayerImage:
        """Without the rows and columns at its edges in which there is nothing."""
        if self.empty:
            return self
        left, top, width, height = cv2.boundingRect(cv2.extractChannel(self.pixels, 3))
        left, top = left + self.left, top + self.top
        return self.within((left, top, left + width, top + height))

    def spread(self, area: Area) -> Pixels:
        """Its pixels in an area, with nothing round them: a copy, rows side by side.

        Parameters
        ----------
        area
            Whole pixels of the frame: left, top, right, bottom.
        """
        out = np.zeros((area[3] - area[1], area[2] - area[0], 4), np.uint8)
        inside = self.within(area)
        if not inside.empty:
            left, top, right, bottom = inside.bounds
            out[top - area[1] : bottom - area[1], left - area[0] : right - area[0]] = inside.pixels
        return out


NOTHING = LayerImage(0, 0, np.zeros((0, 0, 4), np.uint8))
"""A picture of no pixels."""
