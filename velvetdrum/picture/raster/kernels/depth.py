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
_BAND = 16
"""Rows of pixels that are done at a time."""


@register_jitable(inline="always")
def _level(value):
    return uint32(int32(min(max(value, _F(0)), _F(255)) + _F(0.5)))


@register_jitable
def _run(line, depth, z, slope, number):
    """A row of one triangle; by itself, so that it goes eight samples at a time."""
    for i in range(line.size):
        here = z + _F(int32(i)) * slope
        seen = here > depth[i]
        depth[i] = here if seen else depth[i]
        line[i] = number if seen else line[i]


@register_jitable
def _rows(owners, nearest, first, x, y, plane, number):
    """The rows of one triangle in a band of samples that begins at a row of the picture."""
    height, width = nearest.shape
    top = max(int32(np.ceil(min(y[0], y[1], y[2]) - _F(0.5))), int32(first))
    bottom = min(int32(np.floor(max(y[0], y[1], y[2]) - _F(0.5))) + int32(1), int32(first + height))
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
        z = plane[0] + (_F(begin) + _F(0.5) - x[0]) * plane[1] + (at - y[0]) * plane[2]
        _run(owners[row - first, begin:end], nearest[row - first, begin:end], z, plane[1], number)


@register_jitable(inline="always")
def _colour(tones, number, x, y):
    """The opaque colour of a triangle at a place: blue, green and red at its first corner (at 0 and 1), with slopes."""
    t = tones[number - 1]
    dx, dy = x - t[0], y - t[1]
    blue, green, red = t[2] + dx * t[3] + dy * t[4], t[5] + dx * t[6] + dy * t[7], t[8] + dx * t[9] + dy * t[10]
    return uint32(
        uint32(_level(blue) | uint32(_level(green) << EIGHT))
        | uint32(uint32(_level(red) << uint32(16)) | uint32(0xFF000000))
    )


@register_jitable
def _inside(line, tone, x, y):
    """A row of pixels of one triangle, the first of which has its middle at a place."""
    dx, dy = x - tone[0], y - tone[1]
    blue, green, red = tone[2] + dy * tone[4], tone[5] + dy * tone[7], tone[8] + dy * tone[10]
    by, gy, ry = tone[3], tone[6], tone[9]
    for i in range(line.size):
        at = dx + _F(int32(2 * i))
        line[i] = uint32(
            uint32(_level(blue + at * by) | uint32(_level(green + at * gy) << EIGHT))
            | uint32(uint32(_level(red + at * ry) << uint32(16)) | uint32(0xFF000000))
        )


@register_jitable
def _resolved(upper, lower, near, next_, high, tones, line, depth):
    """Two rows of samples as a row of pixels; the upper one has its middle at `high`."""
    low = high + _F(1)
    x = 0
    x = 0
    while x < line.size:
        one, two, three, four = upper[2 * x], upper[2 * x + 1], lower[2 * x], lower[2 * x + 1]
        if one == two and one == three and one == four:
            # All pixels from here on that one triangle, or none, has for itself.
            end = x + 1
            while end < line.size and upper[2 * end] == one and upper[2 * end + 1] == one:
                if lower[2 * end] != one or lower[2 * end + 1] != one:
                    break
                end += 1
            if one == uint32(0):
                line[x:end] = uint32(0)
                depth[x:end] = _F(0)
            else:
                _inside(line[x:end], tones[one - 1], _F(int32(2 * x)) + _F(1), high + _F(0.5))
                for i in range(x, end):
                    depth[i] = near[2 * i]
            x = end
            continue
        left, right = _F(int32(2 * x)) + _F(0.5), _F(int32(2 * x)) + _F(1.5)
        a = _colour(tones, one, left, high) if one else uint32(0)
        b = _colour(tones, two, right, high) if two else uint32(0)
        c = _colour(tones, three, left, low) if three else uint32(0)
        d = _colour(tones, four, right, low) if four else uint32(0)
        blue = uint32(part(a, 0) + part(b, 0) + part(c, 0) + part(d, 0) + uint32(2)) >> uint32(2)
        green = uint32(part(a, 8) + part(b, 8) + part(c, 8) + part(d, 8) + uint32(2)) >> uint32(2)
        red = uint32(part(a, 16) + part(b, 16) + part(c, 16) + part(d, 16) + uint32(2)) >> uint32(2)
        alpha = uint32(part(a, 24) + part(b, 24) + part(c, 24) + part(d, 24) + uint32(2)) >> uint32(2)
        line[x] = uint32(
            uint32(uint32(blue) | uint32(uint32(green) << EIGHT))
            | uint32(uint32(uint32(red) << uint32(16)) | uint32(uint32(alpha) << uint32(24)))
        )
        best = max(max(near[2 * x], near[2 * x + 1]), max(next_[2 * x], next_[2 * x + 1]))
        depth[x] = best if alpha > uint32(127) else _F(0)
        x += 1


_TRIANGLES = void(
    written(uint32, 2), written(float32, 2), read(float32, 2), read(float32, 2), read(float32, 2), read(float32, 2)
)


@compiled(_TRIANGLES)
def triangles(out, out_nearest, xs, ys, planes, tones):
    """Triangles by depth, with four samples a pixel: premultiplied words, and what is nearest in each pixel (where two
    of its samples or more are covered). Places in samples, two to a pixel each way, shape (n, 3); the planes of
    nearness: the value at the first corner, and the slopes across and down, shape (n, 3); colours from 0 to 255 as
    `_colour` takes them, shape (n, 11). Bands of rows are done one after another, so that their samples stay at hand.
    """
    height, width = out.shape
    owners, nearest = np.empty((2 * _BAND, 2 * width), np.uint32), np.empty((2 * _BAND, 2 * width), np.float32)
    for band in range(0, height, _BAND):
        owners[:] = uint32(0)
        nearest[:] = _F(0)
        first, last = _F(int32(2 * band)), _F(int32(2 * (band + _BAND)))
        for n in range(xs.shape[0]):
            y = ys[n]
            if min(y[0], y[1], y[2]) < last and max(y[0], y[1], y[2]) > first:
                _rows(owners, nearest, 2 * band, xs[n], y, planes[n], uint32(n + 1))
        for row in range(min(_BAND, height - band)):
            upper, lower, near, next_ = owners[2 * row], owners[2 * row + 1], nearest[2 * row], nearest[2 * row + 1]
            high = first + _F(int32(2 * row)) + _F(0.5)
            _resolved(upper, lower, near, next_, high, tones, out[band + row], out_nearest[band + row])


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
