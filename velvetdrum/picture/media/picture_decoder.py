"""Encoded pictures as pixels: PNG, JPEG, WebP and GIF, upright and in sRGB, under limits.

Pillow reads the files, LittleCMS (through it) their ICC profiles. Large pictures are halved band by band, so that no
more is held at once than the picture itself.
"""

from __future__ import annotations

import io
import struct
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from velvetdrum.limits import openers
from velvetdrum.picture.raster.areas import Pixels

LONGEST_SIDE = 16_384
MOST_PIXELS = 100_000_000
FORMS = {"PNG": ".png", "JPEG": ".jpg", "MPO": ".jpg", "WEBP": ".webp", "GIF": ".gif"}
_BAND = 256
_SRGB = ImageCms.createProfile("sRGB")
_TURNED = (5, 6, 7, 8)
"""EXIF orientations in which width and height change places."""
_ORIENTATION = 0x0112

DAMAGE = (
    OSError,
    ValueError,
    SyntaxError,
    TypeError,
    EOFError,
    IndexError,
    KeyError,
    AttributeError,
    ArithmeticError,
    struct.error,
)
"""What the library raises for files that are damaged."""

# Sizes are checked here, with a sentence; the library's own limit would warn first.
Image.MAX_IMAGE_PIXELS = None


class PictureError(ValueError):
    """A picture that cannot be used, with a sentence for the person who brought it."""


@dataclass(frozen=True)
class PictureFacts:
    """What is known of a picture: its size as it is shown, the usual ending of its form, how many frames it has."""

    width: int
    height: int
    suffix: str
    frames: int = 1
    notes: tuple[str, ...] = ()
    """Sentences about what is not shown as it was asked for."""


@contextmanager
def opened_picture(source: Path | bytes) -> Iterator[Image.Image]:
    """An open picture whose head was found to be in order; nothing is decoded yet. Raises PictureError."""
    file = io.BytesIO(source) if isinstance(source, bytes) else source
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            result = openers.picture(file)
    except FileNotFoundError:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, *DAMAGE) as problem:
        raise PictureError("This is no picture that can be read. Bring a PNG, JPEG, WebP, GIF or SVG.") from problem
    with result:
        width, height = result.size
        if max(width, height) > LONGEST_SIDE or width * height > MOST_PIXELS:
            raise PictureError(
                f"This picture has {width} × {height} pixels; up to {LONGEST_SIDE} on each side and 100 million in "
                "all. Make it smaller."
            )
        yield result


def picture_facts(source: Path | bytes) -> PictureFacts:
    """What a picture is, from its head. Raises PictureError."""
    with opened_picture(source) as result:
        width, height = result.size
        if _orientation(result) in _TURNED:
            width, height = height, width
        try:
            frames = int(getattr(result, "n_frames", 1))
        except DAMAGE:
            frames = 1
        return PictureFacts(width, height, FORMS[str(result.format)], frames)


def decoded(source: Path | bytes, halved: int = 0) -> Pixels:
    """The pixels of a picture's first frame, premultiplied BGRA in sRGB, upright, halved so many times.

    Raises PictureError.
    """
    with opened_picture(source) as result, _describe_damage():
        result.load()
        return halved_times(_bands(upright(result)), result.size, halved)


def halved_times(bands: Iterator[Pixels], size: tuple[int, int], times: int) -> Pixels:
    """Bands of a picture, one below the other, as one picture whose sides are halved so many times."""
    parts = [halve(band) if times else band for band in bands]
    whole = parts[0] if len(parts) == 1 else np.concatenate(parts)
    for _ in range(times - 1):
        whole = halve(whole)
    return whole


