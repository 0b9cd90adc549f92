"""Gaussian blur, wide ones on smaller copies."""

from __future__ import annotations

import cv2
import numpy as np

from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.kernels import small_copies

_SMALLEST = 2.4
"""Sigma in pixels of the smallest copy that is blurred: below, straight lines between its cells would show. Seen beside
a hard edge: 2 levels at 2.4, 5 to 6 at 1.5."""
_LARGEST_STEP = 64
_REACH = 3.3
"""How far its kernel reaches, in sigmas: beyond lies a thousandth of the light."""
_PRECISE_STEP = 4
"""From this step on the small copy has more than eight bits a colour."""


def gaussian(pixels: Pixels, sigma: float) -> Pixels:
    """A Gaussian blur of premultiplied pixels, shape (height, width, 4); beyond their edges is nothing.

    A wide one is done on a small copy, that leaves a sigma of 2.4 to 4.8 pixels, and dithered on
    its way back: what is far from a light is less than a level, and would be lost. A copy of means over cells has been
    blurred a little already, and so has one that is brought back by straight lines: boxes of n pixels have a variance
    of (n^2 - 1) / 12, tents of that step one of about n^2 / 6; both are taken off.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    sigma
        Standard deviation in pixels.
    """
    if sigma < 0.05 or not pixels.size:
        return pixels
    height, width = pixels.shape[:2]
    step = 1
    while sigma / (step * 2) >= _SMALLEST and step < _LARGEST_STEP:
        step *= 2
    if step == 1:
        return np.asarray(cv2.GaussianBlur(pixels, (0, 0), sigma, borderType=cv2.BORDER_CONSTANT), np.uint8)
    rows, columns = -(-height // step), -(-width // step)
    if step < _PRECISE_STEP:
        return _on_bytes(pixels, sigma, step, rows, columns)
    framed = np.zeros((rows + 2, columns + 2, 4), np.float32)
    small = np.empty((rows, columns * 4), np.float32)
    small_copies.means(np.ascontiguousarray(pixels).reshape(height, width * 4), step, small)
    framed[1:-1, 1:-1] = small.reshape(rows, columns, 4)
    left = _left(sigma, step)
    taps = 2 * int(np.ceil(_REACH * left)) + 1
    soft = cv2.GaussianBlur(framed, (taps, taps), left, borderType=cv2.BORDER_CONSTANT)
    out = np.empty((height, width, 4), np.uint8)
    small_copies.enlarged(soft.reshape(rows + 2, -1), step, 1, out.reshape(height, width * 4))
    return out


def _on_bytes(pixels: Pixels, sigma: float, step: int, rows: int, columns: int) -> Pixels:
    """The same on a copy in bytes: a narrow blur loses little in them, and takes a third of the time."""
    height, width = pixels.shape[:2]
    # Whole cells, so that nothing shifts: what is added on the right and below is nothing.
    if (columns * step, rows * step) != (width, height):
        pixels = cv2.copyMakeBorder(pixels, 0, rows * step - height, 0, columns * step - width, cv2.BORDER_CONSTANT)  # type: ignore[assignment]
    small = cv2.resize(pixels, (columns, rows), interpolation=cv2.INTER_AREA)
    framed = cv2.copyMakeBorder(small, 1, 1, 1, 1, cv2.BORDER_CONSTANT)
    soft = cv2.GaussianBlur(framed, (0, 0), _left(sigma, step), borderType=cv2.BORDER_CONSTANT)
    large = cv2.resize(soft, ((columns + 2) * step, (rows + 2) * step))
    return np.asarray(large[step : step + height, step : step + width], np.uint8)


def _left(sigma: float, step: int) -> float:
    """What is left of a blur for a copy of a step, in its pixels."""
    return float(np.sqrt(sigma**2 - (step**2 - 1) / 12 - step**2 / 6) / step)
