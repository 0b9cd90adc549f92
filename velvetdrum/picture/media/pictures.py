"""Pictures that people bring: prepared when they come, read at the size that is needed, kept while they are drawn."""

from __future__ import annotations

import io
import os
import shutil
from pathlib import Path

import cv2
import numpy as np

from velvetdrum.limits.cache import cached
from velvetdrum.picture.media.picture_decoder import PictureError, PictureFacts, decoded, halve, picture_facts
from velvetdrum.picture.media.svg.drawn import SvgError, check_svg, looks_like_svg, svg_pixels, svg_size
from velvetdrum.picture.raster.areas import Pixels

__all__ = [
    "LEVELS",
    "SVG",
    "Crop",
    "PictureError",
    "check_picture",
    "covering",
    "needs_levels",
    "prepare_picture",
    "scaled",
    "size_of",
    "small",
]

SVG = ".svg"
LEVELS = ".levels"
"""Ending of the folder beside a picture that holds it at half of its size, a quarter, and so on."""

_PREPARED_FROM = 2048
_SMALLEST_LEVEL = 512
Crop = tuple[float, float, float, float]
"""What is cut away on the left, at the top, on the right and at the bottom, in per cent of the picture."""


def check_picture(source: Path | bytes) -> PictureFacts:
    """What a picture is, from its head; an SVG is drawn once, to see that it can be, and in time.

    Raises PictureError.
    """
    with io.BytesIO(source) if isinstance(source, bytes) else source.open("rb") as file:
        if not looks_like_svg(file.read(1024)):
            return picture_facts(source)
        file.seek(0)
        try:
            result = check_svg(file.read())
        except SvgError as problem:
            raise PictureError(str(problem)) from problem
    return PictureFacts(max(round(result.width), 1), max(round(result.height), 1), SVG, notes=result.notes)


def prepare_picture(path: Path, levels: Path) -> PictureFacts:
    """Check a picture and write its levels into a folder that appears when they are all there.

    Raises PictureError. An SVG has none.
    """
    facts = check_picture(path)
    if facts.suffix == SVG:
        return facts
    if not needs_levels(facts.width, facts.height, facts.suffix):
        decoded(path)
        return facts
    beside = levels.with_name(f"{levels.name}.part-{os.getpid()}")
    shutil.rmtree(beside, ignore_errors=True)
    beside.mkdir(parents=True)
    try:
        pixels, level = decoded(path, 1), 1
        while True:
            # As it is, premultiplied: nobody but `_level` reads it.
            if not cv2.imwrite(str(beside / f"{level}.png"), pixels, [cv2.IMWRITE_PNG_COMPRESSION, 1]):
                raise OSError(28, "No space left on device")
            if max(pixels.shape[:2]) <= _SMALLEST_LEVEL * 2:
                break
            pixels, level = halve(pixels), level + 1
        shutil.rmtree(levels, ignore_errors=True)
        beside.rename(levels)
    finally:
        shutil.rmtree(beside, ignore_errors=True)
    return facts


def needs_levels(width: int, height: int, suffix: str) -> bool:
    """True for a picture that is large enough to be prepared at smaller sizes."""
    return suffix != SVG and max(width, height) > _PREPARED_FROM


@cached
def _level(path: str, level: int) -> Pixels:
    """A stored picture halved so many times, premultiplied BGRA; not to be written to. The same pixels, whether it was
    prepared or not. Raises PictureError and OSError."""
    stored = Path(f"{path}{LEVELS}") / f"{level}.png"
    read = cv2.imread(str(stored), cv2.IMREAD_UNCHANGED) if level and stored.exists() else None
    return decoded(Path(path), level) if read is None else np.asarray(read, np.uint8)


@cached
def _facts(path: str) -> PictureFacts:
    return picture_facts(Path(path))


def size_of(path: str) -> tuple[float, float]:
    """Width and height of a stored picture, in pixels or in an SVG's own units. Raises PictureError and OSError."""
    try:
        if path.endswith(SVG):
            return svg_size(path)
    except SvgError as problem:
        raise PictureError(str(problem)) from problem
    if not path:
        raise FileNotFoundError(path)
    facts = _facts(path)
    return float(facts.width), float(facts.height)


def scaled(path: str, width: int, height: int, crop: Crop = (0.0, 0.0, 0.0, 0.0), part: str = "") -> Pixels:
    """A stored picture, cut and brought to a size in pixels, premultiplied BGRA; not to be written to. An SVG, or the
    part of it with an id, is drawn at that size. Raises PictureError and OSError."""
    left, top, right, bottom = crop
    if path.endswith(SVG):
        whole = (round(width * 100 / (100 - left - right)), round(height * 100 / (100 - top - bottom)))
        x, y = round(whole[0] * left / 100), round(whole[1] * top / 100)
        try:
            return svg_pixels(path, max(whole[0], 1), max(whole[1], 1), part)[y : y + height, x : x + width]
        except SvgError as problem:
            raise PictureError(str(problem)) from problem
    picture = _level(path, _needed_level(path, width * 100 / (100 - left - right), height * 100 / (100 - top - bottom)))
    if any(crop):
        own_height, own_width = picture.shape[:2]
        x, y = int(own_width * left / 100), int(own_height * top / 100)
        picture = picture[
            y : max(own_height - int(own_height * bottom / 100), y + 1),
            x : max(own_width - int(own_width * right / 100), x + 1),
        ]
    if picture.shape[:2] == (height, width):
        return picture
    smaller = width < picture.shape[1] or height < picture.shape[0]
    result = cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA if smaller else cv2.INTER_CUBIC)
    # Cubic weights reach below zero and above alpha; premultiplied colours may not.
    return np.minimum(np.asarray(result, np.uint8), result[..., 3:])


def _needed_level(path: str, width: float, height: float) -> int:
    """How often a picture can be halved and still have a pixel for each one that is asked for. Only large pictures have
    levels; what smaller ones look like does not depend on them."""
    own_width, own_height = size_of(path)
    if max(own_width, own_height) <= _PREPARED_FROM:
        return 0
    level = 0
    while (
        own_width / 2 ** (level + 1) >= width
        and own_height / 2 ** (level + 1) >= height
        and max(own_width, own_height) / 2**level > _SMALLEST_LEVEL * 2
    ):
        level += 1
    return level


def small(path: str, longest: int) -> Pixels:
    """A stored picture with its longer side `longest` pixels at the most. Raises PictureError and OSError."""
    width, height = size_of(path)
    scale = longest / max(width, height) if path.endswith(SVG) else min(longest / max(width, height), 1.0)
    return scaled(path, max(round(width * scale), 1), max(round(height * scale), 1))


@cached
def covering(path: str, width: int, height: int) -> Pixels:
    """A stored picture scaled and cut so that it covers a box, in pixels."""
    try:
        own_width, own_height = size_of(path)
        scale = max(width / own_width, height / own_height)
        size = (max(round(own_width * scale), width), max(round(own_height * scale), height))
        result = scaled(path, *size)
    except (PictureError, OSError):
        # A missing picture is a grey field, so that the rest can still be drawn.
        return np.full((height, width, 4), (70, 70, 70, 255), np.uint8)
    left, top = (size[0] - width) // 2, (size[1] - height) // 2
    return np.ascontiguousarray(result[top : top + height, left : left + width])
