"""Paths of the drawing library from arrays of points."""

from __future__ import annotations

import struct
from collections.abc import Sequence

import numpy as np
import skia
from numpy.typing import NDArray

_FORM = 5
"""The form of a stored path that this release of the library writes and reads."""
_MOVE, _LINE, _CLOSE = 0, 1, 5


def polygons(pieces: Sequence[tuple[NDArray[np.float64], bool]], *, holes: bool = False) -> skia.Path:
    """Straight lines through points, each piece of shape (n, 2) and closed or open. With `holes`, an inner piece is a
    hole in the outer one (even-odd); else all add up.

    Handed over in the library's own stored form: point by point it takes twenty times as long.

    Parameters
    ----------
    pieces
        Points in pixels, shape (n, 2), each with True where it is closed.
    holes
        True where pieces inside others are holes (even-odd).
    """
    kept = [(points, closed) for points, closed in pieces if len(points)]
    if not kept:
        return skia.Path()
    verbs = bytearray()
    for points, closed in kept:
        verbs.append(_MOVE)
        verbs += bytes((_LINE,)) * (len(points) - 1)
        if closed:
            verbs.append(_CLOSE)
    count = sum(len(points) for points, _ in kept)
    head = struct.pack("<4i", _FORM, count, 0, len(verbs))
    parts = [np.ascontiguousarray(points, "<f4").tobytes() for points, _ in kept]
    path = skia.Path()
    path.readFromMemory(b"".join([head, *parts, verbs, bytes(-len(verbs) % 4)]))
    if holes:
        path.setFillType(skia.PathFillType.kEvenOdd)
    return path
