"""Pictures laid into boxes: how they fit, and how they come onto the frame."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.raster.areas import Area, Coverage, Pixels, words_of
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import resampling as kernels
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Box, is_empty
from velvetdrum.scene.designs import Sizing


def fitting(default: str) -> object:
    """The setting for how a picture fits its box."""
    return choice(
        default,
        {"contain": "Contain", "cover": "Cover", "stretch": "Stretch"},
        label="Fit",
        help="All of it in the box, the box full of it, or pulled to the box.",
    )


BOXED = (
    Sizing(both=("width", "height"), when=(("fit", ("contain",)),)),
    Sizing(across=("width",), down=("height",)),
)
"""Settings that say how large a picture in a box is."""


def scales(fit: str, width: float, height: float, box_width: float, box_height: float) -> tuple[float, float]:
    """How much a picture is scaled across and down to fit a box, as CSS object-fit says."""
    across, down = box_width / width, box_height / height
    if fit != "stretch":
        across = down = (min if fit == "contain" else max)(across, down)
    return across, down


def box_about(x: float, y: float, width: float, height: float) -> Box:
    """A box by its middle and its size, in pixels."""
    return Box(x - width / 2, y - height / 2, x + width / 2, y + height / 2)


def lay(canvas: Canvas, pixels: Pixels, left: float, top: float) -> None:
    """Premultiplied pixels over the frame, their corner at a place between pixels."""
    x, y = int(np.floor(left)), int(np.floor(top))
    if left != x or top != y:
        move = np.array([[1.0, 0.0, left - x], [0.0, 1.0, top - y]])
        pixels = _warped(pixels, move, pixels.shape[1] + 1, pixels.shape[0] + 1)
    canvas.blend(pixels, (x, y, x + pixels.shape[1], y + pixels.shape[0]))


def lay_scaled(canvas: Canvas, pixels: Pixels, within: Box, place: NDArray[np.float64], *, solid: bool = False) -> None:
    """Premultiplied pixels over the frame within a box, placed by an affine matrix, shape (2, 3), that leads from
    their pixels to those of the frame. The box's edges are antialiased. `solid`: they have no alpha, and reach as far
    as the box does."""
    area = within.pixels(canvas.area)
    if is_empty(area):
        return
    left, top, right, bottom = area
    move = place.copy()
    move[:, 2] += -np.array([left, top]) + 0.5 * place[:, :2].sum(axis=1) - 0.5
    result, cover = _warped(pixels, move, right - left, bottom - top), _edge_cover(within, area)
    if solid and cover is None:
        np.copyto(canvas.part(area), result)
        canvas.touch(area)
    else:
        canvas.blend(result, area, mask=cover)


def _warped(pixels: Pixels, move: NDArray[np.float64], width: int, height: int) -> Pixels:
    """Pixels through an affine matrix, shape (2, 3), onto so many others; beyond them is nothing. What is not turned
    goes by a quicker way; what only moves by whole pixels is not even copied."""
    if move[0, 1] == 0 and move[1, 0] == 0 and move[0, 0] > 0 and move[1, 1] > 0:
        if move[0, 0] == 1 and move[1, 1] == 1 and (move[:, 2] == np.rint(move[:, 2])).all():
            x, y = (round(float(value)) for value in move[:, 2])
            if x <= 0 and y <= 0 and pixels.shape[1] + x >= width and pixels.shape[0] + y >= height:
                return pixels[-y : height - y, -x : width - x]
        return _resampled(pixels, move, width, height)
    return np.asarray(
        cv2.warpAffine(pixels, move, (width, height), flags=cv2.INTER_LINEAR, borderValue=(0, 0, 0, 0)), np.uint8
    )


def _resampled(pixels: Pixels, move: NDArray[np.float64], width: int, height: int) -> Pixels:
    out = np.empty((height, width), np.uint32)
    columns, across = _neighbours(move[0, 0], move[0, 2], width, pixels.shape[1])
    rows, down = _neighbours(move[1, 1], move[1, 2], height, pixels.shape[0])
    kernels.resample(*words_of(pixels), pixels.shape[1], pixels.shape[0], columns, across, rows, down, out)
    return out.view(np.uint8).reshape(height, width, 4)


def _neighbours(scale: float, offset: float, count: int, size: int) -> tuple[NDArray[np.int32], NDArray[np.uint32]]:
    """For `count` pixels, which of `size` lies before each, -1 to the last one, and the share of the next, 0 to 256."""
    # A pixel beyond both ends lies between nothing and nothing.
    places = np.clip((np.arange(count) - offset) / scale, -1.0, float(size))
    before = np.minimum(np.floor(places), size - 1)
    return before.astype(np.int32), np.rint((places - before) * 256).astype(np.uint32)


def _edge_cover(box: Box, area: Area) -> Coverage | None:
    """How much of each pixel of an area a box covers; None where it covers all of them."""
    left, top, right, bottom = area
    if box.left <= left and box.top <= top and box.right >= right and box.bottom >= bottom:
        return None
    x, y = np.arange(left, right), np.arange(top, bottom)
    across = np.clip(np.minimum(x + 1, box.right) - np.maximum(x, box.left), 0, 1)
    down = np.clip(np.minimum(y + 1, box.bottom) - np.maximum(y, box.top), 0, 1)
    if across.min() >= 1 and down.min() >= 1:
        return None
    return np.rint(down[:, None] * across[None, :] * 255).astype(np.uint8)


def missing(canvas: Canvas, box: Box) -> None:
    """What stands for a file that is not here: a chequered box."""
    area = box.pixels(canvas.area)
    if is_empty(area):
        return
    left, top, right, bottom = area
    step = max(canvas.short / 45, 2.0)
    x, y = np.arange(left, right) // step, np.arange(top, bottom) // step
    light = np.where((x[None, :] + y[:, None]) % 2, 92, 56).astype(np.uint8)
    canvas.part(area)[:] = cv2.merge([light, light, light, np.full_like(light, 255)])
    canvas.touch(area)


def draw_kept(canvas: Canvas, name: Hashable, draw: Callable[[Canvas], None]) -> None:
    """Draw what looks the same in every frame, as long as `name` does: it is drawn once, alone, and kept."""

    def alone() -> LayerImage:
        with canvas.lent(canvas, canvas.area) as onto:
            draw(onto)
            result = LayerImage(*onto.area[:2], onto.pixels).within(onto.touched or onto.area).trimmed()
            return replace(result, pixels=result.pixels.copy())

    result = SHARED_CACHE.get(("drawn", name), alone)
    if not result.empty:
        canvas.blend(result.pixels, result.bounds)
