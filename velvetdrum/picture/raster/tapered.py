"""A line on a canvas whose width, opacity and colour change along it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import tapered as kernels
from velvetdrum.picture.raster.viewport import Box, is_empty

Values = NDArray[np.float64]


def draw_tapered(
    canvas: Canvas,
    points: Values,
    widths: Values,
    alphas: Values,
    tones: Values,
    joined: NDArray[np.bool_],
    colours: Values,
    adds: bool,
) -> None:
    """A line through points with round ends; where it lies over itself, what covers most is seen.

    Parameters
    ----------
    canvas
        What is drawn on.
    points
        Points in pixels of the frame, shape (n, 2).
    widths
        Widths in pixels at the points, shape (n,).
    alphas
        Opacities at the points, 0 to 1, shape (n,).
    tones
        Places in the colours at the points, 0 to 1, shape (n,).
    joined
        Whether a line leads from the point before to each, shape (n,).
    colours
        sRGB from 0 to 1, shape (m, 3).
    adds
        True where light is added (plus-lighter), in place of source over.
    """
    if len(points) < 2:
        return
    reach = float(widths.max()) / 2 + 1
    (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
    area = Box(float(left), float(top), float(right), float(bottom)).grown(reach).pixels(canvas.area)
    if is_empty(area):
        return
    size = (area[3] - area[1], area[2] - area[0])
    cover, tone, out = np.zeros(size, np.float32), np.zeros(size, np.float32), np.empty(size, np.uint32)
    levels = np.rint(np.clip(colours, 0, 1) * 255).astype(np.uint32)
    table = np.uint32(0xFF000000) | levels[:, 0] << 16 | levels[:, 1] << 8 | levels[:, 2]
    x, y = (np.ascontiguousarray(row, np.float32) for row in (points - area[:2]).T)
    radii, alphas_, tones_ = (np.ascontiguousarray(values, np.float32) for values in (widths / 2, alphas, tones))
    linked = np.ascontiguousarray(joined, np.uint8)
    kernels.tapered(x, y, radii, alphas_, tones_, linked, np.ascontiguousarray(table), cover, tone, out)
    pixels = out.view(np.uint8).reshape(*size, 4)
    canvas.blend(pixels, area, "plus-lighter" if adds else "normal")
