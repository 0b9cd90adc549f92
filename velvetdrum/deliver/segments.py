"""How a stretch of frames is cut into segments: the same grid for any number of workers."""

from __future__ import annotations

from fractions import Fraction

SEGMENT_SECONDS = 4

Segment = tuple[int, int]
"""First and last (exclusive) frame."""


def segment_grid(first: int, last: int, rate: Fraction) -> list[Segment]:
    """Segments of four seconds, and shorter ones toward the end, so that no worker is left alone with a long one while
    the others have nothing to do: halves from eight seconds before the end on, quarters in the last four.

    Parameters
    ----------
    first
        The first one, counted from 0.
    last
        The first frame that is not exported.
    rate
        Frames or samples a second.
    """
    whole = max(1, round(SEGMENT_SECONDS * rate))
    result, at = [], first
    while at < last:
        left = last - at
        size = whole if left > 2 * whole else whole // 2 if left > whole else whole // 4
        result.append((at, min(at + max(size, 1), last)))
        at = result[-1][1]
    return result


def moments_grid(first: int, last: int, count: int) -> list[Segment]:
    """Single frames, evenly spread: each in the middle of its share of the stretch; one alone is the first frame.

    Parameters
    ----------
    first
        The first one, counted from 0.
    last
        The last one, counted from 0.
    count
        How many.
    """
    if count <= 1:
        return [(first, first + 1)]
    frames = last - first
    places = sorted({first + min((2 * n + 1) * frames // (2 * count), frames - 1) for n in range(count)})
    return [(place, place + 1) for place in places]
