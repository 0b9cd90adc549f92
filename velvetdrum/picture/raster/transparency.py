"""Straight alpha, for files that hold it: colours apart from how solid they are, without a fringe."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Pixels

_REACH = 16
"""How far colours go on beyond an edge, in pixels: as far as a block of an encoder."""


def straight(pixels: Pixels) -> NDArray[np.uint8]:
    """Premultiplied pixels with their colours undone, 0 to 255; where there is nothing the colour is black.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    """
    alpha = pixels[..., 3:].astype(np.uint16)
    result = pixels.copy()
    half = np.maximum(alpha, 1) // 2
    result[..., :3] = np.minimum((pixels[..., :3].astype(np.uint16) * 255 + half) // np.maximum(alpha, 1), 255)
    return result


def bled(pixels: Pixels) -> NDArray[np.uint8]:
    """As `straight`, with the colours of edges going on where there is nothing: what encodes colour in blocks, or at a
    half of the size, then has no dark fringe to mix in.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    """
    result = straight(pixels)
    alpha = pixels[..., 3]
    clear = alpha < 8
    if not clear.any() or clear.all():
        return result
    soft = cv2.blur(pixels, (2 * _REACH + 1, 2 * _REACH + 1))
    near = straight(np.asarray(soft, np.uint8))
    result[clear, :3] = near[clear, :3]
    return result
