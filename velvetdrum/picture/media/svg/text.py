"""Text of SVG files as paths, in the typefaces that ship: the drawing library shows none.

Lines with x, y, dx, dy, spans, font size, weight and anchor are heeded; a typeface that is not here is replaced, and
named. Text along a path is laid on a straight line.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any
from xml.etree import ElementTree

from velvetdrum.picture.media.svg.parser import SvgError, local_name
from velvetdrum.picture.media.svg.styles import declared
from velvetdrum.picture.typesetting.shaping import TYPEFACES, run_of

MOST_CHARACTERS = 20_000
_FONT = ("font-family", "font-size", "font-weight", "text-anchor", "letter-spacing", "display", "visibility")
_MOVED = {"x", "y", "dx", "dy", "rotate", "textLength", "lengthAdjust", "style", "class", "id", "transform"}
_LENGTH = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(px|pt|mm|cm|in|em|%)?")
_UNITS = {"px": 1.0, "": 1.0, "pt": 4 / 3, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0}
_SHIPPED = {
    "work sans": "work-sans",
    "fraunces": "fraunces",
    "serif": "fraunces",
    "sans-serif": "work-sans",
    "system-ui": "work-sans",
    "ui-sans-serif": "work-sans",
    "ui-serif": "fraunces",
}
_SVG = "{http://www.w3.org/2000/svg}"


@dataclass
class TextNotes:
    """What could not be shown as it was asked for."""

    families: set[str] = field(default_factory=set)
    characters: set[str] = field(default_factory=set)

    def sentences(self) -> list[str]:
        """What was noticed, a sentence each."""
        out = []
        if self.families:
            names = ", ".join(sorted(self.families)[:4])
            out.append(f"The typeface {names} is not here; {TYPEFACES['work-sans-medium']} stands in its place.")
        if self.characters:
            out.append(f"No typeface here has {' '.join(sorted(self.characters)[:12])}; it is left out.")
        return out


def draw_texts(root: Any) -> TextNotes:
    """Put paths in the place of all text elements of a file. Raises SvgError where there is too much text."""
    notes = TextNotes()
    count = 0
    above = {child: parent for parent in root.iter() for child in parent}
    for element in list(root.iter()):
        if local_name(element) != "text":
            continue
        count += sum(len(part) for part in element.itertext())
        if count > MOST_CHARACTERS:
            raise SvgError(f"This SVG file has more than {MOST_CHARACTERS} characters of text. Simplify it.")
        font: dict[str, str] = {}
        line = [element]
        while line[-1] in above:
            line.append(above[line[-1]])
        for owner in reversed(line):
            font |= {name: value for name, value in declared(owner).items() if name in _FONT}
        made = _Line(notes)
        made.walk(element, font, preserved=element.get("{http://www.w3.org/XML/1998/namespace}space") == "preserve")
        made.anchor()
        element.tag = f"{_SVG}g"
        for name in ("x", "y", "dx", "dy", "rotate", "textLength"):
            element.attrib.pop(name, None)
        for part in list(element):
            element.remove(part)
        element.text = None
        element.extend(made.paths)
    return notes


@dataclass
class _Piece:
    path: Any
    font: dict[str, str]
    x: float
    y: float
    size: float


class _Line:
    """The pen that goes along a text."""

    def __init__(self, notes: TextNotes) -> None:
        self.notes = notes
        self.x = self.y = 0.0
        self.paths: list[Any] = []
        self._chunk: list[_Piece] = []
        self._begin = 0.0
        self._spaced = True

    def walk(self, element: Any, font: dict[str, str], *, preserved: bool, look: dict[str, str] | None = None) -> None:
        size = _length(font.get("font-size", ""), 16.0, 16.0)
        places = declared(element)
        if "x" in places:
            self.anchor()
            self.x = self._begin = _length(places["x"], size, 0.0)
        if "y" in places:
            self.anchor()
            self._begin = self.x
            self.y = _length(places["y"], size, 0.0)
        self.x += _length(places.get("dx", ""), size, 0.0)
        self.y += _length(places.get("dy", ""), size, 0.0)
        look = look or {}
        self.write(element.text, font, size, look, preserved)
        for part in element:
            name = local_name(part)
            if name in ("tspan", "a", "textPath"):
                own = declared(part)
                inner = font | {key: value for key, value in own.items() if key in _FONT}
                shown = look | {key: value for key, value in own.items() if key not in _MOVED and key not in _FONT}
                self.walk(part, inner, preserved=preserved, look=shown)
            self.write(part.tail, font, size, look, preserved)

    def write(self, text: str | None, font: dict[str, str], size: float, look: dict[str, str], preserved: bool) -> None:
        shown = text or ""
        if not preserved:
            shown = re.sub(r"\s+", " ", shown)
            if self._spaced:
                shown = shown.lstrip(" ")
        if not shown or font.get("display") == "none":
            return
        self._spaced = shown.endswith(" ")
        run = run_of(shown, self._typeface(font), _length(font.get("letter-spacing", ""), size, 0.0) * 1000 / size)
        self.notes.characters |= run.lacking
        if run.data and font.get("visibility") not in ("hidden", "collapse"):
            path = ElementTree.Element(f"{_SVG}path", {key: value for key, value in look.items() if key != "d"})
            path.set("d", run.data)
            self._chunk.append(_Piece(path, font, self.x, self.y, size))
        self.x += run.advance * size / 1000

    def anchor(self) -> None:
        """End a chunk of text: move it as its anchor asks (SVG 2, 11.10.2)."""
        if self._chunk:
            share = {"middle": 0.5, "end": 1.0}.get(self._chunk[0].font.get("text-anchor", ""), 0.0)
            back = (self.x - self._begin) * share
            for piece in self._chunk:
                scale = piece.size / 1000
                piece.path.set("transform", f"translate({piece.x - back:g} {piece.y:g}) scale({scale:g})")
                # Strokes are in the text's own units.
                if "stroke-width" in piece.path.attrib:
                    width = _length(piece.path.get("stroke-width"), piece.size, 1.0) / scale
                    piece.path.set("stroke-width", f"{width:g}")
                self.paths.append(piece.path)
            self.x -= back
        self._chunk, self._begin = [], self.x

    def _typeface(self, font: dict[str, str]) -> str:
        names = [name.strip().strip("'\"").lower() for name in font.get("font-family", "").split(",") if name.strip()]
        known = next((_SHIPPED[name] for name in names if name in _SHIPPED), None)
        if names and names[0] not in _SHIPPED:
            self.notes.families.add(names[0].title()[:40])
        weight = font.get("font-weight", "400")
        heavy = weight in ("bold", "bolder") or (weight.isdigit() and int(weight) >= 600)
        return "fraunces-semibold" if known == "fraunces" else "work-sans-bold" if heavy else "work-sans-medium"


def _length(text: str, size: float, otherwise: float) -> float:
    result = _LENGTH.match(text)
    if not result:
        return otherwise
    unit = result[2] or ""
    value = float(result[1]) * (size if unit == "em" else size / 100 if unit == "%" else _UNITS[unit])
    return value if abs(value) < 1e6 else otherwise
