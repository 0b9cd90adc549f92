"""Many small marks on a canvas: discs, and pictures that are turned and tinted."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import particles as kernels

Values = NDArray[np.float64]
FORMS = {"disc": 0, "soft": 1, "ring": 2}
"""Forms that are drawn from their radius alone."""

Tint = str
TINTS = {"none": 0, "form": 1, "shade": 2}
"""How a picture takes a colour: not at all, its opacity shows the colour, or the colour times its luminance."""

_SIDE = 64


def premultiplied(colours: NDArray[np.float64], alphas: Values) -> NDArray[np.uint32]:
    """Colours, sRGB from 0 to 1, shape (n, 3), with an alpha each, as premultiplied words 0xaarrggbb.

    Parameters
    ----------
    colours
        BGR from 0 to 1, shape (n, 3).
    alphas
        Opacities, 0 to 1, shape (n,).
    """
    share = np.clip(alphas, 0, 1)
    levels = np.rint(np.clip(colours, 0, 1) * share[:, None] * 255).astype(np.uint32)
    solid = np.rint(share * 255).astype(np.uint32)
    return np.asarray(levels[:, 2] | levels[:, 1] << 8 | levels[:, 0] << 16 | solid << 24, np.uint32)


@dataclass(frozen=True, eq=False)
class Hidden:
    """How near (1 / depth) marks are, shape (n,), and what is nearest already in each pixel of the canvas's area: a
    mark is seen only where it is nearer."""

    nearness: Values
    nearest: NDArray[np.float32]


_UNTESTED = np.zeros(1, np.float32), np.zeros((1, 1), np.float32), 0


def _tests(hidden: Hidden | None) -> tuple[NDArray[np.float32], NDArray[np.float32], int]:
    if hidden is None:
        return _UNTESTED
    return np.ascontiguousarray(hidden.nearness, np.float32), np.ascontiguousarray(hidden.nearest), 1


def draw_discs(
    canvas: Canvas,
    x: Values,
    y: Values,
    radii: Values,
    colours: NDArray[np.uint32],
    form: str,
    adds: bool,
    hidden: Hidden | None = None,
) -> None:
    """Discs about places in pixels of the frame, the first ones hindmost. `adds`: light is added (plus-lighter).

    Parameters
    ----------
    canvas
        What is drawn on.
    x
        Places in pixels.
    y
        Places in pixels.
    radii
        Radii in pixels, shape (n,).
    colours
        Colours as words, 0xaarrggbb, premultiplied, shape (n,).
    form
        Name of the form.
    adds
        True where light is added (plus-lighter), in place of source over.
    hidden
        How near what hides it is, by pixel; None where nothing hides.
    """
    words, step, left, top, width, height = canvas.target()
    at = [np.ascontiguousarray(values, np.float32) for values in (x - left, y - top, radii)]
    kernels.discs(words, step, width, height, at[0], at[1], at[2], colours, FORMS[form], int(adds), *_tests(hidden))
    canvas.touch(canvas.area)


def draw_sprites(
    canvas: Canvas,
    picture: Pixels,
    x: Values,
    y: Values,
    sizes: tuple[Values, Values],
    angles: Values,
    colours: NDArray[np.uint32],
    *,
    tint: str = "form",
    adds: bool,
    hidden: Hidden | None = None,
) -> None:
    """A premultiplied picture about places in pixels of the frame, each with its width and its height in pixels and its
    turn in radians. `tint` says how it takes the colours (`TINTS`).

    Parameters
    ----------
    canvas
        What is drawn on.
    picture
        Pixels, premultiplied BGRA, shape (height, width, 4).
    x
        Places in pixels.
    y
        Places in pixels.
    sizes
        Widths and heights in pixels, each of shape (n,).
    angles
        Degrees, clockwise, shape (n,).
    colours
        Colours as words, 0xaarrggbb, premultiplied, shape (n,).
    tint
        How colours join those of the picture.
    adds
        True where light is added (plus-lighter), in place of source over.
    hidden
        How near what hides it is, by pixel; None where nothing hides.
    """
    words, step, left, top, width, height = canvas.target()
    at = [
        np.ascontiguousarray(values, np.float32)
        for values in (x - left, y - top, np.cos(angles), np.sin(angles), *sizes)
    ]
    if tint == "shade":
        # Every channel holds the luminance, so that one of them is enough.
        grey = cv2.cvtColor(cv2.cvtColor(picture, cv2.COLOR_BGRA2GRAY), cv2.COLOR_GRAY2BGRA)
        grey[..., 3] = picture[..., 3]
        picture = np.asarray(grey, np.uint8)
    framed = np.ascontiguousarray(cv2.copyMakeBorder(picture, 1, 1, 1, 1, cv2.BORDER_CONSTANT))
    texture = framed.view(np.uint32)[..., 0]
    xs, ys, rights, downs, wide, high = at
    kernels.sprites(
        words,
        step,
        width,
        height,
        texture,
        xs,
        ys,
        rights,
        downs,
        wide,
        high,
        colours,
        TINTS[tint],
        int(adds),
        *_tests(hidden),
    )
    canvas.touch(canvas.area)


@cached
def form_picture(form: str) -> Pixels:
    """A square, a star or a streak in white, 64 pixels wide, with smooth edges.

    Parameters
    ----------
    form
        Name of the form.
    """
    pixels = np.zeros((_SIDE, _SIDE, 4), np.uint8)
    surface = skia.Surface(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
    drawn = surface.getCanvas()
    brush = skia.Paint(AntiAlias=True, Color=0xFFFFFFFF)
    middle = _SIDE / 2
    if form == "star":
        angles = np.arange(10) * np.pi / 5 - np.pi / 2
        away = np.where(np.arange(10) % 2, middle * 0.42, middle - 1)
        points = [skia.Point(middle + r * np.cos(a), middle + r * np.sin(a)) for a, r in zip(angles, away, strict=True)]
        builder = skia.PathBuilder()
        builder.addPolygon(points, True)
        drawn.drawPath(builder.detach(), brush)
    elif form == "streak":
        drawn.drawRoundRect(skia.Rect(1, middle - 9, _SIDE - 1, middle + 9), 9, 9, brush)
    else:
        drawn.drawRect(skia.Rect(2, 2, _SIDE - 2, _SIDE - 2), brush)
    del drawn, surface
    return pixels


def shrunk(picture: Pixels, longest: float) -> Pixels:
    """A picture halved until it is less than twice as large as it will be drawn, so that it does not shimmer.

    Parameters
    ----------
    picture
        Pixels, premultiplied BGRA, shape (height, width, 4).
    longest
        Pixels of the longer side, at the most.
    """
    while max(picture.shape[:2]) > 2 * max(longest, 4) and min(picture.shape[:2]) > 3:
        size = (max(picture.shape[1] // 2, 1), max(picture.shape[0] // 2, 1))
        picture = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.uint8)
    return picture
