"""Colours of single pixels changed by tables: curves and a matrix, a table by luminance, a cube, grain, ordered dither.

Tables are made for straight colours. A pixel that is not opaque is divided by its alpha first, and multiplied again.
"""

from __future__ import annotations

import numpy as np
from numba import int32, int64, uint8, uint32, uint64, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import (
    BYTE,
    EIGHT,
    luminance,
    luminances,
    part,
    scaled,
    share_of_luminances,
)

FIELD = 21
"""Bits of a sum of three curves: 256ths of a level, raised by `BIAS` for each curve so that it is never below 0."""
BIAS = 1 << 18
_RAISED = int32(3 * BIAS - 128)
_MASK = uint64((1 << FIELD) - 1)


_STRAIGHT = np.zeros(65536, np.uint8)
"""A premultiplied channel divided by alpha, rounded, by alpha * 256 + channel; 0 where alpha is 0."""
for _alpha in range(1, 256):
    _STRAIGHT[_alpha * 256 : _alpha * 256 + 256] = np.minimum((np.arange(256) * 255 + _alpha // 2) // _alpha, 255)


@register_jitable
def _straight(word, alpha):
    """A premultiplied word with its colours divided by alpha, which is not 0."""
    row = uint32(alpha << EIGHT)
    blue = uint32(_STRAIGHT[uint32(row | part(word, 0))])
    green = uint32(_STRAIGHT[uint32(row | part(word, 8))])
    red = uint32(_STRAIGHT[uint32(row | part(word, 16))])
    return uint32(uint32(blue | uint32(green << EIGHT)) | uint32(red << uint32(16)))


@register_jitable(inline="always")
def _veiled(colour, alpha):
    """A straight colour premultiplied by alpha."""
    return uint32(uint32(scaled(colour, alpha) & uint32(0xFFFFFF)) | uint32(alpha << uint32(24)))


@register_jitable(inline="always")
def _level(total):
    """A raised sum as a byte."""
    return uint32(min(max(int32(int32(uint32(total)) - _RAISED) >> int32(8), int32(0)), int32(255)))


@register_jitable(inline="always")
def _through(colour, t):
    total = uint64(
        uint64(t[int64(part(colour, 0))] + t[256 + int64(part(colour, 8))]) + t[512 + int64(part(colour, 16))]
    )
    blue, green = _level(total & _MASK), _level((total >> uint64(FIELD)) & _MASK)
    red = _level(total >> uint64(2 * FIELD))
    return uint32(uint32(blue | uint32(green << EIGHT)) | uint32(red << uint32(16)))


@register_jitable(inline="always")
def _is_opaque(row):
    result = uint32(0xFF000000)
    for x in range(row.shape[0]):
        result = uint32(result & row[x])
    return result == uint32(0xFF000000)


@compiled(void(read(uint32), int64, written(uint32), read(uint64), int64, int64))
def add_curves(words, step, out, table, width, height):
    """Each channel as the sum of three curves: `table` has 256 entries each for blue, green and red, with what they add
    to blue (the lowest field), green and red."""
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        if _is_opaque(w):
            for x in range(width):
                o[x] = uint32(_through(w[x], table) | uint32(0xFF000000))
            continue
        for x in range(width):
            v = w[x]
            a = part(v, 24)
            o[x] = uint32(0) if a == uint32(0) else _veiled(_through(_straight(v, a), table), a)


@compiled(void(read(uint32), int64, written(uint32), read(uint32), int64, int64))
def colour_by_luminance(words, step, out, table, width, height):
    """An opaque colour (0xffrrggbb) for each luminance, of which `table` has 1021."""
    result = np.empty(width, np.int32)
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        if _is_opaque(w):
            # Luminances first, colours then: the first part goes eight pixels at a time.
            luminances(w, result)
            for x in range(width):
                o[x] = table[result[x]]
            continue
        for x in range(width):
            v = w[x]
            a = part(v, 24)
            o[x] = uint32(0) if a == uint32(0) else _veiled(table[luminance(_straight(v, a))], a)


@compiled(void(read(uint32), int64, written(uint32), read(uint32), int64, int64))
def share_by_luminance(words, step, out, table, width, height):
    """So much of each pixel as `table` says for its luminance, in 1021 shares of 0 to 255. What is not opaque counts as
    dark as it is over black."""
    result, shares = np.empty(width, np.int32), np.empty(width, np.uint32)
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        luminances(w, result)
        share_of_luminances(result, table, shares)
        for x in range(width):
            o[x] = scaled(w[x], shares[x])


@register_jitable(inline="always")
def _in_cube(colour, c, n, places, parts):
    """Tetrahedral interpolation: from a cell's near corner along its axes, the longest part first, to the far one. Ties
    weigh nothing, so it does not matter which of two equal ones comes first."""
    b, g, r = int64(part(colour, 0)), int64(256 + part(colour, 8)), int64(512 + part(colour, 16))
    fb, fg, fr = parts[b], parts[g], parts[r]
    i = places[b] + places[g] + places[r]
    longest, least = max(max(fb, fg), fr), min(min(fb, fg), fr)
    between = uint64(uint64(fb + fg) + fr) - longest - least
    sg, sb = int64(n), int64(n * n)
    first = int64(1) if fr == longest else (sg if fg == longest else sb)
    last = sb if fb == least else (sg if fg == least else int64(1))
    far = i + 1 + sg + sb
    total = uint64(c[i] * uint64(uint64(256) - longest)) + uint64(c[i + first] * uint64(longest - between))
    total = uint64(total + uint64(c[far - last] * uint64(between - least))) + uint64(c[far] * least)
    # Fields hold 16ths of a level times 256.
    blue = uint32(uint32(total & _MASK) >> uint32(12))
    green = uint32(uint32(uint64(total >> uint64(FIELD)) & _MASK) >> uint32(12))
    red = uint32(uint32(total >> uint64(2 * FIELD)) >> uint32(12))
    return uint32(uint32(blue | uint32(green << EIGHT)) | uint32(red << uint32(16)))


@compiled(void(read(uint32), int64, written(uint32), read(uint64), int64, read(int64), read(uint64), int64, int64))
def look_up_cube(words, step, out, cube, n, places, parts, width, height):
    """Colours through a cube of n x n x n colours, red counting fastest: fields of blue, green and red in 16ths of a
    level, half a level up. `places` and `parts` say for each level of blue, green and red (256 each) how far on in the
    cube its cell lies, and where in the cell, in 256ths."""
    for y in range(height):
        w, o = words[y * step : y * step + width], out[y * width : y * width + width]
        if _is_opaque(w):
            for x in range(width):
                o[x] = uint32(_in_cube(w[x], cube, n, places, parts) | uint32(0xFF000000))
            continue
        for x in range(width):
            v = w[x]
            a = part(v, 24)
            if a == uint32(0):
                o[x] = uint32(0)
            else:
                o[x] = _veiled(_in_cube(_straight(v, a), cube, n, places, parts), a)


@register_jitable(inline="always")
def _moved(value, by, alpha):
    return uint32(min(max(int32(int32(value) + by), int32(0)), alpha))


@compiled(void(read(uint32), int64, written(uint32), read(int32), int64, int32, int32, int64, int64, int64, int64))
def add_grain(words, step, out, tile, side, ends, bow, left, top, width, height):
    """Noise added to all channels, from a square tile that stands twice in each of its rows. Its gain is `ends` in
    65536ths at black and white, and `bow` more in the middle. Neither goes below 0 nor beyond alpha."""
    for y in range(height):
        row = ((y + top) % side) * side * 2
        solid = _is_opaque(words[y * step : y * step + width])
        begin = 0
        while begin < width:
            count = min(side, width - begin)
            first = (begin + left) % side
            t = tile[row + first : row + first + count]
            w = words[y * step + begin : y * step + begin + count]
            o = out[y * width + begin : y * width + begin + count]
            for x in range(count):
                v = w[x]
                a = int32(part(v, 24))
                level = luminance(v)
                # 4 l (1 - l) in 1024ths.
                arch = int32(int32(level * int32(int32(1020) - level)) >> int32(8))
                gain = int32(ends + int32(int32(bow * arch) >> int32(10)))
                by = int32(int32(int32(t[x] * gain) + int32(32768)) >> int32(16))
                if not solid:
                    by = int32(by * a + int32(127)) // int32(255)
                blue, green, red = _moved(part(v, 0), by, a), _moved(part(v, 8), by, a), _moved(part(v, 16), by, a)
                o[x] = uint32(
                    uint32(blue | uint32(green << EIGHT))
                    | uint32(uint32(red << uint32(16)) | uint32(v & uint32(0xFF000000)))
                )
            begin += count


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
