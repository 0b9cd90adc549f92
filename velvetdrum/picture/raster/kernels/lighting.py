"""Light gathered from a picture, and laid over it, dithered."""

from __future__ import annotations

import numpy as np
from numba import boolean, float32, int32, int64, uint8, uint16, uint32, uint64, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import (
    EIGHT,
    EVEN,
    luminances,
    part,
    row_of_cells,
    scaled,
    share_of_luminances,
)

_F = np.float32
_CHUNK = 1024
_KNEE, _WHITE = 160, 250
"""Levels between which light on film rolls off: it brings no pixel beyond the second."""


@register_jitable
def _pairs(values, sums, count):
    """The first `count` sums of two neighbours."""
    pairs = values[: 2 * count].view(np.uint64)
    for x in range(count):
        sums[x] = uint32(uint32(pairs[x]) + uint32(pairs[x] >> uint64(32)))


@compiled(
    void(read(uint32), int64, int64, int64, read(uint32), int64, int64, int64, written(float32, 2)),
)
def bright_means(words, step, width, height, table, cell, left, top, out):
    """So much of each pixel as `table` says for its luminance (1021 shares of 0 to 255), as means over cells of `cell`
    by `cell` pixels, in levels: a copy, shape (rows, columns * 4), of which the first of the picture's cells lies at
    `left` and `top`. Nothing is written beside the picture's cells; what a cell has beyond the picture is nothing.
    `cell` is a power of two, at most 128: sums of a column stay within 16 bits."""
    levels, shares = np.empty(width, np.int32), np.empty(width, np.uint32)
    columns = (width + cell - 1) // cell
    even, odd = np.zeros(columns * cell, np.uint32), np.zeros(columns * cell, np.uint32)
    spare = np.zeros(columns * cell, np.uint32)
    share = _F(1.0 / (cell * cell))
    for row in range((height + cell - 1) // cell):
        even[:] = uint32(0)
        odd[:] = uint32(0)
        # Sums of columns first: the machine adds many at a time.
        for y in range(row * cell, min(row * cell + cell, height)):
            w = words[y * step : y * step + width]
            luminances(w, levels)
            share_of_luminances(levels, table, shares)
            for x in range(width):
                v = scaled(w[x], shares[x])
                even[x] = uint32(even[x] + uint32(v & EVEN))
                odd[x] = uint32(odd[x] + uint32(uint32(v >> EIGHT) & EVEN))
        # Neighbours then, for as long as sums stay within 16 bits: a cell of 16 by 16 fills them.
        wide = int64(1)
        while wide * 2 <= min(cell, 256 // cell):
            wide *= 2
            _pairs(even, spare, columns * (cell // wide))
            even, spare = spare, even
            _pairs(odd, spare, columns * (cell // wide))
            odd, spare = spare, odd
        left_over = cell // wide
        to = out[top + row]
        if left_over == 1:
            to = to[left * 4 : (left + columns) * 4]
            for column in range(columns):
                k = uint32(column)
                at = uint32(k * uint32(4))
                to[at] = _F(uint32(even[k] & uint32(0xFFFF))) * share
                to[at + uint32(1)] = _F(uint32(odd[k] & uint32(0xFFFF))) * share
                to[at + uint32(2)] = _F(uint32(even[k] >> uint32(16))) * share
                to[at + uint32(3)] = _F(uint32(odd[k] >> uint32(16))) * share
            continue
        for column in range(columns):
            blue = green = red = alpha = uint32(0)
            for x in range(column * left_over, column * left_over + left_over):
                blue = uint32(blue + uint32(even[x] & uint32(0xFFFF)))
                red = uint32(red + uint32(even[x] >> uint32(16)))
                green = uint32(green + uint32(odd[x] & uint32(0xFFFF)))
                alpha = uint32(alpha + uint32(odd[x] >> uint32(16)))
            at = (left + column) * 4
            to[at], to[at + 1], to[at + 2], to[at + 3] = (
                _F(blue) * share,
                _F(green) * share,
                _F(red) * share,
                _F(alpha) * share,
            )


@register_jitable
def _limit(w):
    for x in range(w.size):
        v = w[x]
        most = part(v, 24)
        blue, green, red = min(part(v, 0), most), min(part(v, 8), most), min(part(v, 16), most)
        w[x] = uint32(
            uint32(blue | uint32(green << uint32(8))) | uint32(uint32(red << uint32(16)) | uint32(most << uint32(24)))
        )


@register_jitable
def _begin(words, step, width, height, left, top, y, row):
    """A row of a picture that lies at `left` and `top` of a larger area, with nothing beside it. True where no pixel of
    it lets anything through."""
    line = y - top
    if line < 0 or line >= height:
        row[:] = uint32(0)
        return False
    row[:left] = uint32(0)
    row[left + width :] = uint32(0)
    w, to = words[line * step : line * step + width], row[left : left + width]
    common = uint32(0xFFFFFFFF)
    for x in range(width):
        v = w[x]
        to[x] = v
        common = uint32(common & v)
    return width == row.size and uint32(common >> uint32(24)) == uint32(255)


@register_jitable
def _strongest(light, right, count):
    """The most that any channel of light has, in each chunk of each of its rows."""
    most = np.zeros((light.shape[0], (count + _CHUNK - 1) // _CHUNK), np.uint16)
    for y in range(light.shape[0]):
        for chunk in range(most.shape[1]):
            values = light[y, right + chunk * _CHUNK : right + min(chunk * _CHUNK + _CHUNK, count)]
            top = uint16(0)
            for x in range(values.size):
                top = max(top, values[x])
            most[y, chunk] = top
    return most


@register_jitable
def _brightest(row, levels, there, light):
    """The brightest channel of each pixel, and of the light on it, in 32nds of a level; the largest sum of the two."""
    words = levels.view(np.uint64)
    most = int32(0)
    for x in range(row.size):
        v = row[x]
        there[x] = int32(uint32(max(part(v, 0), part(v, 8), part(v, 16)) << uint32(5)))
    for x in range(row.size):
        v = words[x]
        one, two, three = uint32(v), uint32(v >> uint64(16)), uint32(v >> uint64(32))
        light[x] = int32(max(one & uint32(0xFFFF), two & uint32(0xFFFF), three & uint32(0xFFFF)))
    for x in range(row.size):
        most = max(most, int32(there[x] + light[x]))
    return most


@register_jitable
def _may_reach(row, light):
    """Whether so much light at the most, in 32nds of a level, may lift a pixel above the knee."""
    bits = uint32(0)
    for x in range(row.size):
        bits = uint32(bits | row[x])
    most = max(max(part(bits, 0), part(bits, 8)), part(bits, 16))
    return int64(uint32(most << uint32(5))) + light > _KNEE << 5


@register_jitable
def _roll_off(there, light, shares):
    """How much of the light is kept, in 65535ths, four times over: the brightest channel goes from the knee towards
    white as x / (1 + x), never below what it was, and all channels are held back alike, so that the hue is kept."""
    words = shares.view(np.uint64)
    for x in range(there.size):
        base, more = _F(there[x]), _F(light[x])
        knee = max(_F(_KNEE << 5), base)
        room = max(_F(_WHITE << 5) - knee, _F(0))
        over = max(base + more - knee, _F(0))
        top = min(base + more, knee) + over * room / (room + over + _F(0.01))
        there[x] = int32((top - base) / (more + _F(0.01)) * _F(65535) + _F(0.5))
    for x in range(there.size):
        words[x] = uint64(uint64(uint32(there[x])) * uint64(0x0001000100010001))


@register_jitable
def _hold_back(row, strong, there, most, shares):
    """So much of the light on a run of pixels as film takes of it."""
    if _brightest(row, strong, there, most) <= _KNEE << 5:
        return
    _roll_off(there[: row.size], most[: row.size], shares)
    for x in range(strong.size):
        strong[x] = uint16(uint32(uint32(strong[x]) * uint32(shares[x]) + uint32(32768)) >> uint32(16))


@compiled(
    void(
        read(uint32), int64, int64, int64, int64, int64,
        written(uint32, 2), written(uint8, 2), read(uint16, 2), int64, int64, int64, read(uint16, 2), boolean,
    )
)  # fmt: skip
def lit(words, step, width, height, left, top, out, channels, light, cell, right, down, noise, film):
    """A picture that lies at `left` and `top` of `out`, with nothing round it, and light over all of it.

    `channels` are the bytes of `out`. `light` has rows at least as wide as it, each standing for `cell` rows of it: a
    channel each in 16 bits, in 256ths of a level, on film in 32nds; the first byte lies `right` bytes and `down` rows
    within it. Noise of up to a level, then rounded down, keeps the mean; 255 is the most, and no colour goes beyond
    alpha. On film light rolls off above the knee instead of being cut at white."""
    last = light.shape[0] - 1
    count = channels.shape[1]
    levels, shares = np.empty(_CHUNK, np.uint16), np.empty(_CHUNK, np.uint16)
    there, most = np.empty(_CHUNK >> 2, np.int32), np.empty(_CHUNK >> 2, np.int32)
    strongest = _strongest(light, right, count)
    finer = uint32(3) if film else uint32(0)
    for y in range(out.shape[0]):
        row, bytes_ = out[y], channels[y]
        solid = _begin(words, step, width, height, left, top, y, row)
        i, share = row_of_cells(y + down, cell, last)
        kept = uint32(uint32(256) - share)
        here, below = light[i, right : right + count], light[min(i + 1, last), right : right + count]
        for begin in range(0, count, _CHUNK):
            end = min(begin + _CHUNK, count)
            chunk = begin // _CHUNK
            strength = max(strongest[i, chunk], strongest[min(i + 1, last), chunk])
            if strength == 0:
                continue
            w, a, b, grain = bytes_[begin:end], here[begin:end], below[begin:end], noise[y & 255]
            if film and _may_reach(row[begin >> 2 : end >> 2], int64(strength)):
                strong = levels[: end - begin]
                for x in range(w.size):
                    strong[x] = uint16(uint32(uint32(uint32(a[x]) * kept) + uint32(uint32(b[x]) * share)) >> uint32(8))
                _hold_back(row[begin >> 2 : end >> 2], strong, there, most, shares)
                for x in range(w.size):
                    level = uint32(uint32(uint32(uint32(strong[x]) << uint32(3)) + uint32(grain[x])) >> uint32(8))
                    w[x] = uint8(min(uint32(uint32(w[x]) + level), uint32(255)))
                continue
            for x in range(w.size):
                level = uint32(uint32(uint32(uint32(a[x]) * kept) + uint32(uint32(b[x]) * share)) >> uint32(8))
                level = uint32(uint32(uint32(level << finer) + uint32(grain[x])) >> uint32(8))
                w[x] = uint8(min(uint32(uint32(w[x]) + level), uint32(255)))
        if not solid:
            _limit(row)


_PAIR = uint64(0x0000FFFF0000FFFF)
_HALVES = uint64(0x0000008000000080)


@register_jitable(inline="always")
def _between(one, other, share):
    """Four 16-bit channels between those of two words, `share` of 256 of the second."""
    kept = uint64(uint64(256) - share)
    even = uint64(uint64(one & _PAIR) * kept + uint64(other & _PAIR) * share)
    odd = uint64(uint64(uint64(one >> uint64(16)) & _PAIR) * kept + uint64(uint64(other >> uint64(16)) & _PAIR) * share)
    even = uint64(uint64(even + _HALVES) >> uint64(8)) & _PAIR
    odd = uint64(uint64(odd + _HALVES) >> uint64(8)) & _PAIR
    return uint64(even | uint64(odd << uint64(16)))


@register_jitable
def _widen(row, framed, columns, across, out):
    """A row between its pixels at places across; `framed` holds it with nothing on both sides."""
    framed[1 : row.size + 1] = row
    for x in range(out.size):
        i = uint32(columns[x])
        out[x] = _between(framed[i], framed[uint32(i + uint32(1))], uint64(across[x]))


@compiled(
    void(
        read(uint64, 2), read(uint16, 2), read(uint32), read(uint32), read(int32), read(uint32),
        uint32, written(uint16, 2),
    )
)  # fmt: skip
def drawn_out(pixels, channels, columns, across, rows, down, weight, out):
    """The mean of a picture of four 16-bit channels and itself at places that are apart by columns and rows, which has
    `weight` of 65536; nothing lies beside it. `channels` are those of `pixels`. Places are the pixels on the left,
    counted from 1 (0 and the width and one lie beside it), and those above, with shares of 256 of those on the right
    and below."""
    height, width = pixels.shape
    framed = np.zeros(width + 3, np.uint64)
    upper, lower = np.zeros(width, np.uint64), np.zeros(width, np.uint64)
    first, second = upper.view(np.uint16), lower.view(np.uint16)
    upper_row, lower_row = int64(-9), int64(-9)
    kept = uint32(uint32(65536) - weight)
    for y in range(height):
        row = int64(rows[y])
        if row != upper_row:
            if row == lower_row:
                upper, lower = lower, upper
                first, second = second, first
            elif 0 <= row < height:
                _widen(pixels[row], framed, columns, across, upper)
            else:
                upper[:] = uint64(0)
            upper_row, lower_row = row, int64(-9)
        if row + 1 != lower_row:
            if 0 <= row + 1 < height:
                _widen(pixels[row + 1], framed, columns, across, lower)
            else:
                lower[:] = uint64(0)
            lower_row = row + 1
        share = uint32(down[y])
        rest = uint32(uint32(256) - share)
        c, o = channels[y], out[y]
        for x in range(o.size):
            moved = uint32(
                uint32(uint32(uint32(first[x]) * rest) + uint32(uint32(second[x]) * share) + uint32(128)) >> uint32(8)
            )
            total = uint32(uint32(uint32(c[x]) * kept) + uint32(moved * weight))
            o[x] = uint16(uint32(total + uint32(32768)) >> uint32(16))
