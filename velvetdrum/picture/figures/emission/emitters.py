"""Where particles are born: along a shape's curve, anywhere within it, or in a picture's opaque area."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.figures.base_shape import Ground
from velvetdrum.picture.media.pictures import small
from velvetdrum.picture.outlines.outline import Points

Values = NDArray[np.float64]

_SIDE = 192
"""Longer side, in cells, of the grid that an area is told by."""


@dataclass(frozen=True, eq=False)
class Births:
    """Where particles are born, in pixels of the frame, the way outward and the way along, each shape (n, 2)."""

    points: Points
    outward: Points
    along: Points


def on_curve(ground: Ground, places: Values) -> Births:
    """At places along a shape, 0 to 1."""
    points, normals, tangents = ground.outline.at(places)
    return Births(points, normals, tangents)


def at_point(middle: tuple[float, float], chances: Values) -> Births:
    """All at one point, outward any way."""
    angles = 2 * np.pi * chances
    outward = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    points = np.broadcast_to(np.array(middle), outward.shape)
    return Births(points, outward, np.stack([-outward[:, 1], outward[:, 0]], axis=1))


def within_shape(ground: Ground, chances: tuple[Values, Values, Values]) -> Births:
    """Anywhere within a shape, every part of its area equally likely; on its curve where it has no inside."""
    cells = _cells_of(ground)
    if not len(cells.places):
        return on_curve(ground, chances[0])
    return _anywhere(cells, np.array(ground.centre), chances)


def within_picture(
    path: str, middle: tuple[float, float], longer: float, chances: tuple[Values, Values, Values]
) -> Births:
    """Anywhere in a picture's opaque area, the more likely the more opaque; its longer side has so many pixels."""
    pixels = small(path, _SIDE)
    alpha = pixels[..., 3].astype(np.float64)
    rows, columns = np.nonzero(alpha > 8)
    if not len(rows):
        rows, columns = np.nonzero(np.ones(alpha.shape, bool))
        weights = np.ones(len(rows))
    else:
        weights = alpha[rows, columns]
    cell = longer / max(alpha.shape)
    places = np.stack([columns + 0.5 - alpha.shape[1] / 2, rows + 0.5 - alpha.shape[0] / 2], axis=1) * cell
    sums = np.cumsum(weights)
    return _anywhere(_Cells(places + np.array(middle), sums / sums[-1], cell), np.array(middle), chances)


@dataclass(frozen=True, eq=False)
class _Cells:
    """Cells of an area: their middles in pixels, shares up to each, and their side."""

    places: Points
    shares: Values
    side: float


def _anywhere(cells: _Cells, middle: Values, chances: tuple[Values, Values, Values]) -> Births:
    chosen, across, down = chances
    index = np.minimum(np.searchsorted(cells.shares, chosen, "right"), len(cells.places) - 1)
    points = cells.places[index] + (np.stack([across, down], axis=1) - 0.5) * cells.side
    way = points - middle
    outward = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    return Births(points, outward, np.stack([-outward[:, 1], outward[:, 0]], axis=1))


def _cells_of(ground: Ground) -> _Cells:
    """The cells within a shape."""
    left, top, right, bottom = ground.outline.bounds
    longer = max(right - left, bottom - top)
    if longer < 1 or not any(piece.closed for piece in ground.outline.pieces):
        return _Cells(np.zeros((0, 2)), np.zeros(0), 1.0)
    cell = longer / _SIDE
    mask = _filled(tuple(piece.points.tobytes() for piece in ground.outline.pieces if piece.closed), left, top, cell)
    rows, columns = np.nonzero(mask > 127)
    places = np.stack([columns + 0.5, rows + 0.5], axis=1) * cell + (left, top)
    return _Cells(places, np.arange(1, len(rows) + 1) / max(len(rows), 1), cell)


@cached
def _filled(pieces: tuple[bytes, ...], left: float, top: float, cell: float) -> NDArray[np.uint8]:
    """How much of each cell lies within closed curves, 0 to 255; holes are none of it."""
    lines = [(np.frombuffer(piece, np.float64).reshape(-1, 2) - (left, top)) / cell for piece in pieces]
    size = np.ceil(np.max([line.max(axis=0) for line in lines], axis=0)).astype(int) + 1
    mask = np.zeros((min(size[1], _SIDE + 2), min(size[0], _SIDE + 2)), np.uint8)
    builder = skia.PathBuilder()
    builder.setFillType(skia.PathFillType.kEvenOdd)
    for line in lines:
        builder.addPolygon([skia.Point(*point) for point in line.tolist()], True)
    info = skia.ImageInfo.MakeA8(mask.shape[1], mask.shape[0])
    with skia.Surface.MakeRasterDirect(info, mask, mask.shape[1]) as drawn:
        drawn.drawPath(builder.detach(), skia.Paint(AntiAlias=True))
    return mask
