"""Smooth lines through heights that stand along a base shape, and the areas under them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.figures.base_shape import Ground
from velvetdrum.picture.outlines.outline import Points

Values = NDArray[np.float64]


@cached
def refinement(count: int, steps: int, closed: bool) -> Values:
    """A matrix that puts `steps` values on a smooth curve through `count` heights, shape (n, count).

    Catmull-Rom: through every height, with the slope of its two neighbours. Closed curves go on from the last height
    to the first; open ones end on the first and the last.
    """
    spans = count if closed else count - 1
    places = np.linspace(0.0, spans, max(spans, 1) * steps + 1)
    if closed:
        places = places[:-1]
    index = np.minimum(np.floor(places).astype(int), max(spans - 1, 0))
    t = places - index
    weights = np.stack(
        [
            -0.5 * t + t**2 - 0.5 * t**3,
            1.0 - 2.5 * t**2 + 1.5 * t**3,
            0.5 * t + 2.0 * t**2 - 1.5 * t**3,
            -0.5 * t**2 + 0.5 * t**3,
        ]
    )
    out = np.zeros((len(places), count))
    rows = np.arange(len(places))
    for offset, weight in zip(range(-1, 3), weights, strict=True):
        column = (index + offset) % count if closed else np.clip(index + offset, 0, count - 1)
        np.add.at(out, (rows, column), weight)
    return out


def through(ground: Ground, places: Values, heights: Values, steps: int = 6) -> list[tuple[Values, Values, bool, int]]:
    """A smooth course along each piece of a base shape: places, heights, whether it closes, and the piece's number.

    `places` rise from 0 to 1 and have one of `heights` each. Open pieces are filled from end to end.
    """
    outline = ground.outline
    owners = outline.piece_of(places)
    out = []
    for number, piece in enumerate(outline.pieces):
        here = np.flatnonzero(owners == number)
        if not len(here):
            continue
        first, last = (outline.ends[number] - piece.length) / outline.length, outline.ends[number] / outline.length
        mine, tall = places[here], heights[here]
        if piece.closed and len(here) > 2:
            # Round: the way from the last place to the first goes over the piece's start.
            table = refinement(len(here), steps, True)
            ring = np.concatenate([mine, [mine[0] + last - first]])
            fine = np.interp(np.arange(len(here) * steps) / steps, np.arange(len(here) + 1), ring)
            wrapped = first + np.mod(fine - first, last - first)
            out.append((wrapped, np.maximum(table @ tall, 0.0), True, number))
            continue
        mine = np.concatenate([[first], mine, [last]])
        tall = np.concatenate([tall[:1], tall, tall[-1:]])
        table = refinement(len(mine), steps, False)
        fine = np.interp(np.linspace(0, len(mine) - 1, len(table)), np.arange(len(mine)), mine)
        out.append((fine, np.maximum(table @ tall, 0.0), piece.closed, number))
    return out


def on_piece(ground: Ground, number: int, places: Values) -> tuple[Points, Points]:
    """Points and directions of growth at places of one piece of a base shape, also at its very ends."""
    piece = ground.outline.pieces[number]
    way = places * ground.outline.length - (ground.outline.ends[number] - piece.length)
    points, normals, _ = piece.at(np.clip(way, 0.0, piece.length))
    return points, ground.ways(normals, places)
