"""A curve by fewer points."""

from __future__ import annotations

from heapq import heappop, heappush

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]


def simplified(times: Values, values: Values, tolerance: float, most: int) -> NDArray[np.intp]:
    """Numbers of those points that keep a curve within a tolerance, where straight lines are drawn between them, in
    their order: the way of Ramer (1972) and of Douglas and Peucker (1973), by distances in value. The first and the
    last one are among them.

    Parameters
    ----------
    times
        Rising times, shape (n,).
    values
        The curve at these times, shape (n,).
    tolerance
        How far off the lines may be, in the unit of the values.
    most
        No more points than that: those that are furthest off are taken first.
    """
    last = len(times) - 1
    if last < 1:
        return np.arange(len(times))
    kept = {0, last}
    spans = [_furthest(times, values, 0, last)]
    while spans and len(kept) < most:
        off, low, middle, high = heappop(spans)
        if -off <= tolerance:
            break
        kept.add(middle)
        for ends in ((low, middle), (middle, high)):
            heappush(spans, _furthest(times, values, *ends))
    return np.array(sorted(kept))


def _furthest(times: Values, values: Values, low: int, high: int) -> tuple[float, int, int, int]:
    """How far the furthest point between two is off their line, below 0 so that it is the least, and the numbers."""
    if high - low < 2:
        return 0.0, low, low, high
    inside = slice(low + 1, high)
    line = np.interp(times[inside], times[[low, high]], values[[low, high]])
    off = np.abs(values[inside] - line)
    middle = int(np.argmax(off))
    return -float(off[middle]), low, low + 1 + middle, high
