"""SVG files read under limits: what must not be in them, and what they would cost to draw, counted before they are.

A file is read twice: event by event with all that could run, lead outside or grow being refused before any of it is
kept; then as a tree, whose cost is counted with everything that it repeats by reference.
"""

from __future__ import annotations

import re
from typing import Any
from xml.etree import ElementTree
from xml.parsers import expat

from velvetdrum.limits import openers

LARGEST_FILE = 8_000_000
MOST_ELEMENTS = 50_000
MOST_COST = 400_000
"""Elements and path points that may be drawn, everything repeated by reference counted as often as it is shown."""

MOST_FILTERS = 200
_DEEPEST = 200
_LONGEST_CHAIN = 40
_RUNS = {"script", "iframe", "embed", "object", "handler", "listener"}
_FOREIGN = "foreignobject"
_URL = re.compile(r"url\(\s*['\"]?\s*(?!#)", re.IGNORECASE)
_REFERENCE = re.compile(r"url\(\s*['\"]?\s*#([^)'\"]{1,200})", re.IGNORECASE)
_NUMBERS = re.compile(r"[\d.]+")

# The drawing library knows SVG's elements by their plain names.
ElementTree.register_namespace("", "http://www.w3.org/2000/svg")
ElementTree.register_namespace("xlink", "http://www.w3.org/1999/xlink")


class SvgError(ValueError):
    """An SVG file that cannot be used. The text is a sentence for the person who brought it."""


def looks_like_svg(data: bytes) -> bool:
    """True for text that could be SVG; what it is says `parse_svg`."""
    head = data[:1024].lstrip(b"\xef\xbb\xbf \t\r\n")
    return head[:1] == b"<" or head[:4] in (b"\xff\xfe<\x00", b"\xfe\xff\x00<")


def parse_svg(data: bytes, *, drawn: bool = True) -> Any:
    """The root element of an SVG file. Raises SvgError for what is none, and for all that would grow without bounds:
    entities, endless nesting, references that repeat too much. A file that is to be `drawn` may have nothing in it
    either that would run or lead outside: scripts, references to elsewhere."""
    if len(data) > LARGEST_FILE:
        raise SvgError(f"This SVG file is larger than {LARGEST_FILE // 1_000_000} MB; save it with smaller pictures.")
    _Guard(drawn).read(data)
    try:
        root = openers.xml(data)
    except (ElementTree.ParseError, ValueError, LookupError) as problem:
        raise SvgError("This is no SVG file: it is not well-formed XML.") from problem
    if local_name(root) != "svg":
        raise SvgError("This is no SVG file: its first element is not svg.")
    if drawn:
        _resolve_switches(root)
        _count_cost(root)
    return root


def local_name(element: Any) -> str:
    """An element's name without its namespace; empty for comments."""
    return element.tag.split("}")[-1] if isinstance(element.tag, str) else ""


def reference_of(element: Any) -> str:
    """The id that an element's href names; empty for none, or for data."""
    href = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
    return href.strip()[1:] if href.strip().startswith("#") else ""


class _Guard:
    """Reads a file event by event and stops at the first thing that must not be in it."""

    def __init__(self, drawn: bool) -> None:
        self.drawn = drawn
        self.names: list[str] = []
        self.count = self.filters = 0
        self.foreign = 0
        """Depth of the foreign part of a switch that is being passed over; 0 outside of one."""

    def read(self, data: bytes) -> None:
        parser = expat.ParserCreate()
        parser.StartDoctypeDeclHandler = self.doctype
        parser.EntityDeclHandler = self.entity
        parser.StartElementHandler = self.start
        parser.EndElementHandler = self.end
        parser.CharacterDataHandler = self.words
        parser.buffer_text = True
        try:
            parser.Parse(data, True)
        except (expat.ExpatError, ValueError, LookupError) as problem:
            if isinstance(problem, SvgError):
                raise
            raise SvgError("This is no SVG file: it is not well-formed XML.") from problem

    def doctype(self, name: str, system: str | None, public: str | None, inside: int) -> None:
        # The plain line that many programs write names a document type that is never fetched.
        if inside:
            self.entity()

    def entity(self, *_: Any) -> None:
        raise SvgError("This SVG file declares entities, which are not read. Save it as plain SVG.")

    def start(self, name: str, attributes: dict[str, str]) -> None:
        plain = name.split(":")[-1].lower()
        above = self.names[-1] if self.names else ""
        self.names.append(plain)
        self.count += 1
        if len(self.names) > _DEEPEST or self.count > MOST_ELEMENTS:
            raise SvgError(f"This SVG file has more than {MOST_ELEMENTS} elements, or nests too deep. Simplify it.")
        if not self.drawn or self.foreign:
            return
        if plain == _FOREIGN and above == "switch":
            self.foreign = len(self.names)
            return
        if plain in _RUNS or plain == _FOREIGN:
            raise SvgError("This SVG file has a script or a foreign part in it, which is never run. Save it plain.")
        self.filters += plain.startswith("fe") and plain[2:3] != ""
        if self.filters > MOST_FILTERS:
            raise SvgError(f"This SVG file has more than {MOST_FILTERS} filter steps. Simplify it.")
        for key, value in attributes.items():
            _guard_attribute(key.split(":")[-1].lower(), value, image=plain == "image")

    def end(self, _: str) -> None:
        if self.foreign == len(self.names):
            self.foreign = 0
        self.names.pop()

    def words(self, text: str) -> None:
        if self.drawn and not self.foreign and ("@import" in text or _URL.search(text)):
            raise SvgError("This SVG file refers to something outside of itself. Save it with all its parts inside.")


