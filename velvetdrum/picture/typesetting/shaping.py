"""A line of text as outlines, shaped with the typeface's kerning and ligatures."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

import uharfbuzz as hb
from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.pens.transformPen import TransformPen

from velvetdrum.limits import openers
from velvetdrum.limits.cache import cached
from velvetdrum.picture.outlines.outline import Outline
from velvetdrum.picture.outlines.paths import OutlinePen, PathError
from velvetdrum.picture.typesetting.families import shipped_file
from velvetdrum.picture.typesetting.layout import Layout, TextSpec, laid_out
from velvetdrum.picture.typesetting.typefaces import typeface as face_of

TYPEFACES = {
    "fraunces-semibold": "Fraunces semibold",
    "work-sans-bold": "Work Sans bold",
    "work-sans-medium": "Work Sans medium",
}
"""The typefaces that ship, by the name of their file."""


@dataclass(frozen=True)
class ShapedLine:
    """A shaped line of text: its outlines as path data, one em being 1000 units, y down, from the pen's first place;
    how far the pen went; and the characters that the typeface lacks."""

    data: str
    advance: float
    lacking: frozenset[str]


@cached
def text_outline(text: str, typeface: str) -> Outline:
    """The outlines of a line of text, one em being 1000 units, y down. Letters that the typeface lacks are taken from
    another; what none has shows as a question mark where nothing else would be seen. Raises PathError for text without
    ink."""
    if not text.strip():
        raise PathError("There is no text to draw along yet: type a word.")
    try:
        return _line_outline(text, typeface)
    except PathError:
        return _line_outline("?", typeface)


def _line_outline(text: str, typeface: str) -> Outline:
    layout = laid_out(TextSpec(text.replace("\n", " "), str(shipped_file(typeface)), align="left"))
    pen, left = OutlinePen(), layout.box[0]
    for face, glyph, x in zip(layout.face.tolist(), layout.glyph.tolist(), layout.x.tolist(), strict=True):
        result = face_of(*layout.faces[face])
        place = (result.scale, 0.0, 0.0, -result.scale, x - left, 0.0)
        result.font.draw_glyph_with_pen(glyph, TransformPen(pen, place))
    return pen.outline()


def layout_path(layout: Layout) -> str:
    """The outlines of a text in its lines as path data, one em being 1000 units, y down, about the middle of its box;
    empty for one without ink."""
    pen = SVGPathPen(None, ntos=lambda number: f"{number:.4g}" if abs(number) < 1000 else f"{number:.1f}")
    rows = zip(layout.face.tolist(), layout.glyph.tolist(), layout.x.tolist(), layout.y.tolist(), strict=True)
    for face, glyph, x, y in rows:
        result = face_of(*layout.faces[face])
        place = (result.scale, 0.0, 0.0, -result.scale, x, y)
        result.font.draw_glyph_with_pen(glyph, TransformPen(pen, place))
    return str(pen.getCommands())


def run_of(text: str, typeface: str, spacing: float = 0.0) -> ShapedLine:
    """A line of text as path data; `spacing` is added after each character, in thousandths of an em. Characters that
    the typeface lacks take their place, but show nothing."""
    pen = SVGPathPen(None)
    advance, lacking = _draw(text, typeface, pen, spacing)
    return ShapedLine(pen.getCommands(), advance, frozenset(lacking))


def _draw(text: str, typeface: str, pen: Any, spacing: float) -> tuple[float, list[str]]:
    """Draw a shaped line with a pen. Gives the pen's way and the characters that are lacking."""
    face, font = _font(typeface)
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    hb.shape(font, buffer, {"kern": True, "liga": not spacing})
    x, scale = 0.0, 1000.0 / face.upem
    for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
        left, up = x + place.x_offset, place.y_offset
        if info.codepoint:
            font.draw_glyph_with_pen(
                info.codepoint, TransformPen(pen, (scale, 0.0, 0.0, -scale, left * scale, -up * scale))
            )
        x += place.x_advance + spacing / scale
    return x * scale, sorted({text[info.cluster] for info in buffer.glyph_infos if info.codepoint == 0})


def typeface_file(typeface: str) -> bytes:
    """The bytes of a typeface that ships."""
    return files("velvetdrum.picture.typesetting").joinpath(f"fonts/{typeface}.ttf").read_bytes()


@cache
def _font(typeface: str) -> tuple[hb.Face, hb.Font]:
    face = openers.own_face(typeface_file(typeface))
    return face, hb.Font(face)
