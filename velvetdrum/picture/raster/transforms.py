"""Pictures placed by affine matrices, and the areas that they cover then."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import common, grown, is_empty


def transformed(image: LayerImage, place: NDArray[np.float64], wanted: Area) -> LayerImage:
    """A picture placed by an affine matrix, shape (3, 3), that leads from its own frame's pixels to those of another
    frame, as far as that is wanted.

    Parameters
    ----------
    image
        A picture with its place in the frame.
    place
        An affine matrix in pixels, shape (3, 3).
    wanted
        The pixels that are asked for.
    """
    area = common(reached(place, image.bounds, 1), wanted)
    if image.empty or is_empty(area):
        return LayerImage(area[0], area[1], np.zeros((0, 0, 4), np.uint8))
    # Pixels have their centres at halves; OpenCV counts from the centre of the first one.
    into, back = np.eye(3), np.eye(3)
    into[:2, 2] = image.left + 0.5, image.top + 0.5
    back[:2, 2] = -0.5 - area[0], -0.5 - area[1]
    pixels = cv2.warpAffine(
        image.pixels,
        (back @ place @ into)[:2],
        (area[2] - area[0], area[3] - area[1]),
        flags=cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(0, 0, 0, 0),
    )
    return LayerImage(area[0], area[1], np.asarray(pixels, np.uint8))


def reached(place: NDArray[np.float64], area: Area, margin: int) -> Area:
    """The whole pixels that an area covers after an affine matrix, with a margin.

    Parameters
    ----------
    place
        An affine matrix in pixels, shape (3, 3).
    area
        Whole pixels of the frame: left, top, right, bottom.
    margin
        Whole pixels that are added on every side.
    """
    corners = np.array([[area[x], area[y], 1.0] for x in (0, 2) for y in (1, 3)]) @ place[:2].T
    low, high = corners.min(axis=0), corners.max(axis=0)
    # A layer that is scaled to almost nothing sees very far.
    low, high = np.maximum(low, -1e6), np.minimum(high, 1e6)
    return grown((int(np.floor(low[0])), int(np.floor(low[1])), int(np.ceil(high[0])), int(np.ceil(high[1]))), margin)
