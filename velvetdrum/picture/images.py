"""Pictures that people bring: checked when they come, decoded once, kept while they are drawn."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
import skia

from velvetdrum.picture.canvas import Pixels

LONGEST_SIDE = 16_384
MOST_PIXELS = 100_000_000
FORMS = {
    skia.EncodedImageFormat.kPNG: ".png",
    skia.EncodedImageFormat.kJPEG: ".jpg",
    skia.EncodedImageFormat.kWEBP: ".webp",
    skia.EncodedImageFormat.kGIF: ".gif",
}


class PictureError(ValueError):
    """A picture that cannot be used, with a sentence for the person who brought it."""


def check_picture(data: bytes) -> tuple[int, int, str]:
    """Width, height and the usual ending of an encoded picture. Raises PictureError.

    Only the head is read before the size is known to be bearable.
    """
    try:
        codec = skia.Codec.MakeFromData(skia.Data.MakeWithCopy(data))
    except RuntimeError:
        codec = None
    if codec is None or codec.getEncodedFormat() not in FORMS:
        raise PictureError("This is no picture that can be read. Bring a PNG, JPEG, WebP or GIF.")
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
    check_picture(data)
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
def stored(path: str) -> Pixels:
    """The pixels of a stored picture; a missing one is a chequered field, so that the rest can still be drawn."""
    try:
        return decoded(Path(path).read_bytes())
    except (OSError, PictureError):
        y, x = np.mgrid[0:64, 0:64] // 8
        light = np.where((x + y) % 2, 90, 60).astype(np.uint8)
        return np.ascontiguousarray(np.dstack([light, light, light, np.full_like(light, 255)]))


@lru_cache(maxsize=4)
def covering(path: str, width: int, height: int) -> Pixels:
    """A stored picture scaled and cut so that it covers a box, in pixels."""
    picture = stored(path)
    scale = max(width / picture.shape[1], height / picture.shape[0])
    size = (max(round(picture.shape[1] * scale), width), max(round(picture.shape[0] * scale), height))
    found = cv2.resize(picture, size, interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_CUBIC)
    left, top = (size[0] - width) // 2, (size[1] - height) // 2
    return np.ascontiguousarray(found[top : top + height, left : left + width])
