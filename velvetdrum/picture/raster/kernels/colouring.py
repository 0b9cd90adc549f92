"""Colours of single pixels changed by tables: curves and a matrix, a table by luminance, a cube, grain, ordered dither.

Tables are made for straight colours. A pixel that is not opaque is divided by its alpha first, and multiplied again.
"""

from __future__ import annotations

import numpy as np
from numba import float32, int8, int16, int32, int64, uint8, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.building import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, EIGHT, divided, part, scaled

_F = np.float32
_ROUND = int32(32768)
_TOP = int32(255 << 16)


@register_jitable(inline="always")
def _straight(word, alpha):
    """A premultiplied word with its colours divided by alpha, which is not 0."""
    half = uint32(alpha >> uint32(1))
    blue = uint32(uint32(uint32(part(word, 0) * BYTE) + half) // alpha)
    green = uint32(uint32(uint32(part(word, 8) * BYTE) + half) // alpha)
    red = uint32(uint32(uint32(part(word, 16) * BYTE) + half) // alpha)
    return uint32(uint32(min(blue, BYTE)) | uint32(uint32(min(green, BYTE)) << EIGHT)) | uint32(
        uint32(min(red, BYTE)) << uint32(16)
    )


@register_jitable(inline="always")
def _veiled(colour, alpha):
    """A straight colour premultiplied by alpha."""
    return uint32(uint32(scaled(colour, alpha) & uint32(0xFFFFFF)) | uint32(alpha << uint32(24)))


@register_jitable(inline="always")
def _level(value):
    """A sum in 65536ths of a level as a byte."""
    return uint32(int32(min(max(int32(value + _ROUND), int32(0)), _TOP)) >> int32(16))


@register_jitable(inline="always")
def _through(colour, t):
    b, g, r = int64(part(colour, 0)), int64(part(colour, 8)), int64(part(colour, 16))
    blue = _level(int32(t[b] + t[256 + g] + t[512 + r]))
    green = _level(int32(t[768 + b] + t[1024 + g] + t[1280 + r]))
    red = _level(int32(t[1536 + b] + t[1792 + g] + t[2048 + r]))
    return uint32(uint32(blue | uint32(green << EIGHT)) | uint32(red << uint32(16)))


@compiled(void(read(uint32), int64, written(uint32), read(int32), int64, int64))
def add_curves(words, step, out, table, width, height):
    """Each channel as the sum of three curves: `table` has 9 rows of 256, blue out of blue, green, red, then green, then
    red, in 65536ths of a level."""
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        for x in range(width):
            v = w[x]
            a = part(v, 24)
            if a == BYTE:
                o[x] = uint32(_through(v, table) | uint32(0xFF000000))
            elif a == uint32(0):
                o[x] = uint32(0)
            else:
                o[x] = _veiled(_through(_straight(v, a), table), a)


@register_jitable(inline="always")
def _luminance(colour):
    """Rec. 709's luminance of a straight colour in quarters of a level, 0 to 1020."""
    total = uint32(
        uint32(uint32(part(colour, 0) * uint32(4731)) + uint32(part(colour, 8) * uint32(46871)))
        + uint32(uint32(part(colour, 16) * uint32(13934)) + uint32(8192))
    )
    return int64(total >> uint32(14))


@compiled(void(read(uint32), int64, written(uint32), read(uint32), int64, int64))
def colour_by_luminance(words, step, out, table, width, height):
    """A straight colour (0xrrggbb) for each luminance, of which `table` has 1021."""
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        for x in range(width):
            v = w[x]
            a = part(v, 24)
            if a == BYTE:
                o[x] = uint32(table[_luminance(v)] | uint32(0xFF000000))
            elif a == uint32(0):
                o[x] = uint32(0)
            else:
                o[x] = _veiled(table[_luminance(_straight(v, a))], a)


@compiled(void(read(uint32), int64, written(uint32), read(uint32), int64, int64))
def share_by_luminance(words, step, out, table, width, height):
    """So much of each pixel as `table` says for its luminance, in 1021 shares of 0 to 255. What is not opaque counts as
    dark as it is over black."""
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        for x in range(width):
            v = w[x]
            o[x] = scaled(v, table[_luminance(v)])


@register_jitable(inline="always")
def _cube_level(c, n, i, one, two, wide, mid, low, channel):
    """Tetrahedral interpolation from corner `i` by way of two others to the far one."""
    far = i + (n * n + n + 1) * 3
    first = c[i + channel]
    return (
        first
        + (c[one + channel] - first) * wide
        + (c[two + channel] - c[one + channel]) * mid
        + (c[far + channel] - c[two + channel]) * low
    )


@register_jitable(inline="always")
def _in_cube(colour, c, n, places, parts):
    b, g, r = int64(part(colour, 0)), int64(part(colour, 8)), int64(part(colour, 16))
    fb, fg, fr = parts[b], parts[256 + g], parts[512 + r]
    sb, sg, sr = n * n * 3, n * 3, int64(3)
    i = places[b] * sb + places[256 + g] * sg + places[512 + r] * sr
    # The axes from the widest part to the lowest.
    if fr >= fg:
        if fg >= fb:
            one, two, wide, mid, low = i + sr, i + sr + sg, fr, fg, fb
        elif fr >= fb:
            one, two, wide, mid, low = i + sr, i + sr + sb, fr, fb, fg
        else:
            one, two, wide, mid, low = i + sb, i + sb + sr, fb, fr, fg
    elif fr >= fb:
        one, two, wide, mid, low = i + sg, i + sg + sr, fg, fr, fb
    elif fg >= fb:
        one, two, wide, mid, low = i + sg, i + sg + sb, fg, fb, fr
    else:
        one, two, wide, mid, low = i + sb, i + sb + sg, fb, fg, fr
    red = uint32(int32(_cube_level(c, n, i, one, two, wide, mid, low, 0)))
    green = uint32(int32(_cube_level(c, n, i, one, two, wide, mid, low, 1)))
    blue = uint32(int32(_cube_level(c, n, i, one, two, wide, mid, low, 2)))
    return uint32(uint32(blue | uint32(green << EIGHT)) | uint32(red << uint32(16)))


@compiled(
    void(read(uint32), int64, written(uint32), read(float32), int64, read(int64), read(float32), int64, int64)
)
def look_up_cube(words, step, out, cube, n, places, parts, width, height):
    """Colours through a cube of n x n x n colours, red first, as levels from 0.5 to 255.5. `places` and `parts` say for
    each level of blue, green and red (256 each) which cell it lies in, and how far."""
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        last, found = uint32(0), uint32(0)
        for x in range(width):
            v = w[x]
            a = part(v, 24)
            if a == uint32(0):
                o[x] = uint32(0)
                continue
            # Neighbours are often alike.
            if v != last or x == 0:
                last = v
                if a == BYTE:
                    found = uint32(_in_cube(v, cube, n, places, parts) | uint32(0xFF000000))
                else:
                    found = _veiled(_in_cube(_straight(v, a), cube, n, places, parts), a)
            o[x] = found


@register_jitable(inline="always")
def _moved(value, by, alpha):
    return uint32(min(max(int32(int32(value) + by), int32(0)), alpha))


@compiled(void(read(uint32), int64, written(uint32), read(int8), read(int16), int64, int64, int64, int64, int64))
def add_grain(words, step, out, tile, gains, side, left, top, width, height):
    """Noise from a square tile (of a side that is a power of two) added to all channels, times a gain in 256ths by
    luminance (1021 of them). Neither goes beyond alpha."""
    last = side - 1
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        row = ((y + top) & last) * side
        for x in range(width):
            v = w[x]
            a = int32(part(v, 24))
            by = int32(int32(int32(tile[row + ((x + left) & last)]) * int32(gains[_luminance(v)])) + int32(128)) >> int32(8)
            by = int32(int32(by * a) // int32(255)) if a < int32(255) else by
            blue, green, red = _moved(part(v, 0), by, a), _moved(part(v, 8), by, a), _moved(part(v, 16), by, a)
            o[x] = uint32(
                uint32(blue | uint32(green << EIGHT)) | uint32(uint32(red << uint32(16)) | uint32(v & uint32(0xFF000000)))
            )


@compiled(void(read(uint32), int64, written(uint32), read(uint8), read(uint8), int64, int64, int64, int64))
def dither_levels(words, step, out, table, limits, left, top, width, height):
    """Channels brought to few levels by an ordered pattern: `table` has the level below each value, the step above it
    and how far the value lies between in 64ths, 256 each; `limits` the pattern of 8 by 8."""
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        row = ((y + top) & 7) * 8
        for x in range(width):
            v = w[x]
            a = part(v, 24)
            if a == uint32(0):
                o[x] = uint32(0)
                continue
            c = v if a == BYTE else _straight(v, a)
            limit = limits[row + ((x + left) & 7)]
            b, g, r = int64(part(c, 0)), int64(part(c, 8)), int64(part(c, 16))
            blue = uint32(table[b] + (table[256 + b] if table[512 + b] > limit else uint8(0)))
            green = uint32(table[g] + (table[256 + g] if table[512 + g] > limit else uint8(0)))
            red = uint32(table[r] + (table[256 + r] if table[512 + r] > limit else uint8(0)))
            o[x] = _veiled(uint32(uint32(blue | uint32(green << EIGHT)) | uint32(red << uint32(16))), a)
