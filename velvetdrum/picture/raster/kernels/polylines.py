"""Lines through points, one before another: the area below each filled by exact coverage, and its stroke."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import ALPHA, BYTE, over, scaled

_F = np.float32


@register_jitable
def _edge(sums, x0, y0, x1, y1):
    """One edge of an area: what it adds to the coverage of all pixels to its right, as differences along each row."""
    if y0 == y1:
        return
    way = _F(1) if y0 < y1 else _F(-1)
    if y0 > y1:
        x0, y0, x1, y1 = x1, y1, x0, y0
    height, width = int32(sums.shape[0]), _F(int32(sums.shape[1] - 2))
    slope = (x1 - x0) / (y1 - y0)
    first, last = max(int32(np.floor(y0)), int32(0)), min(int32(np.ceil(y1)), height)
    for row in range(first, last):
        top, bottom = max(_F(int32(row)), y0), min(_F(int32(row + 1)), y1)
        part = (bottom - top) * way
        one, other = x0 + (top - y0) * slope, x0 + (bottom - y0) * slope
        left, right = min(max(min(one, other), _F(0)), width), min(max(max(one, other), _F(0)), width)
        begin, end = int32(np.floor(left)), int32(np.ceil(right))
        line = sums[row]
        if end <= begin + 1:
            # Within one column: as much as lies to the right of its middle.
            beyond = _F(0.5) * (left + right) - _F(begin)
            line[begin] += part * (_F(1) - beyond)
            line[begin + 1] += part * beyond
            continue
        # Through several: in each column the area of the triangle or trapezium that it cuts off.
        share = part / (right - left)
        before = _F(0)
        for column in range(begin, end):
            to, at = min(_F(int32(column + 1)), right), max(_F(int32(column)), left)
            here = share * (to - at)
            covered = before + here * (_F(int32(column + 1)) - _F(0.5) * (to + at))
            line[column] += covered
            line[column + 1] -= covered
            before += here
        line[end] += before


@register_jitable
def _fill(words, step, left, top, sums, colour):
    """The colour over an area, by what its edges have summed up."""
    solid = uint32(colour >> ALPHA) == BYTE
    for row in range(sums.shape[0]):
        line = sums[row]
        at = (top + row) * step + left
        total = _F(0)
        for column in range(line.size - 2):
            total += line[column]
            cover = abs(total)
            if cover > _F(0.9985) and solid:
                words[at + column] = colour
            elif cover > _F(0.0015):
                share = uint32(int32(min(cover, _F(1)) * _F(255) + _F(0.5)))
                words[at + column] = over(words[at + column], scaled(colour, share))


@register_jitable
def _segment(best, which, x0, y0, x1, y1, half, number):
    """How much of each pixel a stroke from a point to the next covers, where no other covers more."""
    reach = half + _F(1)
    height, width = int32(best.shape[0]), int32(best.shape[1])
    top, bottom = max(int32(np.floor(min(y0, y1) - reach)), int32(0)), min(int32(np.ceil(max(y0, y1) + reach)), height)
    left, right = max(int32(np.floor(min(x0, x1) - reach)), int32(0)), min(int32(np.ceil(max(x0, x1) + reach)), width)
    dx, dy = x1 - x0, y1 - y0
    square = max(dx * dx + dy * dy, _F(1e-12))
    for row in range(top, bottom):
        y = _F(int32(row)) + _F(0.5) - y0
        for column in range(left, right):
            x = _F(int32(column)) + _F(0.5) - x0
            along = min(max((x * dx + y * dy) / square, _F(0)), _F(1))
            ox, oy = x - along * dx, y - along * dy
            cover = half + _F(0.5) - np.sqrt(ox * ox + oy * oy)
            if cover > best[row, column]:
                best[row, column] = min(cover, _F(1))
                which[row, column] = number


_LINES = void(
    written(uint32),
    int64,
    int64,
    int64,
    read(float32, 3),
    read(float32, 3),
    read(uint32),
    read(float32),
    read(uint32, 2),
)


@compiled(_LINES)
def lines(words, step, width, height, points, feet, fills, widths, colours):
    """Lines over words, the first hindmost: through points, shape (lines, n, 2), the area between each and the way back
    over its feet, shape (lines, m, 2), in one colour (0 for none), then its stroke of a width, each segment in its own
    colour, shape (lines, n - 1). Places in pixels; colours premultiplied."""
    sums, best = np.empty((height, width + 2), np.float32), np.empty((height, width), np.float32)
    which = np.empty((height, width), np.int32)
    count, ends = points.shape[1], feet.shape[1]
    for number in range(points.shape[0]):
        line, foot, half = points[number], feet[number], widths[number] / _F(2)
        high, low, left, right = line[0, 1], line[0, 1], line[0, 0], line[0, 0]
        for n in range(count):
            high, low = min(high, line[n, 1]), max(low, line[n, 1])
            left, right = min(left, line[n, 0]), max(right, line[n, 0])
        lowest = low
        for n in range(ends):
            high, lowest = min(high, foot[n, 1]), max(lowest, foot[n, 1])
            left, right = min(left, foot[n, 0]), max(right, foot[n, 0])
        reach = half + _F(2)
        first, last = max(int32(np.floor(high - reach)), int32(0)), min(int32(np.ceil(lowest + reach)), int32(height))
        begin, end = max(int32(np.floor(left - reach)), int32(0)), min(int32(np.ceil(right + reach)), int32(width))
        if last <= first or end <= begin:
            continue
        ox, oy = _F(begin), _F(first)
        if fills[number]:
            area = sums[first:last, : end - begin + 2]
            area[:] = _F(0)
            for n in range(count - 1):
                _edge(area, line[n, 0] - ox, line[n, 1] - oy, line[n + 1, 0] - ox, line[n + 1, 1] - oy)
            px, py = line[count - 1, 0] - ox, line[count - 1, 1] - oy
            for n in range(ends - 1, -1, -1):
                x, y = foot[n, 0] - ox, foot[n, 1] - oy
                _edge(area, px, py, x, y)
                px, py = x, y
            _edge(area, px, py, line[0, 0] - ox, line[0, 1] - oy)
            _fill(words, step, begin, first, area, fills[number])
        last = min(int32(np.ceil(low + reach)), int32(height))
        if last <= first:
            continue
        cover, owner = best[first:last, : end - begin], which[first:last, : end - begin]
        cover[:] = _F(0)
        for n in range(count - 1):
            x, y = line[n, 0] - ox, line[n, 1] - oy
            _segment(cover, owner, x, y, line[n + 1, 0] - ox, line[n + 1, 1] - oy, half, int32(n))
        for row in range(last - first):
            at = (first + row) * step + begin
            for column in range(end - begin):
                share = uint32(int32(cover[row, column] * _F(255) + _F(0.5)))
                if share:
                    above = scaled(colours[number, owner[row, column]], share)
                    words[at + column] = over(words[at + column], above)
