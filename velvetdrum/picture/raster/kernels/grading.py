"""Colours through a matrix, as the colour filters of Filter Effects work."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import part

_F = np.float32


@register_jitable(inline="always")
def _bounded(value, alpha):
    """A premultiplied channel: no less than nothing, no more than alpha."""
    return uint32(int32(min(max(value + _F(0.5), _F(0)), alpha + _F(0.5))))


@compiled(void(read(uint32), int64, written(uint32), read(float32, 2), int64, int64))
def transform(words, step, out, matrix, width, height):
    """Premultiplied words through a matrix, shape (3, 4), for blue, green and red out of blue, green, red and alpha."""
    m00, m01, m02, m03 = matrix[0, 0], matrix[0, 1], matrix[0, 2], matrix[0, 3]
    m10, m11, m12, m13 = matrix[1, 0], matrix[1, 1], matrix[1, 2], matrix[1, 3]
    m20, m21, m22, m23 = matrix[2, 0], matrix[2, 1], matrix[2, 2], matrix[2, 3]
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        for x in range(width):
            v = w[x]
            b, g, r, a = _F(int32(part(v, 0))), _F(int32(part(v, 8))), _F(int32(part(v, 16))), _F(int32(part(v, 24)))
            blue = _bounded(m00 * b + m01 * g + m02 * r + m03 * a, a)
            green = _bounded(m10 * b + m11 * g + m12 * r + m13 * a, a)
            red = _bounded(m20 * b + m21 * g + m22 * r + m23 * a, a)
            o[x] = uint32(
                uint32(blue | uint32(green << uint32(8)))
                | uint32(uint32(red << uint32(16)) | uint32(v & uint32(0xFF000000)))
            )
