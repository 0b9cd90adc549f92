"""Pictures that people bring: checked when they come, decoded once, kept while they are drawn."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
import skia

from velvetdrum.picture.canvas import Pixels
from velvetdrum.picture.svg import SvgError, check_svg, looks_like_svg, svg_pixels, svg_size

LONGEST_SIDE = 16_384
MOST_PIXELS = 100_000_000
FORMS = {
    skia.EncodedImageFormat.kPNG: ".png",
    skia.EncodedImageFormat.kJPEG: ".jpg",
    skia.EncodedImageFormat.kWEBP: ".webp",
    skia.EncodedImageFormat.kGIF: ".gif",
}

SVG = ".svg"
Crop = tuple[float, float, float, float]
"""What is cut away on the left, at the top, on the right and at the bottom, in per cent of the picture."""


class PictureError(ValueError):
    """A picture that cannot be used, with a sentence for the person who brought it."""


def check_picture(data: bytes) -> tuple[int, int, str]:
    """Width, height and the usual ending of an encoded picture. Raises PictureError.

    Only the head is read before the size is known to be bearable.
    """
    if looks_like_svg(data):
        try:
            across, down = check_svg(data)
        except SvgError as problem:
            raise PictureError(str(problem)) from problem
        return max(round(across), 1), max(round(down), 1), SVG
    try:
        codec = skia.Codec.MakeFromData(skia.Data.MakeWithCopy(data))
    except RuntimeError:
        codec = None
    if codec is None or codec.getEncodedFormat() not in FORMS:
        raise PictureError("This is no picture that can be read. Bring a PNG, JPEG, WebP, GIF or SVG.")
    size = codec.dimensions()
    width, height = size.width(), size.height()
    if max(width, height) > LONGEST_SIDE or width * height > MOST_PIXELS:
        raise PictureError(
            f"This picture has {width} × {height} pixels; up to {LONGEST_SIDE} on each side and 100 million in all. "
            "Make it smaller."
        )
    return width, height, FORMS[codec.getEncodedFormat()]


def decoded(data: bytes, longest: int | None = None) -> Pixels:
    """The pixels of an encoded picture, premultiplied BGRA, turned upright; at most `longest` pixels a side.

    Raises PictureError.
    """
    _, _, suffix = check_picture(data)
    if suffix == SVG:
        raise PictureError("An SVG picture has no pixels of its own; it is drawn at the size that it is needed in.")
    found = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if found is None or not found.size:
        raise PictureError("This picture is damaged: open it in another program and save it anew.")
    if found.dtype == np.uint16:
        found = (np.asarray(found, np.uint16) >> 8).astype(np.uint8)
    if found.ndim == 2:
        found = cv2.cvtColor(found, cv2.COLOR_GRAY2BGRA)
    elif found.shape[2] == 3:
        # Only the plain reader heeds the turn that a camera notes; it drops alpha, which photographs have none of.
        upright = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
        found = cv2.cvtColor(upright if upright is not None else found, cv2.COLOR_BGR2BGRA)
    if longest is not None and max(found.shape[:2]) > longest:
        scale = longest / max(found.shape[:2])
        found = cv2.resize(found, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    alpha = found[..., 3:].astype(np.uint16)
    if int(alpha.min()) < 255:
        found = found.copy()
        found[..., :3] = (found[..., :3].astype(np.uint16) * alpha + 127) // 255
    return np.ascontiguousarray(found, np.uint8)


@lru_cache(maxsize=4)
def _stored(path: str) -> Pixels:
    return decoded(Path(path).read_bytes())


def size_of(path: str) -> tuple[float, float]:
    """Width and height of a stored picture, in pixels or in an SVG's own units. Raises PictureError and OSError."""
    try:
        if path.endswith(SVG):
            return svg_size(path)
    except SvgError as problem:
        raise PictureError(str(problem)) from problem
    height, width = _stored(path).shape[:2]
    return float(width), float(height)


def scaled(path: str, width: int, height: int, crop: Crop = (0.0, 0.0, 0.0, 0.0)) -> Pixels:
    """A stored picture, cut and brought to a size in pixels, premultiplied BGRA; not to be written to. An SVG is drawn
    at that size. Raises PictureError and OSError."""
    left, top, right, bottom = crop
    if path.endswith(SVG):
        whole = (round(width * 100 / (100 - left - right)), round(height * 100 / (100 - top - bottom)))
        x, y = round(whole[0] * left / 100), round(whole[1] * top / 100)
        try:
            return svg_pixels(path, max(whole[0], 1), max(whole[1], 1))[y : y + height, x : x + width]
        except SvgError as problem:
            raise PictureError(str(problem)) from problem
    picture = _stored(path)
    if any(crop):
        own_height, own_width = picture.shape[:2]
        x, y = int(own_width * left / 100), int(own_height * top / 100)
        picture = picture[y : max(own_height - int(own_height * bottom / 100), y + 1),
                          x : max(own_width - int(own_width * right / 100), x + 1)]  # fmt: skip
    if picture.shape[:2] == (height, width):
        return picture
    smaller = width < picture.shape[1] or height < picture.shape[0]
    found = cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA if smaller else cv2.INTER_CUBIC)
    # Cubic weights reach below zero and above alpha; premultiplied colours may not.
    return np.minimum(np.asarray(found, np.uint8), found[..., 3:])


def small(path: str, longest: int) -> Pixels:
    """A stored picture with its longer side `longest` pixels at the most. Raises PictureError and OSError."""
    width, height = size_of(path)
    scale = longest / max(width, height) if path.endswith(SVG) else min(longest / max(width, height), 1.0)
    return scaled(path, max(round(width * scale), 1), max(round(height * scale), 1))


@lru_cache(maxsize=4)
def covering(path: str, width: int, height: int) -> Pixels:
    """A stored picture scaled and cut so that it covers a box, in pixels."""
    try:
        own_width, own_height = size_of(path)
        scale = max(width / own_width, height / own_height)
        size = (max(round(own_width * scale), width), max(round(own_height * scale), height))
        found = scaled(path, *size)
    except (PictureError, OSError):
        # A missing picture is a grey field, so that the rest can still be drawn.
        return np.full((height, width, 4), (70, 70, 70, 255), np.uint8)
    left, top = (size[0] - width) // 2, (size[1] - height) // 2
    return np.ascontiguousarray(found[top : top + height, left : left + width])
