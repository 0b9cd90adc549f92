"""A floor in space, pixel by pixel: where the eye meets it there, and how near that is to the lines of its grid."""

from __future__ import annotations

import numpy as np
from numba import float32, float64, int32, int64, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import over, scaled

_F = np.float32
_THIN = float32(0.7)
"""Pixels that a line has at the least."""
_WIDE = float32(0.15)
"""What a line has in space, in per cent of the short side."""


@register_jitable(inline="always")
def _line(at, spacing, growth, wide):
    """How much of a pixel the nearest of evenly spaced lines covers: `at` is where the pixel lies, and by how much that
    grows from a pixel to the next. Lines too near to each other for pixels become what they cover in the mean."""
    away = abs(at - spacing * np.floor(at / spacing + _F(0.5))) / growth
    cover = min(max(min(_F(0.5) * wide + _F(0.5) - away, wide), _F(0)), _F(1))
    room = spacing / growth
    single = min(max((room - _F(1.5)) / _F(1.5), _F(0)), _F(1))
    return cover * single + min(wide / room, _F(1)) * (_F(1) - single)


_GRID = void(
    written(uint32), int64, int64, int64, int64, int64, read(float64, 2), float64, float64, float64, float64, uint32
)


@compiled(_GRID)
def grid(words, step, left, top, width, height, camera, level, spacing, reach, strength, colour):
    """The grid of a floor over words whose first pixel lies at `left` and `top` of the frame: lines on the floor (y =
    `level`) every `spacing` to both sides, up to `reach` from the middle, where they have faded. Lengths in per cent of
    the short side; `camera` in the rows that `meshes.seen` takes; `colour` is premultiplied, `strength` 0 to 1.
    """
    focal = float32(camera[4, 0])
    ex, ez = float32(camera[0, 0]), float32(camera[0, 2])
    height_above = float32(level - camera[0, 1])
    rx, ry, rz = float32(camera[1, 0]) / focal, float32(camera[1, 1]) / focal, float32(camera[1, 2]) / focal
    low, high, least = float32(camera[5, 0]), float32(camera[5, 1]), float32(camera[5, 2] * 2)
    space, far = float32(spacing), float32(reach)
    for row in range(height):
        down = float32(top + row + 0.5 - camera[4, 2])
        line = words[row * step : row * step + width]
        # The direction of the eye's ray, as far forward as a depth of one; it grows evenly along the row.
        across = float32(left + 0.5 - camera[4, 1])
        sx = float32(camera[2, 0]) / focal * down + float32(camera[3, 0])
        sy = float32(camera[2, 1]) / focal * down + float32(camera[3, 1])
        sz = float32(camera[2, 2]) / focal * down + float32(camera[3, 2])
        dx, dy, dz = float32(camera[2, 0]) / focal, float32(camera[2, 1]) / focal, float32(camera[2, 2]) / focal
        for column in range(width):
            along = across + float32(int32(column))
            y = sy + along * ry
            depth = height_above / y
            if not (depth > least and depth < _F(1e6)):
                continue
            vx, vz = sx + along * rx, sz + along * rz
            x, z = ex + depth * vx, ez + depth * vz
            away = x * x + z * z
            if away >= far * far:
                continue
            fade = _F(1) - np.sqrt(away) / far
            share = fade * np.sqrt(fade) * float32(strength)
            if high > low:
                mist = min(max((depth - low) / (high - low), _F(0)), _F(1))
                share *= _F(1) - mist * mist * (_F(3) - _F(2) * mist)
            # How fast the place on the floor moves from pixel to pixel.
            rate = depth / y
            gx = np.sqrt((rx * y - vx * ry) ** 2 + (dx * y - vx * dy) ** 2) * abs(rate)
            gz = np.sqrt((rz * y - vz * ry) ** 2 + (dz * y - vz * dy) ** 2) * abs(rate)
            wide = max(_WIDE * focal / depth, _THIN)
            one, other = _line(x, space, max(gx, _F(1e-9)), wide), _line(z, space, max(gz, _F(1e-9)), wide)
            part = uint32(int32(share * (one + other - one * other) * _F(255) + _F(0.5)))
            if part:
                line[column] = over(line[column], scaled(colour, part))
