"""Lines through points on a canvas, one before another, each with the area below it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import polylines as kernels

Values = NDArray[np.float64]
Words = NDArray[np.uint32]


def draw_lines(canvas: Canvas, points: Values, feet: Values, fills: Words, widths: Values, colours: Words) -> None:
    """Lines through places in pixels of the frame, shape (lines, n, 2), the first hindmost. Between each and its feet,
    shape (lines, m, 2), lies one premultiplied colour (0 for none); strokes have widths in pixels, and a colour from
    point to point, shape (lines, n - 1).

    Parameters
    ----------
    canvas
        What is drawn on.
    points
        Points in pixels, shape (n, 2).
    feet
        Foot points in pixels, shape (n, 2).
    fills
        Colours under the line as words, shape (n,).
    widths
        Widths in pixels, shape (n,).
    colours
        Colours as words, 0xaarrggbb, premultiplied, shape (n,).
    """
    words, step, left, top, width, height = canvas.target()
    at = [np.ascontiguousarray(values - (left, top), np.float32) for values in (points, feet)]
    wide = np.ascontiguousarray(widths, np.float32)
    kernels.lines(words, step, width, height, at[0], at[1], fills, wide, np.ascontiguousarray(colours))
    canvas.touch(canvas.area)
