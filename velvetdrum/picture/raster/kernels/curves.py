"""Places along curves."""

from __future__ import annotations

import numpy as np
from numba import float64, void

from velvetdrum.picture.raster.kernels.build import compiled, read, written

_WALK = void(
    read(float64),
    read(float64),
    read(float64, 2),
    read(float64, 2),
    float64,
    written(float64, 2),
    written(float64, 2),
    written(float64, 2),
)


@compiled(_WALK)
def walk(ways, along, points, tangents, side, at, normals, headings):
    """Points, outward normals and unit tangents after so many pixels of a way: straight between the curve's points,
    whose distances along it rise in `along`; a tangent turns evenly from one to the next."""
    last = along.size - 1
    low = 0
    for index in range(ways.size):
        way = min(max(ways[index], along[0]), along[last])
        # Ways mostly rise: the search goes on from where the last one ended.
        if way < along[low]:
            low = np.searchsorted(along, way, side="right") - 1
        elif low < last and way >= along[low + 1]:
            step = 1
            while low + step < last and along[low + step] <= way:
                step *= 2
            low = low + np.searchsorted(along[low : min(low + step, last) + 1], way, side="right") - 1
        low = min(max(low, 0), last - 1)
        span = along[low + 1] - along[low]
        share = (way - along[low]) / span if span > 0 else 0.0
        at[index, 0] = points[low, 0] + (points[low + 1, 0] - points[low, 0]) * share
        at[index, 1] = points[low, 1] + (points[low + 1, 1] - points[low, 1]) * share
        x = tangents[low, 0] + (tangents[low + 1, 0] - tangents[low, 0]) * share
        y = tangents[low, 1] + (tangents[low + 1, 1] - tangents[low, 1]) * share
        length = max(np.sqrt(x * x + y * y), 1e-9)
        x, y = x / length, y / length
        headings[index, 0], headings[index, 1] = x, y
        normals[index, 0], normals[index, 1] = y * side, -x * side
