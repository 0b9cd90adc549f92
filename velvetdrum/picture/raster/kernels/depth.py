"""Faces by depth: what is nearest in each of four samples of a pixel, and what comes through to a picture.

Depth is kept as nearness, 1 / depth, which is linear over the frame; 0 is nothing.
"""

from __future__ import annotations

import numpy as np
from numba import float32, int32, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, EIGHT, part, scaled

_F = np.float32
_BAND = 16
"""Rows of pixels that are done at a time."""


@register_jitable(inline="always")
def _level(value):
    return uint32(int32(min(max(value, _F(0)), _F(255)) + _F(0.5)))


@register_jitable
def _run(line, depth, z, slope, number):
    """A row of one face; by itself, so that it goes eight samples at a time."""
    for i in range(line.size):
        here = z + _F(int32(i)) * slope
        seen = here > depth[i]
        depth[i] = here if seen else depth[i]
        line[i] = number if seen else line[i]


@register_jitable
def _edges(x, y, first, last, spans, edges):
    """The four edges of a face: their rows of samples between two, and where they lie: across and down at their upper
    end, and how far they go across from one row to the next. Faces beside each other reckon an edge alike."""
    for i in range(4):
        j = (i + 1) & 3
        upper, lower = (i, j) if y[i] <= y[j] else (j, i)
        # A sample belongs to a face where an edge's upper end is at or above it, and its lower end below.
        spans[i, 0] = int32(max(np.ceil(y[upper] - _F(0.5)), _F(int32(first))))
        spans[i, 1] = int32(min(np.ceil(y[lower] - _F(0.5)), _F(int32(last))))
        edges[i, 0], edges[i, 1] = x[upper], y[upper]
        edges[i, 2] = (x[lower] - x[upper]) / (y[lower] - y[upper]) if y[lower] > y[upper] else _F(0)


@register_jitable
def _between(owners, nearest, first, begin, end, left, right, x, y, plane, number):
    """The rows of a face that lie between the same two edges."""
    width = nearest.shape[1]
    for row in range(begin, end):
        at = _F(int32(row)) + _F(0.5)
        low, high = left[0] + (at - left[1]) * left[2], right[0] + (at - right[1]) * right[2]
        low_at = int32(np.ceil(min(max(low, _F(0)), _F(int32(width))) - _F(0.5)))
        high_at = int32(np.ceil(min(max(high, _F(0)), _F(int32(width))) - _F(0.5)))
        if high_at > low_at:
            z = plane[0] + (_F(low_at) + _F(0.5) - x) * plane[1] + (at - y) * plane[2]
            _run(owners[row - first, low_at:high_at], nearest[row - first, low_at:high_at], z, plane[1], number)


@register_jitable
def _rows(owners, nearest, first, x, y, plane, number, spans, edges):
    """The rows of one face in a band of samples that begins at a row of the picture."""
    last = first + nearest.shape[0]
    _edges(x, y, first, last, spans, edges)
    row = int32(last)
    for i in range(4):
        if spans[i, 1] > spans[i, 0]:
            row = min(row, spans[i, 0])
    while row < last:
        # The two edges that this row crosses, and how far down they are the same two.
        one, other, to = -1, -1, int32(last)
        for i in range(4):
            if spans[i, 0] <= row < spans[i, 1]:
                to = min(to, spans[i, 1])
                if one < 0:
                    one = i
                else:
                    other = i
            elif row < spans[i, 0] < spans[i, 1]:
                to = min(to, spans[i, 0])
        if other < 0:
            break
        half = (_F(row) + _F(to)) * _F(0.5)
        if edges[one, 0] + (half - edges[one, 1]) * edges[one, 2] > (
            edges[other, 0] + (half - edges[other, 1]) * edges[other, 2]
        ):
            one, other = other, one
        _between(owners, nearest, first, row, to, edges[one], edges[other], x[0], y[0], plane, number)
        row = to


