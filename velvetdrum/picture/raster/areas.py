"""Areas of pixels, and how compiled loops are handed them."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.lib.stride_tricks import as_strided
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]
"""BGRA bytes, premultiplied, top row first, shape (height, width, 4)."""

Coverage = NDArray[np.uint8]
"""How much of each pixel there is, 0 to 255, shape (height, width)."""

Area = tuple[int, int, int, int]
"""Whole pixels of a frame: left, top, right, bottom."""


def words_of(pixels: Pixels) -> tuple[NDArray[np.uint32], int]:
    """Pixels as a line of words from the first one on, and the step from row to row in words. Pixels of a row must lie
    side by side; not to be kept longer than the pixels.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    """
    if pixels.strides[1:] != (4, 1):
        raise ValueError("pixels of a row must lie side by side")
    return _line(pixels.view(np.uint32)[..., 0])


def bytes_of(mask: NDArray[Any]) -> tuple[NDArray[Any], int]:
    """A mask, or any other plane of numbers, as one line from its first one on, and the step from row to row.

    Parameters
    ----------
    mask
        One word for each pixel.
    """
    if mask.strides[1] != mask.itemsize:
        mask = np.ascontiguousarray(mask)
    return _line(mask)


def _line(plane: NDArray[Any]) -> tuple[NDArray[Any], int]:
    height, width = plane.shape
    if plane.flags.c_contiguous:
        return plane.reshape(-1), width
    step = plane.strides[0] // plane.itemsize
    return as_strided(plane, ((height - 1) * step + width,), (plane.itemsize,)), step
