"""Copies of a layer's picture, laid down in the frame or put into space."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.bases.layer import LayerPicture, RenderContext
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.particles import draw_sprites, premultiplied
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.space.clouds import Brush, Cloud

MOST_FRAMES = 40
"""Frames' worth of pixels that all copies are drawn over at the most."""

Values = NDArray[np.float64]

_SHARPEST = 2.0
"""How much larger than in the frame a layer is drawn, at the most, for copies that are larger than it."""


@dataclass(frozen=True, eq=False)
class Copies:
    """Copies of a layer: places in pixels, shape (n, 2); turns in radians, longer sides of the layer's box in pixels,
    opacities, places in a gradient (0 to 1), depths in per cent of the short side, and the number of the copy at each
    place, all of shape (n,)."""

    points: NDArray[np.float64]
    angles: Values
    longer: Values
    alphas: Values
    tones: Values
    depths: Values
    numbers: NDArray[np.intp]


def sized(at: RenderContext, ident: str, times: list[Fraction], view: Viewport, longer: float) -> list[LayerPicture]:
    """A layer at some times, each about as large as its largest copy; one picture where it is the same at all of them.

    Parameters
    ----------
    at
        The time that is drawn.
    ident
        Id of the layer.
    times
        When it is shown, in seconds of the project.
    view
        The frame.
    longer
        Longer side of its box on the largest copy, in pixels.
    """
    assert at.picture_of is not None
    probe = at.picture_of(ident, times[0], Viewport(view.width // 8 + 2, view.height // 8 + 2))
    # In steps of two, so that a size that moves does not draw a still layer anew.
    share = 2.0 ** np.ceil(np.log2(max(longer / max(probe.longer * 8, 1.0), 1e-3)))
    share = float(np.clip(share, 1 / 16, _SHARPEST))
    small = Viewport(max(round(view.width * share), 2), max(round(view.height * share), 2))
    return [at.picture_of(ident, time, small) for time in (times[:1] if probe.still else times)]


def lay_copies(
    canvas: Canvas,
    pictures: list[LayerPicture],
    copies: Copies,
    colours: NDArray[np.float64],
    tint: str,
    adds: bool,
    first_in_front: bool,
) -> None:
    """Draw copies in their order, each about the middle of the layer's box.

    Parameters
    ----------
    canvas
        What is drawn on.
    pictures
        The layer by the number of the copy that shows it, or one for all of them.
    copies
        Where they are, and how.
    colours
        sRGB from 0 to 1, shape (n, 3).
    tint
        How a picture takes its colour (`raster.particles.TINTS`).
    adds
        True where light is added.
    first_in_front
        Draws the last one first.
    """
    words = premultiplied(colours, copies.alphas)
    order = np.arange(copies_with_room(canvas, pictures, copies))
    if first_in_front:
        order = order[::-1]
    runs = [order] if len(pictures) == 1 else [np.array([index]) for index in order]
    for which in runs:
        if len(which):
            shown = pictures[copies.numbers[which[0]] if len(pictures) > 1 else 0]
            _lay(canvas, shown, which, copies, words, tint, adds)


def _lay(
    canvas: Canvas,
    picture: LayerPicture,
    which: NDArray[np.int64],
    copies: Copies,
    words: NDArray[np.uint32],
    tint: str,
    adds: bool,
) -> None:
    height, width = picture.pixels.shape[:2]
    if not height or not width:
        return
    x, y = picture.from_middle
    angles, share = copies.angles[which], copies.longer[which] / max(picture.longer, 1e-6)
    cosine, sine = np.cos(angles), np.sin(angles)
    across = copies.points[which, 0] + (x * cosine - y * sine) * share
    down = copies.points[which, 1] + (x * sine + y * cosine) * share
    # What is drawn at less than half of its size would shimmer: it is halved before.
    halvings = np.clip(np.floor(-np.log2(np.maximum(share, 1e-6))), 0, 8).astype(int)
    for run in np.split(np.arange(len(which)), np.flatnonzero(np.diff(halvings)) + 1):
        draw_sprites(
            canvas,
            _halved(picture.pixels, int(halvings[run[0]])),
            across[run],
            down[run],
            (share[run] * width, share[run] * height),
            angles[run],
            words[which[run]],
            tint=tint,
            adds=adds,
        )


def copies_with_room(view: Viewport, pictures: list[LayerPicture], copies: Copies) -> int:
    """How many copies, from the first on, are drawn: no more than `MOST_FRAMES` frames of pixels in all.

    Parameters
    ----------
    view
        The frame.
    pictures
        The layer as each copy shows it, or one for all of them.
    copies
        Where they are, and how.
    """
    areas = np.array([picture.pixels.shape[0] * picture.pixels.shape[1] for picture in pictures], np.float64)
    boxes = np.array([max(picture.longer, 1e-6) for picture in pictures])
    frame = view.width * view.height
    shown = copies.numbers if len(pictures) > 1 else np.zeros(len(copies.longer), np.intp)
    sums = np.cumsum(np.minimum(areas[shown] * (copies.longer / boxes[shown]) ** 2, frame))
    return int(np.searchsorted(sums, MOST_FRAMES * frame, "right"))


def copy_clouds(
    view: Viewport,
    pictures: list[LayerPicture],
    copies: Copies,
    colours: NDArray[np.float64],
    tint: str,
    adds: bool,
) -> list[Cloud]:
    """Copies as marks in space: a cloud for each picture. Parameters as for `lay_copies`.

    Parameters
    ----------
    view
        The frame.
    pictures
        The layer as each copy shows it, or one for all of them.
    copies
        Where they are, and how.
    colours
        sRGB from 0 to 1, shape (n, 3).
    tint
        How a picture takes its colour.
    adds
        True where light is added.
    """
    unit, middle = view.short / 100, np.array([view.width / 2, view.height / 2])
    places = np.concatenate([(copies.points - middle) / unit, copies.depths[:, None]], axis=1)
    result = []
    for index, picture in enumerate(pictures):
        if picture.pixels.size:
            which = np.flatnonzero(copies.numbers == index) if len(pictures) > 1 else np.arange(len(copies.numbers))
            even = evened(picture)
            sizes = copies.longer[which] / max(picture.longer, 1e-6) * max(even.shape[:2]) / unit
            brush = Brush("disc", even, tint, adds)
            result.append(
                Cloud(places[which], sizes, colours[which], copies.alphas[which], brush, copies.angles[which])
            )
    return result


def _halved(pixels: Pixels, times: int) -> Pixels:
    """Halved so often, each pixel the mean of four."""
    for _ in range(times):
        size = (max(pixels.shape[1] // 2, 1), max(pixels.shape[0] // 2, 1))
        pixels = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)
    return pixels


def evened(picture: LayerPicture) -> Pixels:
    """The pixels with as much clear about them as brings the middle of the layer's box into their middle."""
    x, y = (round(2 * value) for value in picture.from_middle)
    return np.asarray(
        cv2.copyMakeBorder(picture.pixels, max(y, 0), max(-y, 0), max(x, 0), max(-x, 0), cv2.BORDER_CONSTANT),
        np.uint8,
    )
