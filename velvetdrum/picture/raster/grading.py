"""Colours of whole pictures changed by a matrix, as Filter Effects 1 defines its colour filters."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Pixels, words_of
from velvetdrum.picture.raster.kernels import grading as kernels


def graded(pixels: Pixels, matrix: NDArray[np.float32]) -> Pixels:
    """Premultiplied pixels through a matrix, shape (3, 4): blue, green and red out of blue, green, red and alpha; no
    channel goes below nothing or above alpha.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    matrix
        BGR to BGR in linear light, shape (3, 3).
    """
    height, width = pixels.shape[:2]
    out = np.empty((height, width), np.uint32)
    kernels.transform(*words_of(pixels), out.reshape(-1), np.ascontiguousarray(matrix, np.float32), width, height)
    return out.view(np.uint8).reshape(height, width, 4)
