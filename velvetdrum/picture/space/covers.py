"""Pictures on the faces of solids: one at several sizes on a sheet, and where each corner of a triangle has it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.media.pictures import PictureError, small

_LONGEST = 768
"""Pixels of a picture's longer side at the most: a face is seldom larger."""

_LEAST = 4
Values = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Sheet:
    """A picture at its size, a half of it, a quarter, one below another: premultiplied words, and the room of each:
    left, top, width and height in pixels, shape (levels, 4)."""

    words: NDArray[np.uint32]
    rooms: Values


@dataclass(frozen=True, eq=False)
class FaceTexture:
    """A picture on triangles: which, and where their corners have it, in shares of its width and height from its top
    left corner, shape (n, 3, 2)."""

    sheet: Sheet
    places: Values


@cached
def picture_sheet(path: str) -> Sheet:
    """A stored picture for faces; grey where it is gone, so that the rest can still be drawn.

    Parameters
    ----------
    path
        The picture's file; empty for a plain one.
    """
    try:
        level = small(path, _LONGEST)
    except (PictureError, OSError):
        level = np.full((_LEAST, _LEAST, 4), (70, 70, 70, 255), np.uint8)
    levels = [level]
    while min(level.shape[:2]) >= 2 * _LEAST:
        height, width = level.shape[:2]
        level = np.asarray(cv2.resize(level, (width // 2, height // 2), interpolation=cv2.INTER_AREA), np.uint8)
        levels.append(level)
    return _laid([np.ascontiguousarray(level).view(np.uint32)[..., 0] for level in levels])


def _laid(parts: Sequence[NDArray[np.uint32]]) -> Sheet:
    words = np.zeros((sum(part.shape[0] for part in parts), max(part.shape[1] for part in parts)), np.uint32)
    rooms, top = [], 0
    for part in parts:
        height, width = part.shape
        words[top : top + height, :width] = part
        rooms.append((0, top, width, height))
        top += height
    return Sheet(words, np.array(rooms, np.float64))


def joined(sheets: Sequence[Sheet]) -> tuple[NDArray[np.uint32], list[Values]]:
    """Sheets as one, and the rooms of each on it.

    Parameters
    ----------
    sheets
        Pictures, each with its place on the solids.
    """
    different = list({id(sheet): sheet for sheet in sheets}.values())
    if len(different) == 1:
        return different[0].words, [sheet.rooms for sheet in sheets]
    whole = _laid([sheet.words for sheet in different])
    tops = {id(sheet): room[1] for sheet, room in zip(different, whole.rooms, strict=True)}
    return whole.words, [sheet.rooms + np.array([0, tops[id(sheet)], 0, 0]) for sheet in sheets]


def rooms_for(rooms: Values, places: Values, x: Values, y: Values) -> Values:
    """The room of a picture, shape (n, 4), that has about a pixel for each one that a triangle covers.

    Parameters
    ----------
    rooms
        Width and height that each picture has, shape (n, 2).
    places
        Middles in space, shape (n, 3).
    x
        Places in pixels.
    y
        Places in pixels.
    """

    def area(across: Values, down: Values) -> Values:
        one, other = across[:, 1:] - across[:, :1], down[:, 1:] - down[:, :1]
        return np.asarray(np.abs(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]))

    texels = area(places[..., 0], places[..., 1]) * rooms[0, 2] * rooms[0, 3]
    halvings = 0.5 * np.log2(np.maximum(texels, 1e-9) / np.maximum(area(x, y), 1e-9))
    level = np.clip(np.rint(halvings), 0, len(rooms) - 1).astype(int)
    return np.asarray(rooms[level])
