"""Colours by place: tables of colours looked up, dithered and written in one pass."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint32, uint64, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written

_F = np.float32


@register_jitable(inline="always")
def _packed(colour):
    """The upper bytes of four 16-bit channels as a word."""
    return uint32(
        uint32(uint32(colour >> uint64(8)) & uint32(0xFF))
        | uint32(uint32(colour >> uint64(16)) & uint32(0xFF00))
        | uint32(uint32(colour >> uint64(24)) & uint32(0xFF0000))
        | uint32(uint32(colour >> uint64(32)) & uint32(0xFF000000))
    )


@register_jitable(inline="always")
def _look_up_row(out, table, places, grain):
    for x in range(out.shape[0]):
        out[x] = _packed(uint64(table[uint32(places[x])] + grain[uint32(x) & uint32(255)]))


@compiled(void(written(uint32, 2), read(uint64), read(int32, 2), read(uint64, 2)))
def look_up(out, table, places, noise):
    """A colour for each place, with grain from a tile of 256 pixels."""
    for y in range(out.shape[0]):
        _look_up_row(out[y], table, places[y], noise[y & 255])


@compiled(void(written(uint32, 2), read(uint64, 2), read(uint64, 2)))
def dither(out, colours, noise):
    """A picture of four 16-bit channels, with grain from a tile of 256 pixels."""
    for y in range(out.shape[0]):
        o, c, grain = out[y], colours[y], noise[y & 255]
        for x in range(out.shape[1]):
            o[x] = _packed(uint64(c[x] + grain[uint32(x) & uint32(255)]))


@register_jitable(inline="always")
def _place(away, out_scale, in_scale, last):
    """Where a distance from a base shape lies in a table, up to its `last` entry."""
    level = max(away * out_scale, -away * in_scale)
    return int32(min(max(level, _F(0)), last) + _F(0.5))


_AWAY = void(written(uint32, 2), read(uint64), read(uint64, 2), float32, float32, float32, float32, float32)


@compiled(_AWAY)
def around_point(out, table, noise, x0, y0, radius, out_scale, in_scale):
    """Colours by the distance from a circle about a point: outward and inward to the table's end at 1 / scale. A scale
    of 0 keeps that side at the table's start."""
    last = _F(int64(table.size - 1))
    places = np.empty(out.shape[1], np.int32)
    outward, inward = out_scale * last, in_scale * last
    for y in range(out.shape[0]):
        dy = _F(int32(y)) + _F(0.5) - y0
        square = dy * dy
        # Places first, colours then: the first part goes eight pixels at a time.
        for x in range(out.shape[1]):
            dx = _F(int32(x)) + _F(0.5) - x0
            places[x] = _place(np.sqrt(dx * dx + square) - radius, outward, inward, last)
        _look_up_row(out[y], table, places, noise[y & 255])


@compiled(_AWAY)
def along_line(out, table, noise, u, v, start, out_scale, in_scale):
    """Colours by the distance u x + v y + start from a straight line: to the table's end at 1 / scale on each side."""
    last = _F(int64(table.size - 1))
    places = np.empty(out.shape[1], np.int32)
    outward, inward = out_scale * last, in_scale * last
    for y in range(out.shape[0]):
        row = (_F(int32(y)) + _F(0.5)) * v + start
        for x in range(out.shape[1]):
            places[x] = _place((_F(int32(x)) + _F(0.5)) * u + row, outward, inward, last)
        _look_up_row(out[y], table, places, noise[y & 255])
