"""A trace along a base shape: values over the figure's length, laid on it as often and as turned as it asks."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.figures.base_shape import Ground
from velvetdrum.picture.outlines.outline import Points

Values = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Laid:
    """One unbroken stretch of a trace: places along the base shape, the values there, and where each stands in the
    trace, 0 to 1. `piece` is the piece of the base shape that it lies on; `closed` when it goes all the way round."""

    places: Values
    values: Values
    within: Values
    piece: int
    closed: bool

    def edge(self, ground: Ground, heights: Values) -> Points:
        """Points at heights in pixels above the base shape, one for each place; below it where they are negative."""
        points, ways = _at(ground, self.piece, self.places)
        return points + ways * heights[:, None]


def lay(ground: Ground, places: Values, values: Values, *, joined: bool = False) -> list[Laid]:
    """Lay a trace on a base shape. `places` rise from 0 to 1 in the trace.

    Wherever the trace begins anew, or the base shape ends, the line breaks: nothing is drawn back. `joined`: the
    trace ends where it begins, so that it may close around a closed shape.
    """
    run = ground.run
    parts: list[tuple[Values, Values, Values]] = []
    for number in range(run.repeat):
        if run.mirror:
            there, back = (places / 2, values, places), ((1 - places / 2)[::-1], values[::-1], places[::-1])
            if run.middle:
                there, back = ((0.5 - there[0])[::-1], *back[1:]), (0.5 + places / 2, *there[1:])
            parts += [(number + way, heights, within) for way, heights, within in (there, back)]
        else:
            parts.append((number + places, values, places))
    whole = joined or run.mirror
    if whole:
        ways, heights_, withins = zip(*parts, strict=True)
        parts = [(np.concatenate(ways), np.concatenate(heights_), np.concatenate(withins))]
    out: list[Laid] = []
    for way, heights, within in parts:
        along = way / run.repeat
        if run.reverse:
            along, heights, within = 1.0 - along[::-1], heights[::-1], within[::-1]
        if ground.outline.closed:
            out.append(Laid(along + run.start, heights, within, 0, whole))
        else:
            out += _cut(ground, along + run.start, heights, within)
    return out


def _cut(ground: Ground, along: Values, heights: Values, within: Values) -> list[Laid]:
    """A stretch cut where an open shape ends and begins, and between its pieces; values at the cuts are in line with
    their neighbours."""
    outline = ground.outline
    edges = np.concatenate([[0.0], outline.ends / outline.length])
    first, last = float(along[0]), float(along[-1])
    out = []
    for turn in range(int(np.floor(first)), int(np.ceil(last))):
        for number in range(len(outline.pieces)):
            low, high = max(turn + edges[number], first), min(turn + edges[number + 1], last)
            if high - low < 1e-9:
                continue
            inside = (along > low) & (along < high)
            spots = np.concatenate([[low], along[inside], [high]])
            out.append(
                Laid(
                    spots - turn,
                    np.interp(spots, along, heights),
                    np.interp(spots, along, within),
                    number,
                    False,
                )
            )
    return out


def _at(ground: Ground, number: int, places: Values) -> tuple[Points, Points]:
    piece = ground.outline.pieces[number]
    way = places * ground.outline.length
    if ground.outline.closed:
        way = np.mod(way, piece.length)
    else:
        way = np.clip(way - (ground.outline.ends[number] - piece.length), 0.0, piece.length)
    points, normals, _ = piece.at(way)
    return points, ground.ways(normals, places)
