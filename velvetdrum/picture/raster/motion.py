"""How far things move between two pictures."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import LUMA

_SMALL = 320
"""Pixels across of the pictures that the movement is read from."""
_SHARE = 98.0
"""Per cent of what moves that moves no farther than what is answered with."""
_LEAST = 128
"""Pixels that a side must have at the least: the search fails on smaller pictures than its coarsest level."""
_EDGE = 24
"""Levels between neighbours that make an edge."""


def movement_px(before: Pixels, after: Pixels) -> float:
    """How far most of what differs between two premultiplied pictures of one size has moved, in their pixels; 0 where
    nothing does.

    Dense optical flow by inverse search (T. Kroeger, R. Timofte, D. Dai and L. Van Gool, 2016) on small pictures of
    luminance and cover, and the distance between their edges.

    Parameters
    ----------
    before
        Pixels, shape (height, width, 4).
    after
        Pixels, of the same shape.
    """
    height, width = before.shape[:2]
    scale = min(_SMALL / max(width, height), 1.0)
    size = max(round(width * scale), 1), max(round(height * scale), 1)
    first, second = (_grey(pixels, size) for pixels in (before, after))
    differs = cv2.absdiff(first, second) > 2
    if not differs.any():
        return 0.0
    search = cv2.DISOpticalFlow_create(cv2.DISOPTICAL_FLOW_PRESET_FAST)  # type: ignore[attr-defined]
    flow = search.calc(_roomy(first), _roomy(second), None)
    flow = flow[: size[1], : size[0]]
    # Flow loses what moves farther than it is large; the way from its edges to those before is at least seen.
    flown = np.percentile(np.hypot(flow[..., 0], flow[..., 1])[differs], _SHARE)
    apart = max(_apart(first, second, differs), _apart(second, first, differs))
    return float(max(flown, apart)) * width / size[0]


def _apart(before: NDArray[np.uint8], after: NDArray[np.uint8], differs: NDArray[np.bool_]) -> float:
    """How far most edges of the second picture, where it differs, lie from those of the first, in its pixels."""
    edges = [
        cv2.morphologyEx(picture, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) > _EDGE for picture in (before, after)
    ]
    moved = edges[1] & differs
    if not moved.any() or not edges[0].any():
        return 0.0
    away = cv2.distanceTransform((~edges[0]).astype(np.uint8), cv2.DIST_L2, 3)
    return float(np.percentile(away[moved], _SHARE))


def _roomy(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A picture with nothing to its right and below it, where it is too small for the search."""
    height, width = picture.shape
    right, below = max(_LEAST - width, 0), max(_LEAST - height, 0)
    return np.asarray(cv2.copyMakeBorder(picture, 0, below, 0, right, cv2.BORDER_CONSTANT), np.uint8)


def _grey(pixels: Pixels, size: tuple[int, int]) -> NDArray[np.uint8]:
    """Luminance with half of the cover, so that dark shapes are seen, too."""
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    weights = np.array([[*(share * 0.6 for share in LUMA), 0.4]], np.float32)
    return np.asarray(cv2.transform(small, weights), np.uint8).reshape(size[1], size[0])
