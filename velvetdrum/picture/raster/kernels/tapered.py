"""A line whose width, opacity and colour change along it; where it crosses itself the stronger part is seen."""

from __future__ import annotations

import numpy as np
from numba import float32, int32, int64, uint8, uint32, void

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import scaled

_F = np.float32


@compiled(
    void(
        read(float32),
        read(float32),
        read(float32),
        read(float32),
        read(float32),
        read(uint8),
        read(uint32),
        written(float32, 2),
        written(float32, 2),
        written(uint32, 2),
    )
)
def tapered(xs, ys, radii, alphas, tones, joined, table, cover, tone, out):
    """Segments from each point to its follower where `joined` of the follower is not 0, with round ends: radii in
    pixels, alphas and places in a table of opaque words (0 to 1) go straight from point to point. Where several lie
    over each other, the one that covers most counts. `out` gets premultiplied words, in place of all that it held."""
    height, width = cover.shape
    for n in range(1, xs.size):
        if joined[n] == 0:
            continue
        x0, y0, x1, y1 = xs[n - 1], ys[n - 1], xs[n], ys[n]
        # A line of less than a pixel is a pixel wide, and so much fainter.
        thick0, thick1 = max(radii[n - 1], _F(0.5)), max(radii[n], _F(0.5))
        strong0 = alphas[n - 1] * min(radii[n - 1] * _F(2), _F(1))
        strong1 = alphas[n] * min(radii[n] * _F(2), _F(1))
        if strong0 <= _F(0) and strong1 <= _F(0):
            continue
        reach = max(thick0, thick1) + _F(0.5)
        left = max(int32(np.floor(min(x0, x1) - reach)), int32(0))
        right = min(int32(np.ceil(max(x0, x1) + reach)), int32(width))
        top = max(int32(np.floor(min(y0, y1) - reach)), int32(0))
        bottom = min(int32(np.ceil(max(y0, y1) + reach)), int32(height))
        dx, dy = x1 - x0, y1 - y0
        square = dx * dx + dy * dy
        share = _F(1) / square if square > _F(1e-12) else _F(0)
        for y in range(top, bottom):
            py = _F(int32(y)) + _F(0.5) - y0
            for x in range(left, right):
                px = _F(int32(x)) + _F(0.5) - x0
                t = min(max((px * dx + py * dy) * share, _F(0)), _F(1))
                ax, ay = px - t * dx, py - t * dy
                edge = thick0 + (thick1 - thick0) * t + _F(0.5) - np.sqrt(ax * ax + ay * ay)
                if edge <= _F(0):
                    continue
                value = min(edge, _F(1)) * (strong0 + (strong1 - strong0) * t)
                if value > cover[y, x]:
                    cover[y, x] = value
                    tone[y, x] = tones[n - 1] + (tones[n] - tones[n - 1]) * t
    most = _F(int32(table.size - 1))
    for y in range(height):
        for x in range(width):
            value = cover[y, x]
            if value > _F(0):
                place = int64(min(max(tone[y, x], _F(0)), _F(1)) * most + _F(0.5))
                out[y, x] = scaled(table[place], uint32(int32(min(value, _F(1)) * _F(255) + _F(0.5))))
            else:
                out[y, x] = uint32(0)
