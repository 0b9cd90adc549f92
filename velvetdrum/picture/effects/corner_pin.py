"""Corner pin: a flat picture in perspective, by where its corners come to lie."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, number
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport, common, is_empty
from velvetdrum.scene.effects import effect_kind


@effect_kind("corner-pin", "Corner pin")
class CornerPin(DrawnEffect):
    """Pins the corners of the picture to four places, in perspective: a screen, a wall, a page."""

    family: ClassVar[str] = "bend"
    summary: ClassVar[str] = "Corner pin|of {of}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x1", "y1"), ("x2", "y2"), ("x3", "y3"), ("x4", "y4"))

    of: str = choice(
        "frame",
        {"frame": "The frame", "layer": "What is drawn"},
        label="Corners of",
        group="effect",
        help="The corners of the frame, or those of the box that the layer fills now.",
    )
    x1: float = number(
        8,
        lo=-300,
        hi=400,
        unit="%",
        label="Top left X",
        group="effect",
        help="Where the top left corner comes to lie, of the frame's width.",
    )
    y1: float = number(
        14,
        lo=-300,
        hi=400,
        unit="%",
        label="Top left Y",
        group="effect",
        help="Where the top left corner comes to lie, of the frame's height.",
    )
    x2: float = number(
        92,
        lo=-300,
        hi=400,
        unit="%",
        label="Top right X",
        group="effect",
        help="Where the top right corner comes to lie, of the frame's width.",
    )
    y2: float = number(
        4,
        lo=-300,
        hi=400,
        unit="%",
        label="Top right Y",
        group="effect",
        help="Where the top right corner comes to lie, of the frame's height.",
    )
    x3: float = number(
        92,
        lo=-300,
        hi=400,
        unit="%",
        label="Bottom right X",
        group="effect",
        help="Where the bottom right corner comes to lie, of the frame's width.",
    )
    y3: float = number(
        96,
        lo=-300,
        hi=400,
        unit="%",
        label="Bottom right Y",
        group="effect",
        help="Where the bottom right corner comes to lie, of the frame's height.",
    )
    x4: float = number(
        8,
        lo=-300,
        hi=400,
        unit="%",
        label="Bottom left X",
        group="effect",
        help="Where the bottom left corner comes to lie, of the frame's width.",
    )
    y4: float = number(
        86,
        lo=-300,
        hi=400,
        unit="%",
        label="Bottom left Y",
        group="effect",
        help="Where the bottom left corner comes to lie, of the frame's height.",
    )

    def pinned(self, view: Viewport) -> NDArray[np.float64]:
        """Where the corners come to lie, in pixels, from the top left clockwise, shape (4, 2)."""
        return np.array([[view.x(getattr(self, f"x{n}")), view.y(getattr(self, f"y{n}"))] for n in (1, 2, 3, 4)])

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        if image.empty:
            return image
        box = context.view.frame if self.of == "frame" else image.trimmed().bounds
        if is_empty(box):
            return image
        ends = self.pinned(context.view)
        place = perspective(box, ends)
        if place is None:
            # Three corners in a line, or one beyond another: there is no such picture.
            return LayerImage(0, 0, np.zeros((0, 0, 4), np.uint8))
        low, high = np.floor(ends.min(axis=0)).astype(int) - 1, np.ceil(ends.max(axis=0)).astype(int) + 1
        area = common((int(low[0]), int(low[1]), int(high[0]), int(high[1])), context.wanted)
        if is_empty(area):
            return LayerImage(area[0], area[1], np.zeros((0, 0, 4), np.uint8))
        # Pixels have their centres at halves; OpenCV counts from the centre of the first one. One more all round, so
        # that edges are mixed with nothing.
        framed = cv2.copyMakeBorder(image.within(box).pixels, 1, 1, 1, 1, cv2.BORDER_CONSTANT)
        left, top = image.within(box).bounds[:2]
        into, back = np.eye(3), np.eye(3)
        into[:2, 2] = left - 0.5, top - 0.5
        back[:2, 2] = -0.5 - area[0], -0.5 - area[1]
        size = (area[2] - area[0], area[3] - area[1])
        pixels = cv2.warpPerspective(framed, back @ place @ into, size, flags=cv2.INTER_LINEAR)
        return LayerImage(area[0], area[1], np.asarray(pixels, np.uint8))


def perspective(box: tuple[int, int, int, int], ends: NDArray[np.float64]) -> NDArray[np.float64] | None:
    """The matrix, shape (3, 3), that leads from a box's corners, from the top left clockwise, to four places; None
    where these are no convex shape. The eight equations of a projective map (P. Heckbert, 1989)."""
    sides = np.roll(ends, -1, axis=0) - ends
    following = np.roll(sides, -1, axis=0)
    turns = sides[:, 0] * following[:, 1] - sides[:, 1] * following[:, 0]
    if not (np.all(turns > 1e-3) or np.all(turns < -1e-3)):
        return None
    rows, right = [], []
    starts = [(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])]
    for (x, y), (u, v) in zip(starts, ends, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    result = np.linalg.solve(np.array(rows, float), np.array(right))
    return np.append(result, 1.0).reshape(3, 3)
