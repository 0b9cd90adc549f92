"""Light laid over a picture, dithered."""

from __future__ import annotations

import numpy as np
from numba import int32, int64, uint32, uint64, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.building import compiled, read, written
from velvetdrum.picture.raster.kernels.words import part

_EVEN = uint64(0x0000FFFF0000FFFF)
_F = np.float32


@register_jitable(inline="always")
def _mean(here, below, kept, share, grain):
    """Two of four fields of 16 bits between two rows, in 256ths, with grain added to both: whole levels."""
    total = uint64(uint64(here & _EVEN) * kept) + uint64(uint64(below & _EVEN) * share)
    total = uint64(uint64(total >> uint64(8)) & uint64(0x00FFFFFF00FFFFFF)) + grain
    # The brightest with grain is a level beyond a byte: what follows cuts it.
    return uint64(uint64(total >> uint64(8)) & uint64(0x000001FF000001FF))


@register_jitable(inline="always")
def _more(value, light, most):
    return uint32(min(uint32(value + light), most))


@compiled(void(written(uint32), int64, read(uint64, 2), int64, int64, int64, read(uint64, 2), int64, int64))
def add(words, step, light, cell, left, top, noise, width, height):
    """Add light to premultiplied words in place. `light` has rows at least as wide as the picture, each standing for
    `cell` rows of it: blue, green, red and alpha as 16 bits, in 256ths of a level. `left` and `top` are how far the
    first word lies within it. Noise of up to a level, then rounded down, keeps the mean. No channel goes beyond
    alpha."""
    last = light.shape[0] - 1
    for y in range(height):
        place = (_F(int32(y + top)) + _F(0.5)) / _F(int32(cell)) - _F(0.5)
        place = min(max(place, _F(0)), _F(int32(last)))
        i = int64(place)
        share = uint64(int32((place - _F(i)) * _F(256)))
        kept = uint64(256) - share
        w = words[y * step : y * step + width]
        here, below, row = light[i], light[min(i + 1, last)], noise[y & 255]
        begin = 0
        while begin < width:
            count = min(256, width - begin)
            for x in range(count):
                v, a, b, grain = w[begin + x], here[left + begin + x], below[left + begin + x], row[x]
                even = _mean(a, b, kept, share, grain)
                odd = _mean(uint64(a >> uint64(16)), uint64(b >> uint64(16)), kept, share, grain)
                most = _more(part(v, 24), uint32(odd >> uint64(32)), uint32(255))
                blue, red = _more(part(v, 0), uint32(even), most), _more(part(v, 16), uint32(even >> uint64(32)), most)
                green = _more(part(v, 8), uint32(odd), most)
                w[begin + x] = uint32(
                    uint32(blue | uint32(green << uint32(8)))
                    | uint32(uint32(red << uint32(16)) | uint32(most << uint32(24)))
                )
            begin += count
