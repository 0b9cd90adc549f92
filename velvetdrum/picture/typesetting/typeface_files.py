"""Typeface files of the user's: checked under limits before anything is laid out with them."""

from __future__ import annotations

import io
import logging
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import uharfbuzz as hb

from velvetdrum.limits import openers

MOST_BYTES = 20 << 20
_MOST_UNPACKED = 40 << 20
_MOST_GLYPHS = 65_535
_MOST_OPERATIONS = 20_000
"""Lines, curves and moves in one glyph: the richest of the families that ship has 600."""
_MOST_IN_ALL = 12_000_000

# What the library makes of damaged tables stands in the sentence that is answered; its own lines fill logs.
logging.getLogger("fontTools").setLevel(logging.CRITICAL)
_HEADS = {b"\x00\x01\x00\x00": ".ttf", b"true": ".ttf", b"OTTO": ".otf", b"wOF2": ".woff2"}


class TypefaceError(ValueError):
    """A file that can't be used as a typeface. The text is a sentence."""


@dataclass(frozen=True)
class TypefaceFacts:
    """What a typeface file says of itself."""

    suffix: str
    family: str
    style: str
    glyphs: int
    axes: tuple[str, ...]


def check_typeface(data: bytes) -> TypefaceFacts:
    """Read a typeface and try its outlines; the caller bounds time and memory. Raises TypefaceError."""
    suffix = _HEADS.get(data[:4], "")
    if not suffix:
        raise TypefaceError("This is no typeface that is taken here: bring a TTF, OTF or WOFF2 file.")
    if len(data) > MOST_BYTES:
        raise TypefaceError(f"This typeface has {len(data) >> 20} MB; up to {MOST_BYTES >> 20} MB are taken.")
    if suffix == ".woff2" and (len(data) < 48 or struct.unpack(">I", data[16:20])[0] > _MOST_UNPACKED):
        raise TypefaceError("This typeface unpacks to more than a typeface needs; it is not taken.")
    try:
        whole = unpacked(data)
        font = openers.typeface(whole, lazy=True)
        count, names = font["maxp"].numGlyphs, font["name"]
        family, style = (names.getDebugName(number) or "" for number in (16, 17))
        family, style = family or names.getDebugName(1) or "", style or names.getDebugName(2) or ""
        axes = tuple(axis.axisTag for axis in font["fvar"].axes) if "fvar" in font else ()
        face = openers.face(whole)
        drawn = hb.Font(face)
        if not count or count > _MOST_GLYPHS or not face.unicodes:
            raise TypefaceError("This typeface has no letters.")
        _count_outlines(drawn, count)
    except TypefaceError:
        raise
    except (MemoryError, OSError):
        raise
    except Exception as problem:  # a damaged file may raise whatever a table's reader stumbles over
        raise TypefaceError("This typeface is damaged and can't be read. Save or download it anew.") from problem
    clean = "".join(sign for sign in family if sign.isprintable()).strip()[:80]
    return TypefaceFacts(suffix, clean or "Typeface", style[:60], count, axes[:16])


class _CountingPen:
    """A pen that counts what it is asked to draw."""

    def __init__(self) -> None:
        self.count = 0

    def _one(self, *points: Any) -> None:
        self.count += 1

    moveTo = lineTo = curveTo = qCurveTo = closePath = endPath = _one


def _count_outlines(font: Any, glyphs: int) -> None:
    """Draw every glyph once. Raises TypefaceError where one, or all of them, have more outlines than any typeface."""
    before, pen = 0, _CountingPen()
    for glyph in range(glyphs):
        font.draw_glyph_with_pen(glyph, pen)
        if pen.count - before > _MOST_OPERATIONS or pen.count > _MOST_IN_ALL:
            raise TypefaceError("The outlines of this typeface have more points than letters need; it is not taken.")
        before = pen.count


def unpacked(data: bytes) -> bytes:
    """The bytes of a typeface as TTF or OTF; WOFF2 is unpacked."""
    if data[:4] != b"wOF2":
        return data
    font = openers.typeface(data, lazy=False)
    font.flavor = None
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()


def blob_of(path: Path) -> Any:
    """The typeface in a file, as the shaper takes it."""
    if path.suffix == ".woff2":
        return hb.Blob(unpacked(path.read_bytes()))
    return hb.Blob.from_file_path(str(path))
