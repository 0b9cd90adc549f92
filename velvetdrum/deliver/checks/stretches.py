"""Stretches of frames that are black, or stand still, and the measures that say so."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Spans = tuple[tuple[float, float], ...]
"""Beginnings and ends, in seconds."""

BLACK, BLACK_S = 0.06, 0.3
"""A frame is black when all but a hundredth of it is darker than this share of white; so long it is told."""

FROZEN_S = 1.0


def is_same(one: NDArray[np.int16], other: NDArray[np.int16]) -> bool:
    """True when nothing moved but what an encoder does to a picture at rest.

    Parameters
    ----------
    one
        One of the two.
    other
        The other one.
    """
    off = np.abs(one - other)
    return bool(off.max() <= 2 and off.mean() < 0.2)


def spans_of(found: NDArray[np.bool_], times: list[float], step: float, least_s: float) -> Spans:
    """Stretches of at least so many seconds; each reading holds for `step` seconds from its time on.

    Parameters
    ----------
    found
        True where it is so, shape (n,).
    times
        Seconds.
    step
        Step from one to the next.
    least_s
        Seconds that a span lasts at the least.
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[False], found, [False]]).astype(int)))
    out = []
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        begin, end = times[first], times[last - 1] + step
        if end - begin >= least_s:
            out.append((begin, end))
    return tuple(out)
