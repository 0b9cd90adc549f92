"""A layer as a whole: drawn apart where it must be, placed, masked, faded and blended over what is behind it."""

from __future__ import annotations

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.picture.blending import blended
from velvetdrum.picture.canvas import Canvas, Pixels, softened
from velvetdrum.picture.drawing import DrawnLayer, Moment
from velvetdrum.scene.kinds import Layer

_LARGEST = 2.0
"""How much larger than the frame a layer is drawn that is scaled up."""


def composite(canvas: Canvas, layer: DrawnLayer, at: Moment, presence: float) -> None:
    """Draw a layer over the frame as its placing, its mask, its presence (0 to 1) and its blend mode ask."""
    if presence <= 0:
        return
    if layer.direct and presence >= 1:
        layer.draw(canvas, at)
        return
    apart = _drawn_apart(canvas, layer, at)
    box = cv2.boundingRect(apart[..., 3])
    x, y, width, height = box
    if not width or not height:
        return
    above = apart[y : y + height, x : x + width]
    cover = _mask(layer, canvas, (x, y, x + width, y + height))
    if cover is not None:
        above = _weakened(above, cover)
    if presence < 1:
        above = np.asarray(cv2.convertScaleAbs(above, alpha=presence), np.uint8)
    below = canvas.pixels[y : y + height, x : x + width]
    np.copyto(below, blended(below, above, layer.blend))


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


def _drawn_apart(canvas: Canvas, layer: DrawnLayer, at: Moment) -> Pixels:
    """The layer alone, on nothing, premultiplied, at its place in the frame."""
    if not layer.moved:
        apart = canvas.scratch()
        layer.draw(apart, at)
        return apart.pixels
    # Drawn at the size that it will have, so that it is as sharp as if it stood there.
    scale = min(max(layer.scale_x, layer.scale_y) / 100, _LARGEST)
    width, height = max(round(canvas.width * scale), 2), max(round(canvas.height * scale), 2)
    source = Canvas(width, height)
    source.clear_through()
    layer.draw(source, at)
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


def _mask(layer: Layer, canvas: Canvas, area: tuple[int, int, int, int]) -> NDArray[np.uint8] | None:
    """How much of each pixel of an area the layer's mask lets through, 0 to 255; None without a mask."""
    if layer.mask_shape == "none":
        return None
    left, top, right, bottom = area
    short = canvas.short / 100
    feather = layer.mask_feather * short
    # A feathered edge reaches into the area from beyond it.
    margin = int(np.ceil(feather * 1.5)) + 1
    cover = np.zeros((bottom - top + 2 * margin, right - left + 2 * margin), np.uint8)
    info = skia.ImageInfo.MakeA8(cover.shape[1], cover.shape[0])
    half_x, half_y = layer.mask_width * short / 2, layer.mask_height * short / 2
    x, y = canvas.x(layer.mask_x), canvas.y(layer.mask_y)
    brush = skia.Paint(AntiAlias=True, Color=0xFFFFFFFF)
    with skia.Surface.MakeRasterDirect(info, cover, cover.shape[1]) as drawn:
        drawn.translate(margin - left, margin - top)
        box = skia.Rect(x - half_x, y - half_y, x + half_x, y + half_y)
        if layer.mask_shape == "rectangle":
            drawn.drawRect(box, brush)
        elif layer.mask_shape == "ellipse":
            drawn.drawOval(box, brush)
        else:
            hole = layer.mask_hole / 100
            inner = skia.Rect(x - half_x * hole, y - half_y * hole, x + half_x * hole, y + half_y * hole)
            drawn.drawDRRect(skia.RRect.MakeOval(box), skia.RRect.MakeOval(inner), brush)
    if feather > 0:
        cover = softened(cover, feather)
    cover = np.ascontiguousarray(cover[margin:-margin, margin:-margin])
    return np.asarray(cv2.bitwise_not(cover), np.uint8) if layer.mask_invert else cover


def _weakened(pixels: Pixels, cover: NDArray[np.uint8]) -> Pixels:
    """Premultiplied pixels as far as a mask of their size lets them through."""
    return np.asarray(cv2.multiply(pixels, cv2.merge([cover, cover, cover, cover]), scale=1 / 255), np.uint8)
