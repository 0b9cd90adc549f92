"""Many small marks drawn one after another: discs, and pictures that are turned and tinted."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, EIGHT, EVEN, over, part, scaled

_F = np.float32


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
        scale_u, scale_v = _F(int32(columns - 2)) / w, _F(int32(rows - 2)) / h
        share_of = part(colour, 24)
        for y in range(top, bottom):
            dy = _F(int32(y)) + _F(0.5) - y0
            row = int64(y) * step
            for x in range(left, right):
                if tested and nearest[y, x] > near:
                    continue
                dx = _F(int32(x)) + _F(0.5) - x0
                u = (c * dx + s * dy) * scale_u + _F(int32(columns)) / 2 - _F(0.5)
                v = (c * dy - s * dx) * scale_v + _F(int32(rows)) / 2 - _F(0.5)
                if u < _F(0) or v < _F(0) or u >= _F(int32(columns - 1)) or v >= _F(int32(rows - 1)):
                    continue
                i, j = int32(u), int32(v)
                fu, fv = uint32(int32((u - _F(i)) * _F(256))), uint32(int32((v - _F(j)) * _F(256)))
                above = _between(picture[j, i], picture[j, i + 1], fu)
                above = _between(above, _between(picture[j + 1, i], picture[j + 1, i + 1], fu), fv)
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
