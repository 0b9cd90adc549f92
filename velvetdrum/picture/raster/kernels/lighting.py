"""Light laid over a picture, dithered."""

from __future__ import annotations

from numba import int32, int64, uint32, uint64, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.building import compiled, read, written
from velvetdrum.picture.raster.kernels.words import part


@register_jitable(inline="always")
def _more(value, light, shift, grain, most):
    level = int32(uint32(light >> uint64(shift)) & uint32(0xFFFF))
    return uint32(min(int32(int32(value) + int32(int32(level + grain) >> int32(8))), most))


@compiled(void(written(uint32), int64, read(uint64), int64, read(int32, 2), int64, int64))
def add(words, step, light, light_step, noise, width, height):
    """Add light to premultiplied words in place: blue, green, red and alpha of it as 16 bits each, in 256ths of a
    level. Noise of up to a level, then rounded down, keeps the mean. No channel goes beyond alpha."""
    for y in range(height):
        w, more_row = words[y * step : y * step + width], light[y * light_step : y * light_step + width]
        row = noise[y & 255]
        begin = 0
        while begin < width:
            count = min(256, width - begin)
            for x in range(count):
                v, more, grain = w[begin + x], more_row[begin + x], row[x]
                most = int32(_more(part(v, 24), more, 48, grain, int32(255)))
                blue, green = _more(part(v, 0), more, 0, grain, most), _more(part(v, 8), more, 16, grain, most)
                red = _more(part(v, 16), more, 32, grain, most)
                w[begin + x] = uint32(
                    uint32(blue | uint32(green << uint32(8)))
                    | uint32(uint32(red << uint32(16)) | uint32(uint32(most) << uint32(24)))
                )
            begin += count
