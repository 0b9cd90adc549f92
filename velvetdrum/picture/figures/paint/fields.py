"""Paint as pixels: the colour of every pixel that a figure may show."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.figures.base_shape import Ground
from velvetdrum.picture.figures.paint.paint import TABLE, FieldPlan, Ink
from velvetdrum.picture.raster.areas import Area, Pixels
from velvetdrum.picture.raster.colour import (
    CircleColours,
    Colours,
    LineColours,
    PictureColours,
    TableColours,
    corner_colours,
    dithered,
    packed_image,
    packed_ramp,
)

_STEPS = 2048
_HUES = 256


@dataclass(frozen=True, eq=False)
class Reach:
    """A base shape, and how far a figure's full level reaches from it outward and inward, in pixels."""

    ground: Ground
    out: float
    inward: float


def ink_colours(ink: Ink, reach: Reach, area: Area) -> Colours:
    """Colours of the pixels of `area` as the ink has them around a base shape, dithered."""
    still, ground, out, inward = replace(ink, opacity=1.0), reach.ground, reach.out, reach.inward
    if ink.paint == "field" and ink.field.form == "corners":
        return PictureColours(_between_corners(still, area), area)
    if ink.paint == "field":
        return TableColours(_table(still), _fixed_places(ink.field, area), area)
    if ink.paint != "level":
        places = _nearest(ground, max(out, 1.0), max(inward, 1.0), area)
        return TableColours(_along(still, ground), places, area)
    if not ink.hue:
        return _by_level(_table(still), ground, (out, inward), area)
    # Hues turn along the figure, colours with the level: a table of both.
    return TableColours(_table_of_hues(still), _places_of_hues(ground, (out, inward), area), area)


@cached
def _between_corners(ink: Ink, area: Area) -> Pixels:
    return dithered(packed_image(corner_colours(*ink.field.frame, area, ink.field.corners, ink.mix)))


@cached
def _table(ink: Ink) -> NDArray[np.uint64]:
    places = np.linspace(0, 1, TABLE) if ink.paint == "field" else np.zeros(TABLE)
    return packed_ramp(ink.turned(ink.table(), places), ink.solid_table())


@cached
def _along(ink: Ink, ground: Ground) -> NDArray[np.uint64]:
    places = _figure_places(ground)
    solid = ink.solid_along(places)
    return packed_ramp(ink.along(places), None if isinstance(solid, float) else solid)


