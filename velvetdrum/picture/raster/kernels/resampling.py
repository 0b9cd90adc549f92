"""Pictures brought to another size and place, without a turn: straight lines between pixels."""

from __future__ import annotations

import numpy as np
from numba import int32, int64, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import EIGHT, EVEN

_HALVES = uint32(0x00800080)
_ODD = uint32(0xFF00FF00)
_WHOLE = uint32(256)

_RESAMPLE = void(
    read(uint32), int64, int64, int64, read(int32), read(uint32), read(int32), read(uint32), written(uint32, 2)
)


@register_jitable(inline="always")
def _between(one, rest, other, share):
    even = uint32(uint32(uint32(one & EVEN) * rest) + uint32(uint32(other & EVEN) * share))
    odd = uint32(uint32(uint32(one >> EIGHT) & EVEN) * rest) + uint32(uint32(uint32(other >> EIGHT) & EVEN) * share)
    even = uint32(uint32(uint32(even + _HALVES) >> EIGHT) & EVEN)
    return uint32(even | uint32(uint32(uint32(odd) + _HALVES) & _ODD))


@register_jitable
def _widen(words, step, width, height, row, columns, across, framed, out):
    """A row of a picture at its new width."""
    if row < 0 or row >= height:
        out[:] = uint32(0)
        return
    w = words[row * step : row * step + width]
    for x in range(width):
        framed[x + 1] = w[x]
    for x in range(out.shape[0]):
        at = uint32(columns[x] + 1)
        share = across[x]
        out[x] = _between(framed[at], uint32(_WHOLE - share), framed[uint32(at + uint32(1))], share)


@compiled(_RESAMPLE)
def resample(words, step, width, height, columns, across, rows, down, out):
    """Each pixel of `out` between four of a picture; what lies beside the picture is nothing.

    `columns` and `rows` are the pixels on the left and above, -1 to the picture's last one; `across` and `down` are the
    shares of those on the right and below, 0 to 256.
    """
    count = out.shape[1]
    # Rows are first brought to their new width, each once; a row of nothing lies above and below.
    framed = np.zeros(width + 2, np.uint32)
    upper, lower = np.zeros(count, np.uint32), np.zeros(count, np.uint32)
    upper_row, lower_row = int64(-2), int64(-2)
    for y in range(out.shape[0]):
        row = int64(rows[y])
        if row != upper_row:
            if row == lower_row:
                upper, lower = lower, upper
                upper_row, lower_row = lower_row, upper_row
            else:
                _widen(words, step, width, height, row, columns, across, framed, upper)
                upper_row = row
        if row + 1 != lower_row:
            _widen(words, step, width, height, row + 1, columns, across, framed, lower)
            lower_row = row + 1
        share = uint32(down[y])
        rest = uint32(_WHOLE - share)
        o = out[y]
        for x in range(count):
            o[x] = _between(upper[x], rest, lower[x], share)