@register_jitable
def _pictured(m, sheet, fog, x, y, near, blue, green, red):
    """The opaque colour of a face with a picture, at a place from its first corner: the picture between four of
    its pixels, over the colour below, times the light (0 to 255), and the fog. `m` as `faces` has it."""
    depth = _F(1) / max(near, _F(1e-9))
    u = (m[0] + x * m[1] + y * m[2]) * depth - _F(0.5)
    v = (m[3] + x * m[4] + y * m[5]) * depth - _F(0.5)
    u, v = min(max(u, m[12]), m[14] - _F(1)), min(max(v, m[13]), m[15] - _F(1))
    left, top = int32(u), int32(v)
    right, bottom = min(left + int32(1), int32(m[14]) - int32(1)), min(top + int32(1), int32(m[15]) - int32(1))
    du, dv = u - _F(left), v - _F(top)
    a, b, c, d = sheet[top, left], sheet[top, right], sheet[bottom, left], sheet[bottom, right]
    wa, wb, wc, wd = (_F(1) - du) * (_F(1) - dv), du * (_F(1) - dv), (_F(1) - du) * dv, du * dv
    clear = _F(1) - (_F(part(a, 24)) * wa + _F(part(b, 24)) * wb + _F(part(c, 24)) * wc + _F(part(d, 24)) * wd) / _F(
        255
    )
    mist = m[6] + x * m[7] + y * m[8]
    one = _F(part(a, 0)) * wa + _F(part(b, 0)) * wb + _F(part(c, 0)) * wc + _F(part(d, 0)) * wd + clear * m[9]
    two = _F(part(a, 8)) * wa + _F(part(b, 8)) * wb + _F(part(c, 8)) * wc + _F(part(d, 8)) * wd + clear * m[10]
    three = _F(part(a, 16)) * wa + _F(part(b, 16)) * wb + _F(part(c, 16)) * wc + _F(part(d, 16)) * wd + clear * m[11]
    blue = one * blue / _F(255) + mist * fog[0]
    green = two * green / _F(255) + mist * fog[1]
    red = three * red / _F(255) + mist * fog[2]
    return uint32(
        uint32(_level(blue) | uint32(_level(green) << EIGHT))
        | uint32(uint32(_level(red) << uint32(16)) | uint32(0xFF000000))
    )


@register_jitable
def _covered(maps, number):
    """True for a face with a picture."""
    return maps.shape[0] > 0 and maps[number - 1, 14] > maps[number - 1, 12]


@register_jitable
def _covered_row(line, tone, plane, m, sheet, fog, x, y):
    """A row of pixels of one face with a picture, the first of which has its middle at a place."""
    dy = y - tone[1]
    for i in range(line.size):
        dx = x - tone[0] + _F(int32(2 * i))
        blue, green = tone[2] + dx * tone[3] + dy * tone[4], tone[5] + dx * tone[6] + dy * tone[7]
        red = tone[8] + dx * tone[9] + dy * tone[10]
        line[i] = _pictured(m, sheet, fog, dx, dy, plane[0] + dx * plane[1] + dy * plane[2], blue, green, red)


@register_jitable(inline="always")
def _colour(tones, planes, maps, sheet, fog, number, x, y):
    """The opaque colour of a face at a place: blue, green and red at its first corner (at 0 and 1), with slopes."""
    t = tones[number - 1]
    dx, dy = x - t[0], y - t[1]
    blue, green, red = t[2] + dx * t[3] + dy * t[4], t[5] + dx * t[6] + dy * t[7], t[8] + dx * t[9] + dy * t[10]
    if _covered(maps, number):
        p = planes[number - 1]
        near = p[0] + dx * p[1] + dy * p[2]
        return _pictured(maps[number - 1], sheet, fog, dx, dy, near, blue, green, red)
    return uint32(
        uint32(_level(blue) | uint32(_level(green) << EIGHT))
        | uint32(uint32(_level(red) << uint32(16)) | uint32(0xFF000000))
    )


