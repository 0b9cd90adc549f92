"""Colours by place: tables of colours looked up, dithered and written in one pass."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint8, uint16, uint32, uint64, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, mixed, over, row_of_cells, scaled, weakened

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
def _look_up_row(out, table, places, grain, right):
    for x in range(out.shape[0]):
        out[x] = _packed(uint64(table[uint32(places[x])] + grain[uint32(x + right) & uint32(255)]))


@compiled(void(written(uint32, 2), read(uint64), read(int32, 2), read(uint64, 2)))
def look_up(out, table, places, noise):
    """A colour for each place, with grain from a tile of 256 pixels."""
    for y in range(out.shape[0]):
        _look_up_row(out[y], table, places[y], noise[y & 255], 0)


@compiled(void(written(uint32, 2), read(uint64, 2), read(uint64, 2)))
def dither(out, colours, noise):
    """A picture of four 16-bit channels, with grain from a tile of 256 pixels."""
    for y in range(out.shape[0]):
        o, c, grain = out[y], colours[y], noise[y & 255]
        for x in range(out.shape[1]):
            o[x] = _packed(uint64(c[x] + grain[uint32(x) & uint32(255)]))


@register_jitable(inline="always")
def _any(mask):
    seen = uint8(0)
    for x in range(mask.size):
        seen |= mask[x]
    return seen != 0


@register_jitable(inline="always")
def _lay(row, mask, table, places, grain, right, strength):
    """Colours of a table over a part of a row, as far as a mask shows them. Grain begins `right` pixels into its
    tile."""
    for x in range(row.size):
        cover = weakened(uint32(mask[x]), strength)
        if cover:
            colour = _packed(uint64(table[uint32(places[x])] + grain[uint32(x + right) & uint32(255)]))
            if uint32(colour >> uint32(24)) == BYTE:
                row[x] = mixed(colour, cover, row[x], uint32(BYTE - cover))
            else:
                row[x] = over(row[x], scaled(colour, cover))


_BLOCK = 64
"""Pixels of a row that are passed over together where a mask shows none of them."""

_TABLE = void(
    written(uint32), int64, read(uint8), int64, int64, int64,
    read(uint64), read(uint64, 2), int64, int64, uint32, read(int32), int64,
)  # fmt: skip


@compiled(_TABLE)
def lay_table(words, step, mask, mask_step, width, height, table, noise, right, down, strength, places, places_step):
    """Over words: premultiplied colours of a table by places in it, as far as a mask shows them times `strength` /
    65536. Grain begins `right` and `down` pixels into its tile."""
    for y in range(height):
        grain = noise[(y + down) & 255]
        for begin in range(0, width, _BLOCK):
            end = min(begin + _BLOCK, width)
            m = mask[y * mask_step + begin : y * mask_step + end]
            if _any(m):
                w, at = words[y * step + begin : y * step + end], y * places_step
                _lay(w, m, table, places[at + begin : at + end], grain, begin + right, strength)


@register_jitable(inline="always")
def _place(away, out_scale, in_scale, last):
    """Where a distance from a base shape lies in a table, up to its `last` entry."""
    level = max(away * out_scale, -away * in_scale)
    return int32(min(max(level, _F(0)), last) + _F(0.5))


_AWAY = void(
    written(uint32), int64, read(uint8), int64, int64, int64,
    read(uint64), read(uint64, 2), int64, int64, uint32, float32, float32, float32, float32, float32,
)  # fmt: skip


@compiled(_AWAY)
def lay_around_point(
    words, step, mask, mask_step, width, height, table, noise, right, down, strength, x0, y0, radius, outer, inner
):
    """As `lay_table`, by the distance from a circle about a point, which lies as grain does: outward and inward to the
    table's end at 1 / scale. A scale of 0 keeps that side at the table's start."""
    last = _F(int64(table.size - 1))
    places = np.empty(_BLOCK, np.int32)
    outward, inward = outer * last, inner * last
    for y in range(height):
        dy = _F(int32(y + down)) + _F(0.5) - y0
        square, grain = dy * dy, noise[(y + down) & 255]
        for begin in range(0, width, _BLOCK):
            end = min(begin + _BLOCK, width)
            m = mask[y * mask_step + begin : y * mask_step + end]
            if _any(m):
                # Places first, colours then: the first part goes eight pixels at a time.
                first = begin + right
                for x in range(m.size):
                    dx = _F(int32(x + first)) + _F(0.5) - x0
                    places[x] = _place(np.sqrt(dx * dx + square) - radius, outward, inward, last)
                _lay(words[y * step + begin : y * step + end], m, table, places, grain, first, strength)


@compiled(_AWAY)
def lay_along_line(
    words, step, mask, mask_step, width, height, table, noise, right, down, strength, u, v, start, outer, inner
):
    """As `lay_around_point`, by the distance u x + v y + start from a straight line."""
    last = _F(int64(table.size - 1))
    places = np.empty(_BLOCK, np.int32)
    outward, inward = outer * last, inner * last
    for y in range(height):
        row, grain = (_F(int32(y + down)) + _F(0.5)) * v + start, noise[(y + down) & 255]
        for begin in range(0, width, _BLOCK):
            end = min(begin + _BLOCK, width)
            m = mask[y * mask_step + begin : y * mask_step + end]
            if _any(m):
                first = begin + right
                for x in range(m.size):
                    places[x] = _place((_F(int32(x + first)) + _F(0.5)) * u + row, outward, inward, last)
                _lay(words[y * step + begin : y * step + end], m, table, places, grain, first, strength)


@compiled(
    void(written(uint32), int64, read(uint64), read(uint64, 2), int64, int64, int64, int64, float32, float32, float32)
)
def fill_around_point(words, step, table, noise, right, down, width, height, x0, y0, scale):
    """Colours of a table by the distance from a point, its end at 1 / scale, written over words. Grain begins
    `right` and `down` pixels into its tile, and the point lies as it does."""
    last = _F(int64(table.size - 1))
    places, per = np.empty(width, np.int32), scale * last
    for y in range(height):
        dy = _F(int32(y + down)) + _F(0.5) - y0
        square = dy * dy
        for x in range(width):
            dx = _F(int32(x + right)) + _F(0.5) - x0
            places[x] = int32(min(np.sqrt(dx * dx + square) * per, last) + _F(0.5))
        _look_up_row(words[y * step : y * step + width], table, places, noise[(y + down) & 255], right)


@compiled(
    void(written(uint32), int64, read(uint64), read(uint64, 2), int64, int64, int64, int64, float32, float32, float32)
)
def fill_along_line(words, step, table, noise, right, down, width, height, u, v, start):
    """As `fill_around_point`, by u x + v y + start, from 0 at the table's start to 1 at its end."""
    last = _F(int64(table.size - 1))
    places, across = np.empty(width, np.int32), u * last
    for y in range(height):
        row = ((_F(int32(y + down)) + _F(0.5)) * v + start) * last
        for x in range(width):
            at = (_F(int32(x + right)) + _F(0.5)) * across + row
            places[x] = int32(min(max(at, _F(0)), last) + _F(0.5))
        _look_up_row(words[y * step : y * step + width], table, places, noise[(y + down) & 255], right)


