"""Triangles by depth: what is nearest in each of four samples of a pixel, and what comes through to a picture.

Depth is kept as nearness, 1 / depth, which is linear over the frame; 0 is nothing.
"""

from __future__ import annotations

import numpy as np
from numba import float32, int32, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.building import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, EIGHT, part, scaled

_F = np.float32


@register_jitable(inline="always")
def _plane(x, y, values, area):
    """A linear function that has three values at three points: its value at the first, and its slopes."""
    dx = ((values[1] - values[0]) * (y[2] - y[0]) - (values[2] - values[0]) * (y[1] - y[0])) / area
    dy = ((values[2] - values[0]) * (x[1] - x[0]) - (values[1] - values[0]) * (x[2] - x[0])) / area
    return values[0], dx, dy


@register_jitable(inline="always")
def _level(value):
    return uint32(int32(min(max(value, _F(0)), _F(255)) + _F(0.5)))


@compiled(
    void(
        written(uint32, 2), written(float32, 2), read(float32, 2), read(float32, 2), read(float32, 2), read(float32, 3)
    )
)
def triangles(colours, nearest, xs, ys, nears, tones):
    """Triangles into a picture of samples, opaque. Places in samples and nearness, shape (n, 3); blue, green and red of
    the corners from 0 to 255, shape (n, 3, 3), joined along straight lines."""
    height, width = nearest.shape
    for n in range(xs.shape[0]):
        x, y, near, tone = xs[n], ys[n], nears[n], tones[n]
        area = (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0])
        if area == _F(0):
            continue
        z0, zx, zy = _plane(x, y, near, area)
        b0, bx, by = _plane(x, y, tone[:, 0], area)
        g0, gx, gy = _plane(x, y, tone[:, 1], area)
        r0, rx, ry = _plane(x, y, tone[:, 2], area)
        top = max(int32(np.ceil(min(y[0], y[1], y[2]) - _F(0.5))), int32(0))
        bottom = min(int32(np.floor(max(y[0], y[1], y[2]) - _F(0.5))) + int32(1), int32(height))
        for row in range(top, bottom):
            at = _F(int32(row)) + _F(0.5)
            # Where the row crosses the edges: a sample belongs to the triangle whose left edge is at or before it.
            low, high = _F(1e9), _F(-1e9)
            for edge in range(3):
                other = (edge + 1) % 3
                y1, y2 = y[edge], y[other]
                if (y1 <= at) == (y2 <= at):
                    continue
                place = x[edge] + (at - y1) * (x[other] - x[edge]) / (y2 - y1)
                low, high = min(low, place), max(high, place)
            if high < low:
                continue
            begin = max(int32(np.ceil(max(low, _F(0)) - _F(0.5))), int32(0))
            end = min(int32(np.ceil(min(high, _F(int32(width))) - _F(0.5))), int32(width))
            if end <= begin:
                continue
            dx, dy = _F(begin) + _F(0.5) - x[0], at - y[0]
            z, b, g, r = z0 + dx * zx + dy * zy, b0 + dx * bx + dy * by, g0 + dx * gx + dy * gy, r0 + dx * rx + dy * ry
            line, depth = colours[row, begin:end], nearest[row, begin:end]
            for i in range(line.size):
                k = _F(int32(i))
                here = z + k * zx
                seen = here > depth[i]
                colour = uint32(
                    uint32(_level(b + k * bx) | uint32(_level(g + k * gx) << EIGHT))
                    | uint32(uint32(_level(r + k * rx) << uint32(16)) | uint32(0xFF000000))
                )
                depth[i] = here if seen else depth[i]
                line[i] = colour if seen else line[i]


@compiled(void(read(uint32, 2), read(float32, 2), written(uint32, 2), written(float32, 2)))
def resolve(colours, nearest, out, out_nearest):
    """Samples, two by two a pixel, as premultiplied words, and what is nearest of four, where two are there."""
    for y in range(out.shape[0]):
        upper, lower = colours[2 * y], colours[2 * y + 1]
        near, next_ = nearest[2 * y], nearest[2 * y + 1]
        line, depth = out[y], out_nearest[y]
        for x in range(line.size):
            one, two, three, four = upper[2 * x], upper[2 * x + 1], lower[2 * x], lower[2 * x + 1]
            blue = uint32(part(one, 0) + part(two, 0) + part(three, 0) + part(four, 0) + uint32(2)) >> uint32(2)
            green = uint32(part(one, 8) + part(two, 8) + part(three, 8) + part(four, 8) + uint32(2)) >> uint32(2)
            red = uint32(part(one, 16) + part(two, 16) + part(three, 16) + part(four, 16) + uint32(2)) >> uint32(2)
            alpha = uint32(part(one, 24) + part(two, 24) + part(three, 24) + part(four, 24) + uint32(2)) >> uint32(2)
            line[x] = uint32(
                uint32(uint32(blue) | uint32(uint32(green) << EIGHT))
                | uint32(uint32(uint32(red) << uint32(16)) | uint32(uint32(alpha) << uint32(24)))
            )
            best = max(max(near[2 * x], near[2 * x + 1]), max(next_[2 * x], next_[2 * x + 1]))
            depth[x] = best if alpha > uint32(127) else _F(0)


@compiled(void(written(uint32, 2), written(float32, 2), float32, float32, float32))
def keep_nearer(words, nearest, at, across, down):
    """Premultiplied words of a flat picture whose nearness is a plane (at the first pixel's middle, and its slopes):
    what is hidden, or behind the eye, is cleared; where it is mostly solid, it hides what comes after it."""
    for y in range(words.shape[0]):
        w, depth = words[y], nearest[y]
        first = at + _F(int32(y)) * down
        for x in range(w.size):
            here = first + _F(int32(x)) * across
            v = w[x]
            seen = here > depth[x] and here > _F(0)
            w[x] = v if seen else uint32(0)
            depth[x] = here if seen and part(v, 24) > uint32(127) else depth[x]


@compiled(void(written(uint32, 2), uint32, uint32))
def veil(words, colour, share):
    """Premultiplied words toward an opaque colour (0xffrrggbb), by a share of 255; alpha stays."""
    for y in range(words.shape[0]):
        w = words[y]
        for x in range(w.size):
            v = w[x]
            fog = scaled(scaled(colour, part(v, 24)), share)
            w[x] = uint32(scaled(v, uint32(BYTE - share)) + fog)
