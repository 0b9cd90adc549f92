"""Light and shade of a relief laid over a picture."""

from __future__ import annotations

from numba import int16, int32, int64, uint32, void

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, divided, mixed, part, scaled


@compiled(void(read(uint32), int64, written(uint32), read(int16), int64, uint32, uint32, uint32, uint32, int64, int64))
def shade(words, step, out, slope, slope_step, light, light_share, dark, dark_share, width, height):
    """Premultiplied words toward a colour (0xrrggbb) where the slope is above 0, toward another below, by as much as it
    is (255 is all) times a share (0 to 255). Alpha stays. Rows of `out` lie side by side."""
    light, dark = uint32(light | uint32(0xFF000000)), uint32(dark | uint32(0xFF000000))
    for y in range(height):
        w, s = words[y * step : y * step + width], slope[y * slope_step : y * slope_step + width]
        o = out[y * width : y * width + width]
        for x in range(width):
            v, by = w[x], int32(s[x])
            lit = by > 0
            share = divided(uint32(uint32(min(abs(by), int32(255))) * (light_share if lit else dark_share)))
            tone = scaled(light if lit else dark, part(v, 24))
            o[x] = mixed(tone, share, v, uint32(BYTE - share))
