"""Pixels as the planes of a video frame."""

from __future__ import annotations

from typing import Any

import numpy as np

from velvetdrum.picture.raster.areas import Pixels, words_of
from velvetdrum.picture.raster.kernels import planes as kernels


def to_bt709(pixels: Pixels, planes: tuple[Any, Any, Any], steps: tuple[int, int, int]) -> None:
    """Write opaque BGRA pixels into the planes Y', Cb and Cr of a frame: ITU-R BT.709, limited range, chroma at half
    size. `planes` are writable buffers with so many bytes from row to row (`steps`); width and height are even.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    planes
        The planes Y', Cb and Cr, each of bytes.
    steps
        Bytes from one row to the next, by plane.
    """
    height, width = pixels.shape[:2]
    luma, blue, red = (np.frombuffer(plane, np.uint8) for plane in planes)
    words, step = words_of(pixels)
    kernels.to_bt709(words, step, luma, steps[0], blue, steps[1], red, steps[2], width, height)
