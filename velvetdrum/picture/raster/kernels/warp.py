"""Maps of where pixels come from, for bends that follow one table: about a point, and along a direction.

Places are those of pixel centres, counted from the middle of the first pixel, as `cv2.remap` wants them.
"""

from __future__ import annotations

import numpy as np
from numba import float32, int32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written

_F = np.float32


@register_jitable(inline="always")
def _between(table, place, last):
    """A table's value between two entries; beyond its ends those."""
    place = min(max(place, _F(0)), last)
    i = int32(place)
    part = place - _F(i)
    here = table[i]
    return here + (table[i + 1] - here) * part


@compiled(
    void(
        written(float32, 2),
        written(float32, 2),
        read(float32),
        read(float32),
        float32,
        float32,
        float32,
        float32,
        float32,
    )
)
def turn_about(map_x, map_y, along, across, scale, x0, y0, left, top):
    """About a point: the way to a pixel is stretched by `along` and leans by `across`, tables by its square root of
    distance. `scale` entries of the tables lie in a pixel; their last entry stands twice."""
    last = _F(along.size - 2)
    places = np.empty(map_x.shape[1], np.float32)
    for y in range(map_x.shape[0]):
        dy = _F(int32(y)) + top - y0
        square = dy * dy
        u, v = map_x[y], map_y[y]
        # Distances first, the tables then: the first part and the last go eight pixels at a time.
        for x in range(places.shape[0]):
            dx = _F(int32(x)) + left - x0
            places[x] = min(np.sqrt(dx * dx + square) * scale, last)
        for x in range(places.shape[0]):
            i = int32(places[x])
            part = places[x] - _F(i)
            a, b = along[i], across[i]
            u[x] = a + (along[i + 1] - a) * part
            v[x] = b + (across[i + 1] - b) * part
        for x in range(places.shape[0]):
            dx = _F(int32(x)) + left - x0
            a, b = u[x], v[x]
            u[x] = x0 + a * dx - b * dy
            v[x] = y0 + b * dx + a * dy


@compiled(void(written(float32, 2), written(float32, 2), read(float32), float32, float32, float32, float32, float32))
def stretch_about(map_x, map_y, along, scale, x0, y0, left, top):
    """As `turn_about`, without leaning."""
    last = _F(along.size - 2)
    places = np.empty(map_x.shape[1], np.float32)
    for y in range(map_x.shape[0]):
        dy = _F(int32(y)) + top - y0
        square = dy * dy
        u, v = map_x[y], map_y[y]
        # Distances first, the table then: the first part goes eight pixels at a time.
        for x in range(places.shape[0]):
            dx = _F(int32(x)) + left - x0
            places[x] = min(np.sqrt(dx * dx + square) * scale, last)
        for x in range(places.shape[0]):
            i = int32(places[x])
            here = along[i]
            places[x] = here + (along[i + 1] - here) * (places[x] - _F(i))
        for x in range(places.shape[0]):
            u[x] = x0 + places[x] * (_F(int32(x)) + left - x0)
            v[x] = y0 + places[x] * dy


@compiled(
    void(written(float32, 2), written(float32, 2), read(float32), float32, float32, float32, float32, float32, float32)
)
def shift_along(map_x, map_y, table, u0, v0, start, px, py, scale):
    """Pixels moved by (px, py) times a table's value at u0 x + v0 y + start, in entries. The last one stands twice."""
    last = _F(table.size - 2)
    for y in range(map_x.shape[0]):
        row = v0 * _F(int32(y)) + start
        u, v = map_x[y], map_y[y]
        for x in range(map_x.shape[1]):
            by = _between(table, (u0 * _F(int32(x)) + row) * scale, last)
            u[x] = _F(int32(x)) + px * by
            v[x] = _F(int32(y)) + py * by


@compiled(void(written(float32, 2), written(float32, 2), read(float32, 2), float32, float32, float32, float32))
def fold(map_x, map_y, normals, x0, y0, left, top):
    """Places folded about lines through a point, one after the other: what lies against a line's normal goes to its
    other side."""
    for y in range(map_x.shape[0]):
        u, v = map_x[y], map_y[y]
        dy = _F(int32(y)) + top - y0
        for x in range(u.size):
            u[x] = _F(int32(x)) + left - x0
            v[x] = dy
        for line in range(normals.shape[0]):
            nx, ny = normals[line, 0], normals[line, 1]
            for x in range(u.size):
                away = _F(2) * min(u[x] * nx + v[x] * ny, _F(0))
                u[x] -= away * nx
                v[x] -= away * ny
        for x in range(u.size):
            u[x] += x0
            v[x] += y0


# Of the arc tangent from 0 to 1, odd powers: off by 1.2e-5 at the most (minimax over that stretch).
_ARC = (_F(0.99997726), _F(-0.33262347), _F(0.19354346), _F(-0.11643287), _F(0.05265332), _F(-0.01172120))


@register_jitable(inline="always")
def _turn_of(x, y):
    """The angle of a place about the origin, as a share of a whole turn from -0.5 to 0.5."""
    wide, tall = abs(x), abs(y)
    t = min(wide, tall) / max(max(wide, tall), _F(1e-20))
    q = t * t
    arc = t * (_ARC[0] + q * (_ARC[1] + q * (_ARC[2] + q * (_ARC[3] + q * (_ARC[4] + q * _ARC[5])))))
    arc *= _F(0.15915494309)
    arc = _F(0.25) - arc if tall > wide else arc
    arc = _F(0.5) - arc if x < _F(0) else arc
    return -arc if y < _F(0) else arc


@compiled(void(written(float32, 2), written(float32, 2), float32, float32, float32, float32, float32, float32, float32))
def cut_facets(map_x, map_y, x0, y0, left, top, turn, facets, depth):
    """Places moved to and fro along each of so many facets about a point, by up to `depth` pixels; the first begins at
    a share of a whole turn."""
    for y in range(map_x.shape[0]):
        u, v = map_x[y], map_y[y]
        dy = _F(int32(y)) + top - y0
        for x in range(u.size):
            dx = _F(int32(x)) + left - x0
            place = (_turn_of(dx, dy) - turn) * facets
            slope = (place - np.floor(place) - _F(0.5)) * _F(2) * depth
            slope /= max(np.sqrt(dx * dx + dy * dy), _F(1))
            u[x] -= slope * dy
            v[x] += slope * dx
