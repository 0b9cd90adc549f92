"""How much of each pixel an outline covers: exact areas, summed up edge by edge."""

from __future__ import annotations

import numpy as np
from numba import int32
from numba.extending import register_jitable

_F = np.float32


@register_jitable
def edge(sums, stride, rows, lows, highs, x0, y0, x1, y1, skip_from, skip_to):
    """One edge of an outline: what it adds to the coverage of all pixels to its right, as differences along each row.

    `sums` holds rows of `stride` values, two more than there are columns; `lows` and `highs` are the columns of each
    row that have any. Rows from `skip_from` to before `skip_to` are left out.
    """
    if y0 == y1:
        return
    way = _F(1) if y0 < y1 else _F(-1)
    if y0 > y1:
        x0, y0, x1, y1 = x1, y1, x0, y0
    width = _F(int32(stride - 2))
    slope = (x1 - x0) / (y1 - y0)
    last = min(int32(np.ceil(y1)), rows)
    row = max(int32(np.floor(y0)), int32(0))
    while row < last:
        if skip_from <= row < skip_to:
            row = skip_to
            continue
        top, bottom = max(_F(row), y0), min(_F(int32(row + 1)), y1)
        one, other = x0 + (top - y0) * slope, x0 + (bottom - y0) * slope
        _part(sums, row * stride, lows, highs, row, width, min(one, other), max(one, other), (bottom - top) * way)
        row = int32(row + 1)


@register_jitable
def _part(sums, at, lows, highs, row, width, low, high, part):
    """The part of an edge in one row, from `low` to `high`, which covers so much of the row's height."""
    left, right = min(max(low, _F(0)), width), min(max(high, _F(0)), width)
    begin, end = int32(np.floor(left)), int32(np.ceil(right))
    lows[row], highs[row] = min(lows[row], begin), max(highs[row], max(end, int32(begin + 1)))
    if high > low and (low < _F(0) or high > width):
        # What lies beside the first column covers all of them; what lies beside the last one none.
        per = part / (high - low)
        sums[at] += per * (min(high, _F(0)) - min(low, _F(0)))
        if low < _F(0):
            lows[row] = int32(0)
        part = per * (right - left)
    if end <= begin + 1:
        # Within one column: as much as lies to the right of its middle.
        beyond = _F(0.5) * (left + right) - _F(begin)
        sums[at + begin] += part * (_F(1) - beyond)
        sums[at + begin + 1] += part * beyond
        return
    # Through several: in each column the area of the triangle or trapezium that it cuts off.
    share, before = part / (right - left), _F(0)
    for column in range(begin, end):
        to, begun = min(_F(int32(column + 1)), right), max(_F(int32(column)), left)
        here = share * (to - begun)
        covered = before + here * (_F(int32(column + 1)) - _F(0.5) * (to + begun))
        sums[at + column] += covered
        sums[at + column + 1] -= covered
        before += here
    sums[at + end] += before
