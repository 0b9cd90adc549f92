"""Light and shade of a relief laid over a picture."""

from __future__ import annotations

from numba import int16, int32, int64, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, EIGHT, divided, part, scaled


@register_jitable(inline="always")
def _toward(value, tone, share, rest):
    return divided(uint32(uint32(tone * share) + uint32(value * rest)))


@compiled(void(written(uint32), int64, read(int16), int64, uint32, uint32, uint32, uint32, int64, int64))
def shade(words, step, slope, slope_step, light, light_share, dark, dark_share, width, height):
    """Premultiplied words in place: toward a colour (0xrrggbb) where the slope is above 0, toward another below, by as
    much as it is (255 is all) times a share (0 to 255). Alpha stays."""
    for y in range(height):
        w, s = words[y * step : y * step + width], slope[y * slope_step : y * slope_step + width]
        for x in range(width):
            v, by = w[x], int32(s[x])
            lit = by > 0
            tone = scaled(light if lit else dark, part(v, 24))
            share = divided(uint32(uint32(min(abs(by), int32(255))) * (light_share if lit else dark_share)))
            rest = uint32(BYTE - share)
            blue = _toward(part(v, 0), part(tone, 0), share, rest)
            green = _toward(part(v, 8), part(tone, 8), share, rest)
            red = _toward(part(v, 16), part(tone, 16), share, rest)
            w[x] = uint32(
                uint32(blue | uint32(green << EIGHT))
                | uint32(uint32(red << uint32(16)) | uint32(v & uint32(0xFF000000)))
            )