@compiled(
    void(
        written(uint32), int64, read(uint32), read(uint16, 2), int64, read(uint16, 2), uint32,
        int64, int64, int64, int64,
    )
)  # fmt: skip
def veil(words, step, table, thickness, cell, grain, strength, right, down, width, height):
    """Premultiplied colours of a table, of which each stands for 8 levels of thickness, over words.

    Rows of `thickness` stand for `cell` rows each; the first pixel lies `right` and `down` pixels within it. Grain of a
    tile of 256 by 256, times `strength` / 65536, is added before what lies beyond the table is cut off."""
    last, most = thickness.shape[0] - 1, uint32(table.size * 8 - 1)
    places = np.empty(width, np.uint32)
    for y in range(height):
        i, share = row_of_cells(y + down, cell, last)
        rest = uint32(uint32(256) - share)
        here, below = thickness[i, right : right + width], thickness[min(i + 1, last), right : right + width]
        g = grain[(y + down) & 255]
        for x in range(width):
            level = uint32(uint32(uint32(uint32(here[x]) * rest) + uint32(uint32(below[x]) * share)) >> uint32(8))
            noise = uint32(uint32(uint32(g[uint32(x + right) & uint32(255)]) * strength) >> uint32(16))
            places[x] = min(uint32(level + noise), most)
        w = words[y * step : y * step + width]
        for x in range(width):
            w[x] = over(w[x], table[uint32(places[x] >> uint32(3))])
