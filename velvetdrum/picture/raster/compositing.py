"""A layer as a whole: drawn apart where it must be, placed, masked, faded and blended over what is behind it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.masking import Area, Cover
from velvetdrum.picture.raster.blending import Edges, blend_over, weakened
from velvetdrum.picture.raster.canvas import Canvas, Pixels
from velvetdrum.scene.kinds import Layer

_LARGEST = 2.0
"""How much larger than the frame a layer is drawn that is scaled up."""

_KEPT_BYTES = 96_000_000

Draw = Callable[[Canvas], None]
Covers = Callable[[Area], Cover | None]


@dataclass(frozen=True)
class Apart:
    """A layer alone: the pixels of the box that it covers, premultiplied, and the box's left and top."""

    left: int
    top: int
    pixels: Pixels
    edges: Edges | None = None
    """Those of the pixels, where they are kept."""


_kept: OrderedDict[Hashable, Apart] = OrderedDict()


def composite(
    canvas: Canvas,
    layer: Layer,
    draw: Draw,
    presence: float,
    covers: Covers | None,
    still: Hashable | None = None,
    masks_still: bool = True,
) -> None:
    """Draw a layer over the frame as its placing, its masks, its presence (0 to 1) and its blend mode ask.

    `draw` draws it where its kind puts it. `covers` says what its masks let through; None when it has none. `still`
    names the picture of a layer that looks the same at all times: such a one is drawn once, and kept; with its masks,
    where those are still too.
    """
    if presence <= 0:
        return
    if layer.direct and presence >= 1 and covers is None and still is None:
        draw(canvas)
        return
    apart = _kept.get(still) if still is not None else None
    if apart is None:
        with canvas.lent() as alone:
            # What is lent is used again by the next layer that asks: what is kept is copied.
            apart = _covered(_drawn_apart(canvas, alone, layer, draw), keep=still is not None)
            if covers is not None and (still is None or masks_still):
                apart = _masked(apart, covers)
        if still is not None:
            apart = replace(apart, edges=Edges.of(apart.pixels) if apart.pixels.size else None)
            _keep(still, apart)
    elif still is not None:
        _kept.move_to_end(still)
    if covers is not None and still is not None and not masks_still:
        apart = _masked(apart, covers)
    above, edges = apart.pixels, apart.edges
    if not above.size:
        return
    if presence < 1:
        above, edges = np.asarray(cv2.convertScaleAbs(above, alpha=presence), np.uint8), None
    below = canvas.pixels[apart.top : apart.top + above.shape[0], apart.left : apart.left + above.shape[1]]
    blend_over(below, above, layer.blend, canvas.solid, edges)


def _keep(name: Hashable, apart: Apart) -> None:
    _kept[name] = apart
    while len(_kept) > 1 and sum(item.pixels.nbytes for item in _kept.values()) > _KEPT_BYTES:
        _kept.popitem(last=False)


def _covered(pixels: Pixels, *, keep: bool) -> Apart:
    """The part of a frame that a layer covers; a copy where it is kept."""
    left, top, width, height = cv2.boundingRect(cv2.extractChannel(pixels, 3))
    found = pixels[top : top + height, left : left + width]
    return Apart(left, top, found.copy() if keep else found)


def _masked(apart: Apart, covers: Covers) -> Apart:
    """A layer as far as its masks let it through."""
    height, width = apart.pixels.shape[:2]
    if not apart.pixels.size:
        return apart
    cover = covers((apart.left, apart.top, apart.left + width, apart.top + height))
    if cover is None:
        return apart
    # Only where the masks let something through is there anything to do.
    x, y, width, height = cv2.boundingRect(cover)
    found, cover = apart.pixels[y : y + height, x : x + width], cover[y : y + height, x : x + width]
    return Apart(apart.left + x, apart.top + y, weakened(found, cover) if found.size else found)


def matrix(layer: Layer, width: float, height: float) -> NDArray[np.float64]:
    """Where a layer's points come to lie: an affine matrix in pixels of a frame, shape (3, 3).

    About the anchor: first scaled, then skewed, then turned clockwise, then moved.
    """
    ax, ay = layer.anchor_x * width / 100, layer.anchor_y * height / 100
    angle = np.deg2rad(layer.spin)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    lean = np.array([[1.0, -np.tan(np.deg2rad(layer.skew_x))], [np.tan(np.deg2rad(layer.skew_y)), 1.0]])
    linear = turn @ lean @ np.diag([layer.scale_x / 100, layer.scale_y / 100])
    move = np.array([layer.move_x * width / 100, layer.move_y * height / 100])
    out = np.eye(3)
    out[:2, :2] = linear
    out[:2, 2] = np.array([ax, ay]) + move - linear @ (ax, ay)
    return out


def _drawn_apart(canvas: Canvas, alone: Canvas, layer: Layer, draw: Draw) -> Pixels:
    """The layer alone, on nothing, premultiplied, at its place in the frame."""
    if not layer.moved:
        draw(alone)
        return alone.pixels
    # Drawn at the size that it will have, so that it is as sharp as if it stood there.
    scale = min(max(layer.scale_x, layer.scale_y) / 100, _LARGEST)
    width, height = max(round(canvas.width * scale), 2), max(round(canvas.height * scale), 2)
    source = alone
    if (width, height) != (canvas.width, canvas.height):
        source = Canvas(width, height)
        source.clear_through()
    draw(source)
    place = matrix(layer, canvas.width, canvas.height) @ np.diag([canvas.width / width, canvas.height / height, 1.0])
    # Pixels have their centres at halves; OpenCV counts from the centre of the first one.
    half, back = np.eye(3), np.eye(3)
    half[:2, 2], back[:2, 2] = 0.5, -0.5
    return np.asarray(
        cv2.warpAffine(
            source.pixels, (back @ place @ half)[:2], (canvas.width, canvas.height), flags=cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT, borderValue=(0, 0, 0, 0),
        ),
        np.uint8,
    )  # fmt: skip
