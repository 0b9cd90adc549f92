"""The form of a layer: its coverage grown, shrunk, blurred and filled with a colour."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Area, Coverage, Pixels
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.layer_image import LayerImage


def cover_of(image: LayerImage, area: Area) -> Coverage:
    """How much of each pixel of an area a picture covers, 0 to 255.

    Parameters
    ----------
    image
        A picture with its place in the frame.
    area
        Whole pixels of the frame: left, top, right, bottom.
    """
    return np.asarray(cv2.extractChannel(image.spread(area), 3), np.uint8)


def distances(cover: Coverage) -> NDArray[np.float32]:
    """How far each pixel's centre lies outside of a form (below 0: inside), in pixels, from its antialiased edge.

    The distance to whole pixels on either side, and at the edge itself how much of the pixel is covered.

    Parameters
    ----------
    cover
        How much of each pixel there is, 0 to 255, shape (height, width).
    """
    outside = cv2.distanceTransform(np.where(cover >= 128, 0, 255).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    inside = cv2.distanceTransform(np.where(cover >= 128, 255, 0).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    result = np.where(cover >= 128, np.float32(0.5) - inside, outside - np.float32(0.5))
    # Near the edge the coverage says where in the pixel it lies.
    part = (np.float32(0.5) - cover.astype(np.float32) * np.float32(1 / 255)).astype(np.float32)
    at_edge = (cover > 0) & (cover < 255)
    return np.where(at_edge, part, result).astype(np.float32)


def grown_cover(cover: Coverage, by: float) -> Coverage:
    """Coverage of a form grown by a distance in pixels, or shrunk by one below 0; edges stay smooth.

    Parameters
    ----------
    cover
        How much of each pixel there is, 0 to 255, shape (height, width).
    by
        Pixels by which it grows; negative ones shrink it.
    """
    if by == 0:
        return cover
    away = distances(cover)
    return np.asarray(np.rint(np.clip(np.float32(by + 0.5) - away, 0, 1) * 255), np.uint8)


def blurred_cover(image: LayerImage, area: Area, grow: float, sigma: float) -> Coverage:
    """Coverage of a picture in an area, grown, then blurred by a Gaussian; distances in pixels.

    Parameters
    ----------
    image
        A picture with its place in the frame.
    area
        Whole pixels of the frame: left, top, right, bottom.
    grow
        Pixels by which the cover grows before it is blurred.
    sigma
        Standard deviation in pixels.
    """
    cover = grown_cover(cover_of(image, area), grow)
    if sigma < 0.05:
        return cover
    step = 1
    while sigma / (step * 2) >= 2:
        step *= 2
    if step == 1:
        return np.asarray(cv2.GaussianBlur(cover, (0, 0), sigma, borderType=cv2.BORDER_CONSTANT), np.uint8)
    height, width = cover.shape
    rows, columns = -(-height // step), -(-width // step)
    whole = cv2.copyMakeBorder(cover, 0, rows * step - height, 0, columns * step - width, cv2.BORDER_CONSTANT)
    small = cv2.resize(whole, (columns, rows), interpolation=cv2.INTER_AREA)
    left = np.sqrt(sigma**2 - (step**2 - 1) / 12 - step**2 / 6) / step
    soft = cv2.GaussianBlur(small, (0, 0), left, borderType=cv2.BORDER_CONSTANT)
    return np.asarray(cv2.resize(soft, (columns * step, rows * step))[:height, :width], np.uint8)


def coloured(cover: Coverage, colour: str, opacity: float = 1.0) -> Pixels:
    """One colour (#rrggbb) as far as a cover and an opacity say, premultiplied.

    Parameters
    ----------
    cover
        How much of each pixel there is, 0 to 255, shape (height, width).
    colour
        A colour as #rrggbb.
    opacity
        0 to 1.
    """
    tones = np.array([int(colour[n : n + 2], 16) for n in (5, 3, 1)] + [255], np.float32)
    shares = np.arange(256, dtype=np.float32) * np.float32(opacity / 255)
    table = np.ascontiguousarray(np.rint(shares[:, None] * tones), np.uint8).view(np.uint32)[:, 0]
    return np.asarray(table.take(cover, mode="clip").view(np.uint8).reshape(*cover.shape, 4), np.uint8)


def tinted(pixels: Pixels, colour: str, share: float) -> Pixels:
    """Premultiplied pixels drawn toward a colour (#rrggbb) by a share from 0 to 1, as much of each as there is of it:
    source-atop (Compositing and Blending 1), so that no colour comes to lie over its alpha.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    colour
        A colour as #rrggbb.
    share
        0 to 1.
    """
    cover = np.asarray(cv2.extractChannel(pixels, 3), np.uint8)
    return np.asarray(cv2.addWeighted(pixels, 1 - share, coloured(cover, colour), share, 0), np.uint8)


def over(image: LayerImage, below: LayerImage, area: Area) -> Pixels:
    """A picture over another in an area.

    Parameters
    ----------
    image
        A picture with its place in the frame.
    below
        The picture that lies below.
    area
        Whole pixels of the frame: left, top, right, bottom.
    """
    out = below.spread(area)
    inside = image.within(area)
    if not inside.empty:
        left, top, right, bottom = inside.bounds
        blend(out[top - area[1] : bottom - area[1], left - area[0] : right - area[0]], inside.pixels)
    return out