def _guard_attribute(name: str, value: str, *, image: bool) -> None:
    if name.startswith("on"):
        raise SvgError("This SVG file has a script in it, which is never run. Save it as plain SVG.")
    start = value.strip()[:40].lower()
    inside = start.startswith("#") or (image and start.startswith("data:image/"))
    if (name in ("href", "src") and start and not inside) or _URL.search(value):
        raise SvgError("This SVG file refers to something outside of itself. Save it with all its parts inside.")


def _resolve_switches(root: Any) -> None:
    """Keep of every switch the first part that asks for nothing that is not here (SVG 2, 5.9)."""
    for element in list(root.iter()):
        if local_name(element) != "switch":
            continue
        parts = [part for part in element if local_name(part) and local_name(part).lower() != _FOREIGN]
        shown = next((part for part in parts if _is_met(part)), None)
        if shown is None and any(local_name(part).lower() == _FOREIGN for part in element):
            raise SvgError("This SVG file has a foreign part in it, which is never run, and nothing in its place.")
        for part in list(element):
            if part is not shown:
                element.remove(part)
        element.tag = f"{{{_space(element)}}}g" if _space(element) else "g"


def _is_met(element: Any) -> bool:
    languages = element.get("systemLanguage")
    return element.get("requiredExtensions") is None and (languages is None or "en" in languages.lower())


def _space(element: Any) -> str:
    return element.tag[1:].split("}")[0] if element.tag.startswith("{") else ""


def _count_cost(root: Any) -> None:
    """Raise SvgError when what is shown, repeated as often as it is referred to, is more than may be drawn."""
    by_id = {element.get("id"): element for element in root.iter() if element.get("id")}
    known: dict[Any, int] = {}
    under_way: set[Any] = set()

    def cost(element: Any, depth: int, chain: int) -> int:
        """Elements and points of an element with all that it holds and refers to."""
        if element in known:
            return known[element]
        if element in under_way:
            raise SvgError("Something in this SVG file refers to itself. Save it as plain SVG.")
        if chain > _LONGEST_CHAIN or depth > _DEEPEST * 2:
            raise SvgError("References in this SVG file lead too far. Simplify it.")
        under_way.add(element)
        total = 1 + _points(element)
        for name in _references(element):
            if name in by_id:
                total += cost(by_id[name], depth + 1, chain + 1)
        for part in element:
            total += cost(part, depth + 1, chain)
        under_way.discard(element)
        known[element] = min(total, MOST_COST * 10)
        return known[element]

    if cost(root, 0, 0) > MOST_COST:
        raise SvgError(f"This SVG file would draw more than {MOST_COST} shapes and points. Simplify it.")


def _points(element: Any) -> int:
    """Points of a shape, about: half of its numbers."""
    return sum(len(_NUMBERS.findall(element.get(name, ""))) // 2 for name in ("d", "points"))


def _references(element: Any) -> set[str]:
    result = {reference_of(element)} if reference_of(element) else set()
    for name, value in element.attrib.items():
        if "url(" in value and name != "clip-rule":
            result |= {reference.strip() for reference in _REFERENCE.findall(value)}
    return result
