"""The floor of a space: a grid that fades with its distance from the middle and in the fog."""

from __future__ import annotations

import numpy as np

from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import floors as kernels
from velvetdrum.picture.raster.viewport import is_empty
from velvetdrum.picture.space.camera import Camera

REACH = 200.0
"""How far the grid goes from the middle, and how far its lines are apart, in per cent of the short side."""
SPACING = 10.0


def draw_grid(canvas: Canvas, camera: Camera, level: float, colour: int, strength: float) -> None:
    """Lines on the plane y = `level`, in an opaque colour (0xffrrggbb), as solid as `strength` (0 to 1) where they are
    nearest to the middle.

    Parameters
    ----------
    canvas
        What is drawn on.
    camera
        The camera that it is seen by.
    level
        How far below the middle the floor lies, per cent of the short side.
    colour
        A colour as a word, 0xaarrggbb, premultiplied.
    strength
        How strong, 0 to 1.
    """
    words, step, left, top, width, height = canvas.target()
    if is_empty(canvas.area):
        return
    rows, given = camera.rows, np.uint32(colour)
    kernels.grid(words, step, left, top, width, height, rows, level, SPACING, REACH, strength, given)
    canvas.touch(canvas.area)
