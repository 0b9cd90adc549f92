"""Lines through points, one before another: the area below each filled by exact coverage, and its stroke."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.coverage import edge
from velvetdrum.picture.raster.kernels.words import ALPHA, BYTE, over, scaled, summed

_F = np.float32


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
def _fill_any(words, step, line, foot, colour, sums):
    """The colour over the area between a line and its feet, by exact coverage."""
    height, width = sums.shape[0], sums.shape[1] - 2
    count, ends = line.shape[0], foot.shape[0]
    high, low, left, right = line[0, 1], line[0, 1], line[0, 0], line[0, 0]
    for n in range(count + ends):
        x, y = (line[n, 0], line[n, 1]) if n < count else (foot[n - count, 0], foot[n - count, 1])
        high, low, left, right = min(high, y), max(low, y), min(left, x), max(right, x)
    first, last = max(int32(np.floor(high)), int32(0)), min(int32(np.ceil(low)), int32(height))
    begin, end = max(int32(np.floor(left)), int32(0)), min(int32(np.ceil(right)), int32(width))
    if last <= first or end <= begin:
        return
    ox, oy = _F(begin), _F(first)
    rows, stride = int32(last - first), int64(end - begin + 2)
    area = sums.reshape(-1)[: rows * stride]
    area[:] = _F(0)
    lows, highs = np.empty(rows, np.int32), np.empty(rows, np.int32)
    px, py = line[0, 0] - ox, line[0, 1] - oy
    for n in range(1, count + ends + 1):
        if n < count:
            x, y = line[n, 0] - ox, line[n, 1] - oy
        elif n < count + ends:
            m = count + ends - 1 - n
            x, y = foot[m, 0] - ox, foot[m, 1] - oy
        else:
            x, y = line[0, 0] - ox, line[0, 1] - oy
        edge(area, stride, rows, lows, highs, px, py, x, y, int32(0), int32(0))
        px, py = x, y
    _fill(words, step, begin, first, area.reshape(rows, stride), colour)


@register_jitable
def _segment(best, which, x0, y0, x1, y1, half, number, low):
    """How much of each pixel a stroke from a point to the next covers, where no other covers more; in each column above
    a row alone."""
    reach = half + _F(1)
    height, width = int32(best.shape[0]), int32(best.shape[1])
    top, bottom = max(int32(np.floor(min(y0, y1) - reach)), int32(0)), min(int32(np.ceil(max(y0, y1) + reach)), height)
    left, right = max(int32(np.floor(min(x0, x1) - reach)), int32(0)), min(int32(np.ceil(max(x0, x1) + reach)), width)
    dx, dy = x1 - x0, y1 - y0
    square = max(dx * dx + dy * dy, _F(1e-12))
    for row in range(top, bottom):
        y = _F(int32(row)) + _F(0.5) - y0
        for column in range(left, right):
            if row >= low[column]:
                continue
            x = _F(int32(column)) + _F(0.5) - x0
            along = min(max((x * dx + y * dy) / square, _F(0)), _F(1))
            ox, oy = x - along * dx, y - along * dy
            cover = half + _F(0.5) - np.sqrt(ox * ox + oy * oy)
            if cover > best[row, column]:
                best[row, column] = min(cover, _F(1))
                which[row, column] = number


@register_jitable
def _is_level(line, foot):
    """True for a line that runs to the right alone, over feet that lie level and reach at least as far."""
    for n in range(line.shape[0] - 1):
        if line[n + 1, 0] < line[n, 0]:
            return False
    last = foot.shape[0] - 1
    for n in range(last + 1):
        if abs(foot[n, 1] - foot[0, 1]) > _F(0.001):
            return False
        if n and foot[n, 0] < foot[n - 1, 0]:
            return False
    return foot[0, 0] <= line[0, 0] and foot[last, 0] >= line[line.shape[0] - 1, 0]


@register_jitable(inline="always")
def _below(y, row):
    """How much of a column of width 1 lies below a line in a row, summed up to the line's place: the integral of
    row + 1 - y, cut to 0 and 1."""
    u = min(max(y - row, _F(0)), _F(1))
    return min(y, row) + u - u * u / _F(2)


@register_jitable
def _spans(line, foot, width, high, low):
    """For each column the highest and the lowest place of a line with its sides down to level feet; nothing where it
    does not pass."""
    high[:] = _F(np.inf)
    low[:] = _F(-np.inf)
    count, last = line.shape[0], foot.shape[0] - 1
    for n in range(-1, count):
        x0, y0 = (foot[0, 0], foot[0, 1]) if n < 0 else (line[n, 0], line[n, 1])
        x1, y1 = (foot[last, 0], foot[last, 1]) if n == count - 1 else (line[n + 1, 0], line[n + 1, 1])
        for x in range(max(int64(np.floor(x0)), 0), min(int64(np.ceil(x1)), int64(width))):
            high[x], low[x] = min(high[x], min(y0, y1)), max(low[x], max(y0, y1))


@register_jitable
def _covered(points, feet, fills, width, height):
    """For each line and column the row from which on nothing of the line is seen, since opaque areas of lines before it
    lie over it; shape (lines, width)."""
    result = np.empty((points.shape[0], width), np.int32)
    # The rows of each column that are covered; none where both are the last.
    top, bottom = np.full(width, height, np.int32), np.full(width, height, np.int32)
    high, low = np.empty(width, np.float32), np.empty(width, np.float32)
    for number in range(points.shape[0] - 1, -1, -1):
        line, foot = points[number], feet[number]
        level = _is_level(line, foot)
        lowest = foot[0, 1]
        for n in range(line.shape[0]):
            lowest = max(lowest, line[n, 1])
        for x in range(width):
            # Only where all of the line's area from there on is covered: what lies below is not looked at.
            whole = level and _F(bottom[x]) >= min(lowest + _F(1), _F(height))
            result[number, x] = top[x] if whole else np.int32(height)
        if not level or uint32(fills[number] >> ALPHA) != BYTE:
            continue
        _spans(line, foot, width, high, low)
        end = np.int32(min(max(np.floor(foot[0, 1]), _F(0)), _F(height)))
        first, last = int64(np.ceil(line[0, 0])), int64(np.floor(line[line.shape[0] - 1, 0]))
        for x in range(max(first, 0), min(last, int64(width))):
            begin = np.int32(min(max(np.ceil(low[x]), _F(0)), _F(height)))
            if begin >= end:
                continue
            if top[x] == bottom[x]:
                top[x], bottom[x] = begin, end
            elif end >= top[x] and begin <= bottom[x]:
                top[x], bottom[x] = min(top[x], begin), max(bottom[x], end)
    return result


@register_jitable
def _lay(words, at, colour, part):
    if part > _F(0.0015):
        share = uint32(int32(min(part, _F(1)) * _F(255) + _F(0.5)))
        words[at] = over(words[at], scaled(colour, share))


@register_jitable
def _fill_level(words, step, line, foot, colour, covered, high, low, cover, upper, lower):
    """As `_fill`, for a line over level feet, down to where it is covered: edges column by column, what is whole row by
    row. `cover` is room for a column, `upper` and `lower` for a row."""
    count, last = line.shape[0], foot.shape[0] - 1
    ground = foot[0, 1]
    n = int64(-1)
    top, bottom = int32(cover.size), int32(0)
    left_end, right_end = int64(covered.size), int64(0)
    for x in range(covered.size):
        upper[x] = lower[x] = int32(0)
        end = min(int32(np.ceil(ground)), covered[x])
        if low[x] < high[x]:
            continue
        first = max(int32(np.floor(high[x])), int32(0))
        between = min(max(int32(np.ceil(low[x])), first), end)
        if end <= first:
            continue
        for row in range(first, between):
            cover[row] = _F(0)
        left, right = _F(int32(x)), _F(int32(x + 1))
        while n < count - 1 and line[n + 1, 0] <= left:
            n += 1
        m, across = n, _F(0)
        while m < count:
            x0, y0 = (foot[0, 0], foot[0, 1]) if m < 0 else (line[m, 0], line[m, 1])
            x1, y1 = (foot[last, 0], foot[last, 1]) if m == count - 1 else (line[m + 1, 0], line[m + 1, 1])
            if x0 >= right:
                break
            begin, stop = max(x0, left), min(x1, right)
            if stop > begin:
                slope = (y1 - y0) / (x1 - x0)
                ya, yb = y0 + (begin - x0) * slope, y0 + (stop - x0) * slope
                wide = stop - begin
                across += wide
                if abs(yb - ya) < _F(1e-3):
                    for row in range(first, between):
                        middle = _F(int32(row)) + _F(1) - (ya + yb) / _F(2)
                        cover[row] += min(max(middle, _F(0)), _F(1)) * wide
                else:
                    per = wide / (yb - ya)
                    for row in range(first, between):
                        r = _F(int32(row))
                        cover[row] += (_below(yb, r) - _below(ya, r)) * per
            m += 1
        for row in range(first, between):
            below = across * max(_F(int32(row + 1)) - ground, _F(0))
            _lay(words, row * step + x, colour, cover[row] - below)
        whole = min(int32(np.floor(ground)), end) if across > _F(0.9985) else between
        for row in range(max(whole, between), end):
            _lay(words, row * step + x, colour, across * (_F(1) - max(_F(int32(row + 1)) - ground, _F(0))))
        if whole > between:
            upper[x], lower[x] = between, whole
            top, bottom = min(top, between), max(bottom, whole)
            left_end, right_end = min(left_end, int64(x)), int64(x + 1)
    kept = uint32(BYTE - uint32(colour >> ALPHA))
    for row in range(top, bottom):
        w = words[row * step + left_end : row * step + right_end]
        begins, ends = upper[left_end:right_end], lower[left_end:right_end]
        for x in range(w.size):
            v = w[x]
            shown = begins[x] <= row and row < ends[x]
            w[x] = summed(colour, scaled(v, kept)) if shown else v


@register_jitable
def _stroke_spans(line, reach, height, high, low):
    """For each column the rows that a stroke may touch; none where the first is not above the last."""
    high[:] = height
    low[:] = 0
    for n in range(line.shape[0] - 1):
        x0, y0, x1, y1 = line[n, 0], line[n, 1], line[n + 1, 0], line[n + 1, 1]
        first, last = int32(np.floor(min(y0, y1) - reach)), int32(np.ceil(max(y0, y1) + reach))
        for x in range(
            max(int64(np.floor(min(x0, x1) - reach)), 0), min(int64(np.ceil(max(x0, x1) + reach)), int64(high.size))
        ):
            high[x], low[x] = min(high[x], max(first, int32(0))), max(low[x], min(last, int32(height)))


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
    count = points.shape[1]
    covered = _covered(points, feet, fills, width, height)
    high, low, column = np.empty(width, np.float32), np.empty(width, np.float32), np.empty(height, np.float32)
    upper, lower = np.empty(width, np.int32), np.empty(width, np.int32)
    for number in range(points.shape[0]):
        line, foot, half = points[number], feet[number], widths[number] / _F(2)
        if fills[number]:
            if _is_level(line, foot):
                _spans(line, foot, width, high, low)
                _fill_level(words, step, line, foot, fills[number], covered[number], high, low, column, upper, lower)
            else:
                _fill_any(words, step, line, foot, fills[number], sums)
        reach = half + _F(2)
        _stroke_spans(line, reach, height, upper, lower)
        for x in range(width):
            lower[x] = min(lower[x], covered[number, x])
            for row in range(upper[x], lower[x]):
                best[row, x] = _F(0)
        for n in range(count - 1):
            _segment(best, which, line[n, 0], line[n, 1], line[n + 1, 0], line[n + 1, 1], half, int32(n), lower)
        for x in range(width):
            for row in range(upper[x], lower[x]):
                share = uint32(int32(best[row, x] * _F(255) + _F(0.5)))
                if share:
                    at = row * step + x
                    words[at] = over(words[at], scaled(colours[number, which[row, x]], share))
