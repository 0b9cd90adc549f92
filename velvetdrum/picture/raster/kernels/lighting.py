"""Light laid over a picture, dithered."""

from __future__ import annotations

import numpy as np
from numba import int32, int64, uint8, uint16, uint32, void

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import part

_F = np.float32
_CHUNK = 1024


@compiled(void(written(uint8), int64, read(uint16, 2), int64, int64, int64, read(uint16, 2), int64, int64))
def add(channels, step, light, cell, left, top, noise, count, height):
    """Add light to `count` bytes of each row in place. `light` has rows at least as wide as the picture, each standing
    for `cell` rows of it: a channel each in 16 bits, in 256ths of a level. `left` bytes and `top` rows are how far the
    first byte lies within it. Noise of up to a level, then rounded down, keeps the mean; 255 is the most."""
    last = light.shape[0] - 1
    for y in range(height):
        place = (_F(int32(y + top)) + _F(0.5)) / _F(int32(cell)) - _F(0.5)
        place = min(max(place, _F(0)), _F(int32(last)))
        i = int64(place)
        share = uint32(int32((place - _F(i)) * _F(256)))
        kept = uint32(uint32(256) - share)
        row = channels[y * step : y * step + count]
        here, below = light[i, left : left + count], light[min(i + 1, last), left : left + count]
        for begin in range(0, count, _CHUNK):
            end = min(begin + _CHUNK, count)
            w, a, b, grain = row[begin:end], here[begin:end], below[begin:end], noise[y & 255]
            for x in range(w.size):
                level = uint32(uint32(uint32(uint32(a[x]) * kept) + uint32(uint32(b[x]) * share)) >> uint32(8))
                level = uint32(uint32(level + uint32(grain[x])) >> uint32(8))
                w[x] = uint8(min(uint32(uint32(w[x]) + level), uint32(255)))


@compiled(void(written(uint32), int64, int64, int64))
def limit(words, step, width, height):
    """Premultiplied words in place: no colour goes beyond alpha."""
    for y in range(height):
        w = words[y * step : y * step + width]
        for x in range(width):
            v = w[x]
            most = part(v, 24)
            blue, green, red = min(part(v, 0), most), min(part(v, 8), most), min(part(v, 16), most)
            w[x] = uint32(
                uint32(blue | uint32(green << uint32(8)))
                | uint32(uint32(red << uint32(16)) | uint32(most << uint32(24)))
            )
