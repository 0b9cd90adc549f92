"""Arithmetic on pixels as 32-bit words. Every step is wrapped: the compiler would widen it to 64 bits otherwise."""

from __future__ import annotations

from numba import float32, int32, int64, uint32
from numba.extending import register_jitable

EVEN = uint32(0x00FF00FF)
"""Blue and red of a word; green and alpha, once it is shifted by a byte."""
BYTE = uint32(255)
EIGHT = uint32(8)
ALPHA = uint32(24)
_HALVES = uint32(0x00800080)
_ODD = uint32(0xFF00FF00)
_CARRY = uint32(0x01000100)


@register_jitable(inline="always")
def divided(product):
    """A product of two bytes divided by 255, rounded: exact for 0 to 65025."""
    product = uint32(product + uint32(128))
    return uint32(uint32(product + uint32(product >> EIGHT)) >> EIGHT)


@register_jitable(inline="always")
def joined(even, odd):
    """A word of two pairs of products, each divided by 255 and rounded."""
    even, odd = uint32(even + _HALVES), uint32(odd + _HALVES)
    even = uint32(uint32(uint32(even + uint32(uint32(even >> EIGHT) & EVEN)) >> EIGHT) & EVEN)
    odd = uint32(uint32(odd + uint32(uint32(odd >> EIGHT) & EVEN)) & _ODD)
    return uint32(even | odd)


@register_jitable(inline="always")
def scaled(word, share):
    """All four bytes of a word times `share` / 255, rounded."""
    return joined(uint32(uint32(word & EVEN) * share), uint32(uint32(uint32(word >> EIGHT) & EVEN) * share))


@register_jitable(inline="always")
def mixed(above, share, below, kept):
    """The sum of a word times `share` / 255 and another times `kept` / 255, rounded once."""
    even = uint32(uint32(uint32(above & EVEN) * share) + uint32(uint32(below & EVEN) * kept))
    odd = uint32(
        uint32(uint32(uint32(above >> EIGHT) & EVEN) * share) + uint32(uint32(uint32(below >> EIGHT) & EVEN) * kept)
    )
    return joined(even, odd)


@register_jitable(inline="always")
def summed(one, other):
    """Byte by byte, no more than 255."""
    even = uint32(uint32(one & EVEN) + uint32(other & EVEN))
    odd = uint32(uint32(uint32(one >> EIGHT) & EVEN) + uint32(uint32(other >> EIGHT) & EVEN))
    # A byte that ran over is filled: its carry, less itself shifted down, is 255.
    over = uint32(even & _CARRY)
    even = uint32(uint32(even | uint32(over - uint32(over >> EIGHT))) & EVEN)
    over = uint32(odd & _CARRY)
    odd = uint32(uint32(odd | uint32(over - uint32(over >> EIGHT))) & EVEN)
    return uint32(even | uint32(odd << EIGHT))


@register_jitable(inline="always")
def part(word, shift):
    """One byte of a word: shift 0 is blue, 8 green, 16 red, 24 alpha."""
    return uint32(uint32(word >> uint32(shift)) & BYTE)


@register_jitable(inline="always")
def over(below, above):
    """A premultiplied word over another."""
    return summed(above, scaled(below, uint32(BYTE - part(above, 24))))


@register_jitable(inline="always")
def weakened(share, strength):
    """A byte times `strength` / 65536, rounded."""
    return uint32(uint32(uint32(share * strength) + uint32(32768)) >> uint32(16))


@register_jitable(inline="always")
def luminance(colour):
    """Rec. 709's luminance of a straight colour in quarters of a level, 0 to 1020."""
    total = uint32(
        uint32(uint32(part(colour, 0) * uint32(4731)) + uint32(part(colour, 8) * uint32(46871)))
        + uint32(uint32(part(colour, 16) * uint32(13934)) + uint32(8192))
    )
    return int32(total >> uint32(14))


@register_jitable(inline="always")
def luminances(row, levels):
    """The luminances of a row of pixels, from 0 to 1020; of what is not opaque as it is over black."""
    for x in range(row.shape[0]):
        levels[x] = luminance(row[x])


@register_jitable(inline="always")
def share_of_luminances(levels, table, shares):
    """The share of each luminance in a table of 1021."""
    for x in range(levels.shape[0]):
        shares[x] = table[levels[x]]


@register_jitable(inline="always")
def row_of_cells(row, cell, last):
    """Where a row lies on a raster whose rows stand for `cell` rows each: the row above, up to the `last` one, and the
    share of 256 of the one below."""
    place = (float32(int32(row)) + float32(0.5)) / float32(int32(cell)) - float32(0.5)
    place = min(max(place, float32(0)), float32(int32(last)))
    above = int64(place)
    return above, uint32(int32((place - float32(above)) * float32(256)))