def halve(pixels: Pixels) -> Pixels:
    """A picture with its sides halved, rounded up: means of two by two pixels, rounded; the last row and column of an
    odd side count twice. A level of a picture is the same, whatever it is made from."""
    height, width = pixels.shape[:2]
    if height % 2 or width % 2:
        pixels = np.pad(pixels, ((0, height % 2), (0, width % 2), (0, 0)), mode="edge")
    wide = pixels.astype(np.uint16)
    total = wide[0::2, 0::2] + wide[0::2, 1::2] + wide[1::2, 0::2] + wide[1::2, 1::2]
    return np.asarray((total + 2) >> 2, np.uint8)


def upright(found: Image.Image) -> Image.Image:
    """A picture turned as its camera noted, in sRGB, as RGB or RGBA. Damage of its profile is passed over."""
    profile = found.info.get("icc_profile")
    found = _eight_bit(found)
    if profile and found.mode in ("RGB", "RGBA", "CMYK", "L", "LA"):
        found = _in_srgb(found, profile)
    if found.mode == "P" or "transparency" in found.info:
        found = found.convert("RGBA")
    elif found.mode not in ("RGB", "RGBA"):
        found = found.convert("RGBA" if found.mode in ("LA", "PA", "La", "RGBa") else "RGB")
    if _orientation(found) > 1:
        found = ImageOps.exif_transpose(found)
    return found


def premultiplied(rgba: NDArray[np.uint8]) -> Pixels:
    """RGB or RGBA of shape (height, width, 3 or 4) as premultiplied BGRA."""
    out = np.empty((*rgba.shape[:2], 4), np.uint8)
    out[..., :3] = rgba[..., 2::-1]
    out[..., 3] = rgba[..., 3] if rgba.shape[2] == 4 else 255
    if rgba.shape[2] == 4 and int(out[..., 3].min(initial=255)) < 255:
        alpha = out[..., 3:].astype(np.uint16)
        out[..., :3] = (out[..., :3].astype(np.uint16) * alpha + 127) // 255
    return out


def _bands(picture: Image.Image) -> Iterator[Pixels]:
    width, height = picture.size
    for top in range(0, height, _BAND):
        yield premultiplied(np.asarray(picture.crop((0, top, width, min(top + _BAND, height)))))


def _eight_bit(found: Image.Image) -> Image.Image:
    if found.mode in ("I;16", "I;16B", "I;16L", "I;16N", "I"):
        return Image.fromarray((np.asarray(found).astype(np.int64).clip(0, 65535) >> 8).astype(np.uint8))
    if found.mode == "F":
        return Image.fromarray(np.nan_to_num(np.asarray(found)).clip(0, 255).astype(np.uint8))
    return found


def _in_srgb(found: Image.Image, profile: bytes) -> Image.Image:
    alpha = found.getchannel("A") if "A" in found.getbands() else None
    plain = found if alpha is None else found.convert("RGB" if found.mode == "RGBA" else "L")
    try:
        own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        shown = ImageCms.profileToProfile(plain, own, _SRGB, ImageCms.Intent.RELATIVE_COLORIMETRIC, outputMode="RGB")
    except (ImageCms.PyCMSError, *DAMAGE):
        # A profile that is damaged, or made for other channels than the picture has.
        return found
    if shown is None:
        return found
    if alpha is not None:
        shown.putalpha(alpha)
    if _ORIENTATION in found.getexif():
        shown.getexif()[_ORIENTATION] = found.getexif()[_ORIENTATION]
    return shown


def _orientation(found: Image.Image) -> int:
    try:
        turn = found.getexif().get(_ORIENTATION, 1)
    except DAMAGE:
        return 1
    return turn if isinstance(turn, int) and 1 <= turn <= 8 else 1


@contextmanager
def _describe_damage() -> Iterator[None]:
    try:
        yield
    except (*DAMAGE, MemoryError) as problem:
        if isinstance(problem, PictureError):
            raise
        if isinstance(problem, MemoryError):
            raise PictureError("This picture takes more memory than any picture needs. Make it smaller.") from problem
        raise PictureError("This picture is damaged: open it in another program and save it anew.") from problem
