"""Gaussian blur, wide ones on smaller copies."""

from __future__ import annotations

import cv2
import numpy as np

from velvetdrum.picture.raster.areas import Pixels

_SMALLEST = 1.5
"""Sigma in pixels of the smallest copy that is blurred: below, the copy itself would show."""


def gaussian(pixels: Pixels, sigma: float) -> Pixels:
    """A Gaussian blur of premultiplied pixels, shape (height, width, 4); beyond their edges is nothing.

    A wide one is done on a copy that is halved as often as leaves a sigma of 1.5 to 3 pixels. A copy that is halved by
    means of two by two has been blurred a little already, and so has one that is brought back by straight lines: boxes
    of n pixels have a variance of (n^2 - 1) / 12, tents of that step one of about n^2 / 6; both are taken off.
    """
    if sigma < 0.05 or not pixels.size:
        return pixels
    height, width = pixels.shape[:2]
    step = 1
    while sigma / (step * 2) >= _SMALLEST:
        step *= 2
    if step == 1:
        return np.asarray(cv2.GaussianBlur(pixels, (0, 0), sigma, borderType=cv2.BORDER_CONSTANT), np.uint8)
    # Whole cells, so that nothing shifts: what is added on the right and below is nothing.
    cells_x, cells_y = -(-width // step), -(-height // step)
    if (cells_x * step, cells_y * step) != (width, height):
        pixels = cv2.copyMakeBorder(pixels, 0, cells_y * step - height, 0, cells_x * step - width, cv2.BORDER_CONSTANT)  # type: ignore[assignment]
    small = cv2.resize(pixels, (cells_x, cells_y), interpolation=cv2.INTER_AREA)
    margin = 1
    framed = cv2.copyMakeBorder(small, margin, margin, margin, margin, cv2.BORDER_CONSTANT)
    left = sigma**2 - (step**2 - 1) / 12 - step**2 / 6
    blurred = cv2.GaussianBlur(framed, (0, 0), np.sqrt(left) / step, borderType=cv2.BORDER_CONSTANT)
    large = cv2.resize(blurred, ((cells_x + 2 * margin) * step, (cells_y + 2 * margin) * step))
    return np.asarray(large[margin * step : margin * step + height, margin * step : margin * step + width], np.uint8)
