"""Pictures as small copies with more than eight bits, and back: what a wide blur is done on."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint8, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written

_THRESHOLDS = (np.array([[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]], np.float32) * 2 + 1) / 32
"""Bayer's order of 4 by 4 pixels, in levels."""


@compiled(void(read(uint8, 2), int64, written(float32, 2)))
def means(pixels, step, out):
    """Means over cells of `step` by `step` pixels, in levels; shape (height, width * 4) to (rows, columns * 4). What a
    cell has beyond the picture is nothing."""
    height, wide = pixels.shape
    columns = out.shape[1] // 4
    sums = np.zeros(columns * step * 4, np.uint32)
    share = np.float32(1.0 / (step * step))
    for row in range(out.shape[0]):
        sums[:] = uint32(0)
        # Whole rows first: the machine adds many at a time.
        for y in range(row * step, min(row * step + step, height)):
            line = pixels[y]
            for x in range(wide):
                sums[x] += uint32(line[x])
        to = out[row]
        for column in range(columns):
            for k in range(4):
                total = uint32(0)
                for x in range(step):
                    total += sums[(column * step + x) * 4 + k]
                to[column * 4 + k] = np.float32(total) * share


@register_jitable
def _widened(small, step, margin, out):
    """A row of a small copy at its full width."""
    unit = np.float32(1.0 / (2 * step))
    for x in range(out.shape[0] // 4):
        place = 2 * (x + margin * step) + 1 - step
        column = place // (2 * step)
        share = np.float32(place - column * 2 * step) * unit
        for k in range(4):
            one, other = small[column * 4 + k], small[column * 4 + 4 + k]
            out[x * 4 + k] = one + (other - one) * share


@compiled(void(read(float32, 2), int64, int64, written(uint8, 2)))
def enlarged(small, step, margin, out):
    """A small copy at `step` times its size, by straight lines between the middles of its cells, dithered to bytes; the
    first `margin` cells on each side lie outside. Shape (rows, columns * 4) to (height, width * 4)."""
    height, wide = out.shape
    upper, lower = np.zeros(wide, np.float32), np.zeros(wide, np.float32)
    dither = np.zeros((4, wide), np.float32)
    for y in range(4):
        for x in range(wide):
            dither[y, x] = _THRESHOLDS[y, (x // 4) & 3]
    unit, known = np.float32(1.0 / (2 * step)), int64(-2)
    for y in range(height):
        # Twice the distance from the middle of the cell above, in whole numbers.
        place = 2 * (y + margin * step) + 1 - step
        row = place // (2 * step)
        if row != known:
            if row == known + 1:
                upper, lower = lower, upper
            else:
                _widened(small[row], step, margin, upper)
            _widened(small[row + 1], step, margin, lower)
            known = row
        share = np.float32(place - row * 2 * step) * unit
        to, threshold = out[y], dither[y & 3]
        for x in range(wide):
            value = upper[x] + (lower[x] - upper[x]) * share + threshold[x]
            to[x] = uint8(int32(min(max(value, np.float32(0)), np.float32(255))))
