"""Many small marks drawn one after another: discs, and pictures that are turned and tinted."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, EIGHT, EVEN, over, part, scaled

_F = np.float32
_ONE = np.float32(65536)


@register_jitable(inline="always")
def _ended(pair):
    """Two sums of bytes, each cut at 255."""
    more = uint32(uint32(pair >> EIGHT) & uint32(0x00010001))
    return uint32(uint32(pair | uint32(more * BYTE)) & EVEN)


@register_jitable(inline="always")
def _added(below, above):
    """The sum of two words, each byte cut at 255: plus-lighter of Compositing."""
    even = _ended(uint32(uint32(below & EVEN) + uint32(above & EVEN)))
    odd = _ended(uint32(uint32(uint32(below >> EIGHT) & EVEN) + uint32(uint32(above >> EIGHT) & EVEN)))
    return uint32(even | uint32(odd << EIGHT))


@register_jitable(inline="always")
def _laid(words, at, above, adds):
    if above:
        words[at] = _added(words[at], above) if adds else over(words[at], above)


_DISCS = void(
    written(uint32),
    int64,
    int64,
    int64,
    read(float32),
    read(float32),
    read(float32),
    read(uint32),
    int64,
    int64,
    read(float32),
    read(float32, 2),
    int64,
)


@compiled(_DISCS)
def discs(words, step, width, height, xs, ys, radii, colours, form, adds, nearness, nearest, tested):
    """Discs about places in pixels, in premultiplied colours: `form` 0 with a smooth edge of a pixel, 1 soft (the
    square of 1 less the square of the distance), 2 a ring of a quarter of the radius. A disc of less than a pixel keeps
    its area. `tested`: only where its nearness (1 / depth) is above what is nearest there already."""
    for n in range(xs.size):
        x0, y0, colour = xs[n], ys[n], colours[n]
        near = nearness[n] if tested else _F(0)
        radius = max(radii[n], _F(0.6))
        thin = min(radii[n] / _F(0.6), _F(1))
        strong = thin * thin * _F(255)
        reach = radius + _F(0.5) if form != 1 else radius
        left, right = max(int32(np.floor(x0 - reach)), int32(0)), min(int32(np.ceil(x0 + reach)), int32(width))
        top, bottom = max(int32(np.floor(y0 - reach)), int32(0)), min(int32(np.ceil(y0 + reach)), int32(height))
        square, half = radius * radius, radius * _F(0.125)
        # An edge that fades over a pixel covers a twelfth of a square pixel more, times pi.
        edge = np.sqrt(square - _F(1 / 12)) + _F(0.5)
        for y in range(top, bottom):
            dy = _F(int32(y)) + _F(0.5) - y0
            row = int64(y) * step
            for x in range(left, right):
                if tested and nearest[y, x] > near:
                    continue
                dx = _F(int32(x)) + _F(0.5) - x0
                away = dx * dx + dy * dy
                if form == 1:
                    share = _F(1) - away / square
                    cover = share * share if share > _F(0) else _F(0)
                elif form == 0:
                    cover = min(max(edge - np.sqrt(away), _F(0)), _F(1))
                else:
                    cover = min(max(half + _F(0.5) - abs(np.sqrt(away) - radius + half), _F(0)), _F(1))
                if cover > _F(0):
                    _laid(words, row + x, scaled(colour, uint32(int32(cover * strong + _F(0.5)))), adds)


_SPRITES = void(
    written(uint32),
    int64,
    int64,
    int64,
    read(uint32, 2),
    read(float32),
    read(float32),
    read(float32),
    read(float32),
    read(float32),
    read(float32),
    read(uint32),
    int64,
    int64,
    read(float32),
    read(float32, 2),
    int64,
)


@register_jitable(inline="always")
def _between(a, b, share):
    """The mean of two words, `share` of 256 of the second."""
    kept = uint32(uint32(256) - share)
    even = uint32(uint32(uint32(a & EVEN) * kept + uint32(b & EVEN) * share) >> EIGHT) & EVEN
    odd = uint32(uint32(uint32(uint32(a >> EIGHT) & EVEN) * kept) + uint32(uint32(uint32(b >> EIGHT) & EVEN) * share))
    return uint32(uint32(even) | uint32(odd & uint32(0xFF00FF00)))


@register_jitable
def _inside(first, step, most, begin, end):
    """The steps from `begin` to before `end` at which `first` and so many steps lie from 0 to below `most`."""
    if step == 0:
        return (begin, end) if 0 <= first < most else (begin, begin)
    # Where it rises through 0 and through `most`, or falls through them.
    low, high = (int64(0), most - 1) if step > 0 else (most - 1, int64(0))
    begin = max(begin, -(-(low - first) // step) if step > 0 else -((low - first) // -step))
    last = (high - first) // step if step > 0 else (first - high) // -step
    return begin, max(begin, min(end, last + 1))


@compiled(_SPRITES)
def sprites(
    words,
    step,
    width,
    height,
    picture,
    xs,
    ys,
    rights,
    downs,
    wide,
    high,
    colours,
    tinted,
    adds,
    nearness,
    nearest,
    tested,
):
    """A picture (premultiplied words with a clear edge of a pixel) about places: `rights` and `downs` are the cosine
    and the sine of its turn, `wide` and `high` its sides in pixels. `tinted` 1: its alpha shows a premultiplied
    colour; 2: that colour times its green; 0: it is as it is, times the alpha of the colour. `tested` as for
    `discs`."""
    rows, columns = picture.shape
    pixels = picture.reshape(-1)
    for n in range(xs.size):
        x0, y0, c, s, colour = xs[n], ys[n], rights[n], downs[n], colours[n]
        w, h = wide[n], high[n]
        near = nearness[n] if tested else _F(0)
        if w < _F(0.3) or h < _F(0.3):
            continue
        across, down = abs(c) * w + abs(s) * h, abs(s) * w + abs(c) * h
        left, right = (
            max(int32(np.floor(x0 - across / 2)), int32(0)),
            min(int32(np.ceil(x0 + across / 2)), int32(width)),
        )
        top, bottom = max(int32(np.floor(y0 - down / 2)), int32(0)), min(int32(np.ceil(y0 + down / 2)), int32(height))
        # Places in the picture in 65536ths of a pixel, which grow evenly along a row.
        scale_u, scale_v = _F(int32(columns - 2)) / w, _F(int32(rows - 2)) / h
        step_u, step_v = int64(np.rint(c * scale_u * _ONE)), int64(np.rint(-s * scale_v * _ONE))
        share_of = part(colour, 24)
        for y in range(top, bottom):
            dy = _F(int32(y)) + _F(0.5) - y0
            dx = _F(int32(left)) + _F(0.5) - x0
            u = int64(np.rint(((c * dx + s * dy) * scale_u + _F(int32(columns)) / 2 - _F(0.5)) * _ONE))
            v = int64(np.rint(((c * dy - s * dx) * scale_v + _F(int32(rows)) / 2 - _F(0.5)) * _ONE))
            begin, end = _inside(u, step_u, int64(columns - 1) << 16, int64(0), int64(right - left))
            begin, end = _inside(v, step_v, int64(rows - 1) << 16, begin, end)
            row = int64(y) * step + left
            u, v = u + begin * step_u, v + begin * step_v
            for x in range(begin, end):
                at = uint32(uint32(uint32(v >> 16) * uint32(columns)) + uint32(u >> 16))
                fu, fv = uint32(uint32(u >> 8) & BYTE), uint32(uint32(v >> 8) & BYTE)
                u += step_u
                v += step_v
                if tested and nearest[y, left + x] > near:
                    continue
                below = uint32(at + uint32(columns))
                above = _between(pixels[at], pixels[uint32(at + uint32(1))], fu)
                above = _between(above, _between(pixels[below], pixels[uint32(below + uint32(1))], fu), fv)
                if above == uint32(0):
                    continue
                if tinted == 0:
                    shown = scaled(above, share_of)
                else:
                    shown = scaled(colour, part(above, 24))
                    if tinted == 2:
                        grey = scaled(colour, part(above, 8))
                        shown = uint32(uint32(grey & uint32(0x00FFFFFF)) | uint32(shown & uint32(0xFF000000)))
                _laid(words, row + x, shown, adds)
