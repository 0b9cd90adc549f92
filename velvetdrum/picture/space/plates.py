"""Plates: flat pictures that stand in space."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import depth as kernels
from velvetdrum.picture.raster.viewport import Box, Viewport, common, is_empty
from velvetdrum.picture.space.camera import NEAREST, Camera, Values

_LARGEST, _SMALLEST = 1.5, 0.125
"""How much larger, or smaller, than the frame a plate is drawn before it is placed."""

_REACH = 1.0
"""How far beyond the frame a plate may reach, in frames."""


def onto_plate(view: Viewport) -> Values:
    """From pixels of a frame, homogeneous, to points of the plane z = 0 in space: shape (4, 3).

    Parameters
    ----------
    view
        The frame that it is seen in.
    """
    unit = view.short / 100
    return np.array(
        [[1 / unit, 0, -view.width / 2 / unit], [0, 1 / unit, -view.height / 2 / unit], [0, 0, 0], [0, 0, 1.0]]
    )


def homography(camera: Camera, place: Values, view: Viewport) -> Values:
    """From pixels of a plate's own frame to those that the camera shows, times depth, and depth: shape (3, 3). `place`
    is where the plate stands, shape (4, 4).

    Parameters
    ----------
    camera
        The camera that it is seen by.
    place
        Where the plate stands in space, shape (4, 4).
    view
        The frame that it is seen in.
    """
    return camera.matrix @ place @ onto_plate(view)


def depth_at(matrix: Values, x: float, y: float) -> float:
    """How far before the eye a place of a plate is.

    Parameters
    ----------
    matrix
        An affine matrix.
    x
        Place in pixels.
    y
        Place in pixels.
    """
    return float(matrix[2] @ (x, y, 1.0))


def draw_plate(
    canvas: Canvas,
    draw: Callable[[Canvas], None],
    bounds: Callable[[Viewport], Box],
    camera: Camera,
    place: Values,
    nearest: NDArray[np.float32] | None,
    mode: str = "normal",
) -> None:
    """Draw a flat picture as it stands in space, in perspective; `draw` draws it alone. What is nearer in `nearest`
    (1 / depth, for each pixel of the canvas's area) hides it; it hides what comes after it in turn.

    Parameters
    ----------
    canvas
        What is drawn on.
    draw
        Draws on a canvas what is to be seen.
    bounds
        The box of what it draws in a view, in pixels.
    camera
        The camera that it is seen by.
    place
        Where the plate stands in space, shape (4, 4).
    nearest
        1 / depth of what is nearest by pixel, shape (height, width); None where nothing hides.
    mode
        A blend mode, as Compositing and Blending names it.
    """
    scale = _scale(canvas, camera, place)
    view = Viewport(max(round(canvas.width * scale), 2), max(round(canvas.height * scale), 2))
    far = (
        -int(view.width * _REACH),
        -int(view.height * _REACH),
        int(view.width * (1 + _REACH)),
        int(view.height * (1 + _REACH)),
    )
    area = bounds(view).pixels(far)
    matrix = homography(camera, place, view)
    here = _reached(matrix, area, canvas)
    if is_empty(area) or is_empty(here):
        return
    with canvas.lent(view, area) as alone:
        draw(alone)
        into = np.eye(3)
        into[:2, 2] = area[0] + 0.5, area[1] + 0.5
        back = np.eye(3)
        back[:2, 2] = -0.5 - here[0], -0.5 - here[1]
        size = (here[2] - here[0], here[3] - here[1])
        # A border of nothing keeps the edges smooth.
        framed = cv2.copyMakeBorder(alone.pixels, 1, 1, 1, 1, cv2.BORDER_CONSTANT)
        into[:2, 2] -= 1
        pixels = np.asarray(
            cv2.warpPerspective(framed, back @ matrix @ into, size, flags=cv2.INTER_LINEAR, borderValue=(0, 0, 0, 0)),
            np.uint8,
        )
    middle = np.array([depth_at(matrix, (area[0] + area[2]) / 2, (area[1] + area[3]) / 2)])
    pixels = _seen_through(pixels, camera, middle)
    # Nearness is a plane over the frame: of all places that a pixel may come from, one has that depth.
    plane = np.linalg.inv(matrix)[2]
    words = np.ascontiguousarray(pixels).view(np.uint32)[..., 0]
    left, top = canvas.area[:2]
    cut = np.s_[here[1] - top : here[3] - top, here[0] - left : here[2] - left]
    hidden = np.zeros(words.shape, np.float32) if nearest is None else np.ascontiguousarray(nearest[cut])
    start = plane @ (here[0] + 0.5, here[1] + 0.5, 1.0)
    kernels.keep_nearer(words, hidden, np.float32(start), np.float32(plane[0]), np.float32(plane[1]))
    if nearest is not None:
        nearest[cut] = hidden
    canvas.blend(words.view(np.uint8).reshape(*words.shape, 4), here, mode)


def _seen_through(pixels: NDArray[np.uint8], camera: Camera, depth: Values) -> NDArray[np.uint8]:
    """A plate's picture as sharp as it is at its depth, and behind the fog that is before it."""
    blur = float(camera.blur(depth)[0])
    if blur > 0.7:
        # A disc of diameter d spreads as far as a Gaussian of d / 4.
        pixels = np.asarray(cv2.GaussianBlur(pixels, (0, 0), min(blur / 4, 60.0), borderType=cv2.BORDER_CONSTANT))
    fog = float(camera.fog(depth)[0])
    if fog > 0:
        red, green, blue = (round(value * 255) for value in camera.fog_colour)
        words = np.ascontiguousarray(pixels).view(np.uint32)[..., 0]
        kernels.veil(words, np.uint32(0xFF000000 | red << 16 | green << 8 | blue), np.uint32(round(fog * 255)))
        pixels = words.view(np.uint8).reshape(*words.shape, 4)
    return pixels


def _scale(canvas: Canvas, camera: Camera, place: Values) -> float:
    """The size at which a plate is drawn: that at which its middle is seen, so that it is sharp."""
    depth = depth_at(homography(camera, place, canvas), canvas.width / 2, canvas.height / 2)
    length = float(np.cbrt(abs(np.linalg.det(place[:3, :3]))))
    return float(np.clip(length * camera.focal / camera.unit / max(depth, NEAREST), _SMALLEST, _LARGEST))


def _reached(matrix: Values, area: tuple[int, int, int, int], canvas: Canvas) -> tuple[int, int, int, int]:
    """The pixels of a canvas that an area of a plate may come to lie on."""
    corners = np.array([[area[x], area[y], 1.0] for x in (0, 2) for y in (1, 3)]) @ matrix.T
    if (corners[:, 2] <= NEAREST).all():
        return 0, 0, 0, 0
    if (corners[:, 2] <= NEAREST).any():
        # It reaches behind the eye: it may be anywhere.
        return canvas.area
    places = corners[:, :2] / corners[:, 2:]
    low, high = np.clip(places.min(axis=0), -1e6, 1e6), np.clip(places.max(axis=0), -1e6, 1e6)
    result = (
        int(np.floor(low[0])) - 1,
        int(np.floor(low[1])) - 1,
        int(np.ceil(high[0])) + 1,
        int(np.ceil(high[1])) + 1,
    )
    return common(result, canvas.area)