@register_jitable
def _inside(line, tone, x, y):
    """A row of pixels of one face, the first of which has its middle at a place."""
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
def _resolved(pairs, pairs_below, upper, lower, near, next_, high, tones, planes, maps, sheet, fog, line, depth):
    """Two rows of samples as a row of pixels; the upper one has its middle at `high`."""
    low = high + _F(1)
    x = 0
    while x < line.size:
        one, two, three, four = upper[2 * x], upper[2 * x + 1], lower[2 * x], lower[2 * x + 1]
        if one == two and one == three and one == four:
            # All pixels from here on that one face, or none, has for itself.
            end, same = x + 1, pairs[x]
            while end < line.size and pairs[end] == same and pairs_below[end] == same:
                end += 1
            if one == uint32(0):
                line[x:end] = uint32(0)
                depth[x:end] = _F(0)
            else:
                first, at = _F(int32(2 * x)) + _F(1), high + _F(0.5)
                if _covered(maps, one):
                    own = maps[one - 1]
                    _covered_row(line[x:end], tones[one - 1], planes[one - 1], own, sheet, fog, first, at)
                else:
                    _inside(line[x:end], tones[one - 1], first, at)
                for i in range(x, end):
                    depth[i] = near[2 * i]
            x = end
            continue
        left, right = _F(int32(2 * x)) + _F(0.5), _F(int32(2 * x)) + _F(1.5)
        # A face that has several of them is asked for its colour once.
        a = _colour(tones, planes, maps, sheet, fog, one, left, high) if one else uint32(0)
        b, c, d = a, a, a
        if two != one:
            b = _colour(tones, planes, maps, sheet, fog, two, right, high) if two else uint32(0)
        if three == two:
            c = b
        elif three != one:
            c = _colour(tones, planes, maps, sheet, fog, three, left, low) if three else uint32(0)
        if four == two:
            d = b
        elif four == three:
            d = c
        elif four != one:
            d = _colour(tones, planes, maps, sheet, fog, four, right, low) if four else uint32(0)
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


_FACES = void(
    written(uint32, 2),
    written(float32, 2),
    read(float32, 2),
    read(float32, 2),
    read(float32, 2),
    read(float32, 2),
    read(float32, 2),
    read(float32, 1),
    read(uint32, 2),
)


@compiled(_FACES)
def faces(out, out_nearest, xs, ys, planes, tones, maps, fog, sheet):
    """Flat faces with three or four corners by depth, with four samples a pixel: premultiplied words, and what is
    nearest in each pixel (where two of its samples or more are covered). Places in samples, two to a pixel each way,
    going round, shape (n, 4), the last one twice for three; the planes of nearness: the value at the first corner, and
    the slopes across and down, shape (n, 3); colours from 0 to 255 as `_colour` takes them, shape (n, 11). Bands of
    rows are done one after another, so that their samples stay at hand.

    Pictures: none, or for each face, shape (n, 16), planes of their places on the sheet (words) over depth, across and
    down, and of the fog's share (three values each, from the first corner); the colour below, blue, green and red;
    left, top, right and bottom of its room on the sheet (no width: no picture). `fog`: its colour, likewise.
    """
    height, width = out.shape
    # Two samples beside each other are one word of twice the size, so that runs are found twice as fast.
    pairs, nearest = np.empty((2 * _BAND, width), np.uint64), np.empty((2 * _BAND, 2 * width), np.float32)
    owners = pairs.view(np.uint32)
    spans, edges = np.empty((4, 2), np.int32), np.empty((4, 3), np.float32)
    for band in range(0, height, _BAND):
        owners[:] = uint32(0)
        nearest[:] = _F(0)
        first, last = _F(int32(2 * band)), _F(int32(2 * (band + _BAND)))
        for n in range(xs.shape[0]):
            y = ys[n]
            if min(y[0], y[1], y[2], y[3]) < last and max(y[0], y[1], y[2], y[3]) > first:
                _rows(owners, nearest, 2 * band, xs[n], y, planes[n], uint32(n + 1), spans, edges)
        for row in range(min(_BAND, height - band)):
            upper, lower, near, next_ = owners[2 * row], owners[2 * row + 1], nearest[2 * row], nearest[2 * row + 1]
            high = first + _F(int32(2 * row)) + _F(0.5)
            line, depth = out[band + row], out_nearest[band + row]
            two, below = pairs[2 * row], pairs[2 * row + 1]
            _resolved(two, below, upper, lower, near, next_, high, tones, planes, maps, sheet, fog, line, depth)


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
