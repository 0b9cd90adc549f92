"""Pictures bent: each pixel is fetched from elsewhere, by a map of places.

Maps hold places in pixels of the frame, counted from the middle of its first pixel, shape (height, width), one for x
and one for y. What lies beyond the frame is nothing, or goes on as `edges` says.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.kernels import warp as loops
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport

Plane = NDArray[np.float32]
Maps = tuple[Plane, Plane]

BORDERS = {
    "clear": cv2.BORDER_CONSTANT,
    "hold": cv2.BORDER_REPLICATE,
    "mirror": cv2.BORDER_REFLECT,
    "repeat": cv2.BORDER_WRAP,
}
"""What lies beyond the frame: nothing, its last pixels, its mirror image, or itself again."""

EDGES = {"clear": "None", "hold": "Duplicate", "mirror": "Mirror", "repeat": "Wrap"}
"""The same, as they are called."""

_TABLE = 2048


def fetched(image: LayerImage, view: Viewport, maps: Maps, area: Area, edges: str = "clear") -> LayerImage:
    """The picture in an area, each pixel fetched from where maps of that area's size say; straight lines between
    pixels.

    Parameters
    ----------
    image
        A picture with its place in the frame.
    view
        The frame that it is seen in.
    maps
        Where each pixel is fetched from, x and y in pixels.
    area
        Whole pixels of the frame: left, top, right, bottom.
    edges
        What lies beyond the picture's edge: one of `EDGES`.
    """
    whole = image.pixels
    if edges == "clear" and (image.left, image.top) != (0, 0):
        maps = maps[0] - np.float32(image.left), maps[1] - np.float32(image.top)
    elif edges != "clear" and image.bounds != view.frame:
        whole = image.spread(view.frame)
    pixels = cv2.remap(whole, *maps, cv2.INTER_LINEAR, borderMode=BORDERS[edges], borderValue=(0, 0, 0, 0))
    return LayerImage(area[0], area[1], np.asarray(pixels, np.uint8))


def grid(area: Area) -> tuple[Plane, Plane]:
    """Places of the pixel centres of an area in pixels of the frame: a row of x and a column of y, as float32.

    Parameters
    ----------
    area
        Whole pixels of the frame: left, top, right, bottom.
    """
    x = np.arange(area[0], area[2], dtype=np.float32) + np.float32(0.5)
    y = np.arange(area[1], area[3], dtype=np.float32) + np.float32(0.5)
    return x[None, :], y[:, None]


def as_maps(x: NDArray[np.floating], y: NDArray[np.floating], area: Area) -> Maps:
    """Maps out of places in pixels of the frame (its corner is at 0, 0) for the pixels of an area.

    Parameters
    ----------
    x
        Places in pixels.
    y
        Places in pixels.
    area
        Whole pixels of the frame: left, top, right, bottom.
    """
    shape = (area[3] - area[1], area[2] - area[0])
    half = np.float32(0.5)
    return (
        np.ascontiguousarray(np.broadcast_to(x, shape), np.float32) - half,
        np.ascontiguousarray(np.broadcast_to(y, shape), np.float32) - half,
    )


def about_point(
    area: Area,
    centre: tuple[float, float],
    reach: float,
    way: Callable[[NDArray[np.float64]], tuple[NDArray[np.float64], NDArray[np.float64]]],
) -> Maps:
    """Maps that stretch and turn the way from a point to each pixel: `way` gives a factor and an angle in radians for
    distances in pixels, up to `reach`; beyond, as there.

    Parameters
    ----------
    area
        Whole pixels of the frame: left, top, right, bottom.
    centre
        A point in pixels.
    reach
        Pixels from the point to where it ends.
    way
        Gives, for distances from 0 to 1, how far and how much turned each is fetched from.
    """
    return maps_about(area, centre, table_about(reach, way))


@dataclass(frozen=True, eq=False)
class AboutTable:
    """How far and how much turned what lies about a point is fetched from, by its distance."""

    along: NDArray[np.float32]
    across: NDArray[np.float32]
    scale: float
    """Entries in a pixel."""

    @property
    def nbytes(self) -> int:
        """Bytes that it holds."""
        return self.along.nbytes + self.across.nbytes


def table_about(
    reach: float, way: Callable[[NDArray[np.float64]], tuple[NDArray[np.float64], NDArray[np.float64]]]
) -> AboutTable:
    """What `about_point` reads of a way, for maps of several areas.

    Parameters
    ----------
    reach
        As for `about_point`.
    way
        As for `about_point`.
    """
    count = max(_TABLE, int(reach) * 2)
    factor, angle = way(np.linspace(0.0, reach, count))
    # The last entry stands twice.
    factor, angle = np.append(factor, factor[-1]), np.append(angle, angle[-1])
    along, across = factor * np.cos(angle), factor * np.sin(angle)
    return AboutTable(along.astype(np.float32), across.astype(np.float32), (count - 1) / reach)


def maps_about(area: Area, centre: tuple[float, float], table: AboutTable) -> Maps:
    """As `about_point`, from a table.

    Parameters
    ----------
    area
        Whole pixels of the frame: left, top, right, bottom.
    centre
        A point in pixels.
    table
        How far and how much turned each distance is fetched from.
    """
    shape = (area[3] - area[1], area[2] - area[0])
    maps = np.empty(shape, np.float32), np.empty(shape, np.float32)
    x0, y0 = np.float32(centre[0] - 0.5), np.float32(centre[1] - 0.5)
    place = np.float32(table.scale), x0, y0, np.float32(area[0]), np.float32(area[1])
    if not np.any(table.across):
        loops.stretch_about(*maps, table.along, *place)
    else:
        loops.turn_about(*maps, table.along, table.across, *place)
    return maps


def cut_facets(maps: Maps, area: Area, centre: tuple[float, float], facets: int, angle: float, depth: float) -> None:
    """Move maps to and fro along each of so many facets about a point, as the slope of a cut says; in place.

    Parameters
    ----------
    maps
        Where each pixel of the area is fetched from; they are written to.
    area
        Whole pixels of the frame: left, top, right, bottom.
    centre
        A point in pixels.
    facets
        How many lie round it.
    angle
        Where the first begins, in radians clockwise from the right.
    depth
        Pixels by which the ends of a facet are moved.
    """
    x0, y0 = np.float32(centre[0] - 0.5), np.float32(centre[1] - 0.5)
    turn = np.float32(angle / (2 * np.pi))
    loops.cut_facets(
        *maps, x0, y0, np.float32(area[0]), np.float32(area[1]), turn, np.float32(facets), np.float32(depth)
    )


def along_direction(
    area: Area, angle: float, low: float, high: float, shift: NDArray[np.float64], push: tuple[float, float]
) -> Maps:
    """Maps that move pixels by `push` (a direction in pixels) times a shift that depends on how far they lie along a
    direction: `shift` is a table of it for distances from `low` to `high` pixels. `angle` in radians, 0 to the right,
    clockwise.

    Parameters
    ----------
    area
        Whole pixels of the frame: left, top, right, bottom.
    angle
        Radians, clockwise from the right.
    low
        Where along the direction it begins, in pixels.
    high
        Where along the direction it ends, in pixels.
    shift
        Distances along the direction, in pixels.
    push
        Pixels that it is moved by, at full strength: x, y.
    """
    shape = (area[3] - area[1], area[2] - area[0])
    maps = np.empty(shape, np.float32), np.empty(shape, np.float32)
    u, v = np.cos(angle), np.sin(angle)
    start = (area[0] + 0.5) * u + (area[1] + 0.5) * v - low
    table = np.append(shift, shift[-1]).astype(np.float32)
    scale = (len(shift) - 1) / (high - low)
    loops.shift_along(*maps, table, *(np.float32(value) for value in (u, v, start, *push, scale)))
    maps[0][:] += np.float32(area[0])
    maps[1][:] += np.float32(area[1])
    return maps


def folded(area: Area, point: tuple[float, float], angle: float, lines: int) -> Maps:
    """Maps that show what is on the right of lines through a point, at even angles from `angle` (radians) on, on all
    of their sides.

    Parameters
    ----------
    area
        Whole pixels of the frame: left, top, right, bottom.
    point
        A point in pixels: x, y.
    angle
        Radians, clockwise from the right.
    lines
        Number of lines that it is mirrored on.
    """
    shape = (area[3] - area[1], area[2] - area[0])
    maps = np.empty(shape, np.float32), np.empty(shape, np.float32)
    angles = angle + np.pi * np.arange(lines) / lines
    ways = np.where(np.arange(lines) % 2, -1, 1)[:, None] * np.stack([-np.sin(angles), np.cos(angles)], axis=1)
    # Each line folds what is still on its wrong side; two rounds bring every pixel into one wedge.
    normals = np.ascontiguousarray(np.tile(ways, (1 if lines == 1 else lines, 1)), np.float32)
    x0, y0 = np.float32(point[0] - 0.5), np.float32(point[1] - 0.5)
    loops.fold(*maps, normals, x0, y0, np.float32(area[0]), np.float32(area[1]))
    return maps


def coarse(area: Area, step: int, places: Callable[[NDArray[np.float64], NDArray[np.float64]], Maps]) -> Maps:
    """Maps that change slowly, worked out at every `step`th pixel and joined by straight lines. `places` gives where
    the pixels at a row of x and a column of y come from, both in pixels of the frame.

    Parameters
    ----------
    area
        Whole pixels of the frame: left, top, right, bottom.
    step
        Step from one to the next.
    places
        Where pixels at x and y are fetched from.
    """
    width, height = area[2] - area[0], area[3] - area[1]
    columns, rows = -(-width // step) + 2, -(-height // step) + 2
    # Cells reach one beyond the area on all sides, since beyond the outer ones nothing is joined.
    x = area[0] + (np.arange(columns, dtype=np.float64) - 0.5) * step
    y = area[1] + (np.arange(rows, dtype=np.float64) - 0.5) * step
    size = (columns * step, rows * step)
    large = [
        cv2.resize(np.asarray(plane, np.float32), size)[step : step + height, step : step + width]
        for plane in places(x[None, :], y[:, None])
    ]
    return np.asarray(large[0]) - np.float32(0.5), np.asarray(large[1]) - np.float32(0.5)


def smeared(
    pixels: NDArray[Any],
    steps: int,
    matrix: Callable[[float], NDArray[np.float64]],
    decay: float = 1.0,
    border: int = cv2.BORDER_CONSTANT,
) -> NDArray[Any]:
    """The mean of a picture moved by 2^steps affine matrices, `matrix(0)` to nearly `matrix(1)`, each weighing less by
    `decay` (to the power of how far it is); by doubling, so that it costs `steps` moves. Matrices are (2, 3), from
    places in the result to those in the picture, in pixels of its grid, and `matrix(a)` after `matrix(b)` is
    `matrix(a + b)`. Shape, scale and type as the pixels.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    steps
        Number of steps.
    matrix
        The affine matrix at a share of the way, 0 to 1, shape (2, 3).
    decay
        Share that is left after each step, 0 to 1.
    border
        OpenCV's word for what lies beyond the edge.
    """
    result = pixels
    size = (pixels.shape[1], pixels.shape[0])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    for step in range(steps):
        by = 2.0 ** -(steps - step)
        weight = decay**by
        moved = cv2.warpAffine(result, matrix(by), size, flags=flags, borderMode=border)
        result = np.asarray(cv2.addWeighted(result, 1 / (1 + weight), moved, weight / (1 + weight), 0))
    return result