@cached
def _table_of_hues(ink: Ink) -> NDArray[np.uint64]:
    places = np.linspace(0.0, 1.0, _HUES)[:, None]
    table = ink.table()[None, :: TABLE // _HUES]
    both = ink.turned(np.broadcast_to(table, (_HUES, _HUES, 3)), np.broadcast_to(places, (_HUES, _HUES)))
    solid = ink.solid_table()
    if solid is not None:
        solid = np.broadcast_to(solid[:: TABLE // _HUES], (_HUES, _HUES)).reshape(-1)
    return packed_ramp(both.reshape(-1, 3), solid)


@cached
def _places_of_hues(ground: Ground, reach: tuple[float, float], area: Area) -> NDArray[np.int32]:
    steps = _nearest(ground, max(reach[0], 1.0), max(reach[1], 1.0), area)
    rows = np.rint(_figure_places(ground) * (_HUES - 1)).astype(np.int32)[steps]
    return np.asarray(rows * _HUES + _levels(ground, *reach, area) // (TABLE // _HUES), np.int32)


@cached
def _figure_places(ground: Ground) -> NDArray[np.float64]:
    """Place in the figure at each step along the base shape, shape (_STEPS,)."""
    return ground.run.figure_place((np.arange(_STEPS) + 0.5) / _STEPS)


def _centres(area: Area) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    left, top, right, bottom = area
    x = (np.arange(left, right, dtype=np.float32) + 0.5)[None, :]
    y = (np.arange(top, bottom, dtype=np.float32) + 0.5)[:, None]
    return x, y


@cached
def _fixed_places(plan: FieldPlan, area: Area) -> NDArray[np.int32]:
    """Where each pixel lies in a fixed gradient, 0 to TABLE - 1."""
    x, y = _centres(area)
    angle = np.deg2rad(plan.degrees)
    right, up = np.float32(np.sin(angle)), np.float32(np.cos(angle))
    x, y = x - np.float32(plan.x), y - np.float32(plan.y)
    match plan.form:
        case "linear":
            along = (x * right - y * up) / np.float32(plan.reach) + np.float32(0.5)
        case "radial":
            along = np.sqrt(x * x + y * y) * np.float32(2.0 / plan.reach)
        case _:
            turn = (np.arctan2(x, -y) - np.float32(angle)) / np.float32(2 * np.pi)
            along = turn - np.floor(turn)
    return np.rint(np.clip(along, 0.0, 1.0) * np.float32(TABLE - 1)).astype(np.int32)


@cached
def _nearest(ground: Ground, out: float, inward: float, area: Area) -> NDArray[np.int32]:
    """Which step along the base shape each pixel belongs to, 0 to _STEPS - 1; pixels beyond the figure's reach take
    that of the nearest pixel within."""
    if ground.form:
        return _nearest_plain(ground, area)
    left, top, right, bottom = area
    outline = ground.outline
    marks = np.linspace(0.0, 1.0, _STEPS + 1)
    inner = np.nextafter(marks, 0.5)
    points, ways = ground.at(np.clip(inner, 1e-9, 1 - 1e-9))
    beyond = 3.0
    outer_edge = points + ways * (out + beyond)
    inner_edge = points - ways * (inward + beyond)
    result = np.full((bottom - top, right - left), -1, np.int32)
    quads = np.stack([outer_edge[:-1], outer_edge[1:], inner_edge[1:], inner_edge[:-1]], axis=1) - (left, top) - 0.5
    whole = np.rint(quads * 16).astype(np.int32)
    apart = outline.piece_of(np.clip(inner[:-1], 0, 1)) != outline.piece_of(np.clip(inner[1:], 0, 1))
    for step in range(_STEPS):
        if not apart[step]:
            cv2.fillConvexPoly(result, whole[step], step, lineType=cv2.LINE_8, shift=4)
    return _filled(result)


def _nearest_plain(ground: Ground, area: Area) -> NDArray[np.int32]:
    """`_nearest` for straight lines and parts of circles, from the coordinates."""
    x, y = _centres(area)
    piece = ground.outline.pieces[0]
    if ground.form == "line":
        (u, v), (x0, y0) = piece.tangents[0] / piece.length, piece.points[0]
        along = (x * np.float32(u) + np.float32(-x0 * u - y0 * v)) + y * np.float32(v)
    else:
        x0, y0 = ground.centre
        u, v = piece.points[0] - (x0, y0)
        begin = np.float32(np.arctan2(v, u))
        right, down = (
            np.ascontiguousarray(part) for part in np.broadcast_arrays(x - np.float32(x0), y - np.float32(y0))
        )
        turn = (cv2.phase(right, down) - begin) / np.float32(2 * np.pi)
        turn -= np.floor(turn)
        radius = float(np.hypot(u, v))
        share = min(piece.length / (2 * np.pi * radius), 1.0)
        # Beyond the ends of an arc the nearer end counts.
        along = np.where(turn > (1 + share) / 2, 0.0, turn / np.float32(share)) if share < 1 else turn
    return np.clip(along * np.float32(_STEPS), 0, _STEPS - 1).astype(np.int32)


def _filled(found: NDArray[np.int32]) -> NDArray[np.int32]:
    """Holes take the value of the nearest pixel that has one."""
    empty = found < 0
    if not empty.any():
        return found
    if empty.all():
        return np.zeros_like(found)
    _, labels = cv2.distanceTransformWithLabels(empty.astype(np.uint8), cv2.DIST_L2, 3, labelType=cv2.DIST_LABEL_PIXEL)
    names = np.zeros(labels.max() + 1, np.int32)
    names[labels[~empty]] = found[~empty]
    return names[labels]


def _by_level(table: NDArray[np.uint64], ground: Ground, reach: tuple[float, float], area: Area) -> Colours:
    """Colours of a packed table by the level at which each pixel is reached."""
    if not ground.form:
        return TableColours(table, _levels(ground, *reach, area), area)
    points, ways = ground.at(np.array([0.5 / _STEPS]))
    (x, y), (u, v) = points[0].tolist(), ways[0].tolist()
    if ground.form == "line":
        return LineColours(table, area, (x, y), (u, v), reach)
    radius = float(np.hypot(x - ground.centre[0], y - ground.centre[1]))
    return CircleColours(table, area, ground.centre, radius, reach)


@cached
def _levels(ground: Ground, out: float, inward: float, area: Area) -> NDArray[np.int32]:
    """The level at which each pixel is reached, 0 to TABLE - 1."""
    x, y = _centres(area)
    points, ways = (part.astype(np.float32) for part in ground.at((np.arange(_STEPS) + 0.5) / _STEPS))
    if ground.form == "line":
        away = (x - points[0, 0]) * ways[0, 0] + (y - points[0, 1]) * ways[0, 1]
    elif ground.form:
        middle = np.array(ground.centre, np.float32)
        away = np.sqrt((x - middle[0]) ** 2 + (y - middle[1]) ** 2) - np.float32(np.hypot(*(points[0] - middle)))
    else:
        steps = _nearest(ground, max(out, 1.0), max(inward, 1.0), area)
        away = (x - points[:, 0][steps]) * ways[:, 0][steps] + (y - points[:, 1][steps]) * ways[:, 1][steps]
    if out > 0 and inward > 0:
        level = np.where(away >= 0, away / np.float32(out), -away / np.float32(inward))
    else:
        level = away / np.float32(out) if out > 0 else -away / np.float32(max(inward, 1e-6))
    return np.rint(np.clip(level, 0.0, 1.0) * np.float32(TABLE - 1)).astype(np.int32)
