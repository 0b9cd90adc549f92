"""SVG files as pictures: read safely, drawn at any size. Nothing in them is run, fetched or followed."""

from __future__ import annotations

import re
from functools import lru_cache
from pathlib import Path
from typing import Any
from xml.etree import ElementTree
from xml.parsers import expat

import numpy as np
import skia

from velvetdrum.picture.canvas import Pixels

LARGEST_FILE = 4_000_000
MOST_ELEMENTS = 50_000
_DEEPEST = 200
_RUNS = {"script", "foreignobject", "iframe", "embed", "object", "handler", "listener"}
_LENGTH = re.compile(r"\s*(\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?\s*(px|pt|mm|cm|in|em|%)?\s*$")
_URL = re.compile(r"url\(\s*['\"]?\s*(?!#)", re.IGNORECASE)
_RULE = re.compile(r"([^{}]+)\{([^{}]*)\}")
# The drawing library knows SVG's elements by their plain names.
ElementTree.register_namespace("", "http://www.w3.org/2000/svg")
ElementTree.register_namespace("xlink", "http://www.w3.org/1999/xlink")

_PIXELS = {"px": 1.0, "": 1.0, "pt": 4 / 3, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "em": 16.0}


class SvgError(ValueError):
    """An SVG file that cannot be used. The text is a sentence for the person who brought it."""


def looks_like_svg(data: bytes) -> bool:
    """True for text that could be SVG; what it is says `parse_svg`."""
    head = data[:1024].lstrip(b"\xef\xbb\xbf \t\r\n")
    return head[:1] == b"<" or head[:4] in (b"\xff\xfe<\x00", b"\xfe\xff\x00<")


def parse_svg(data: bytes, *, drawn: bool = True) -> Any:
    """The root element of an SVG file. Raises SvgError for what is none, and for all that would grow without bounds:
    document types, entities, endless nesting. A file that is to be `drawn` may have nothing in it either that would run
    or lead outside: scripts, references to elsewhere."""
    if len(data) > LARGEST_FILE:
        raise SvgError("This SVG file is larger than 4 MB; save it without embedded pictures.")
    _guard(data, drawn)
    try:
        root = ElementTree.fromstring(data)
    except (ElementTree.ParseError, ValueError, LookupError) as problem:
        raise SvgError("This is no SVG file: it is not well-formed XML.") from problem
    if local_name(root) != "svg":
        raise SvgError("This is no SVG file: its first element is not svg.")
    return root


def local_name(element: Any) -> str:
    """An element's name without its namespace; empty for comments."""
    return element.tag.split("}")[-1] if isinstance(element.tag, str) else ""


def _guard(data: bytes, drawn: bool) -> None:
    """Read a file event by event, before any of it is kept, and stop at the first thing that must not be in it."""
    depth = count = 0

    def doctype(*_: Any) -> None:
        raise SvgError("This SVG file declares entities or a document type, which is not read. Save it as plain SVG.")

    def start(name: str, attributes: dict[str, str]) -> None:
        nonlocal depth, count
        depth, count = depth + 1, count + 1
        if depth > _DEEPEST or count > MOST_ELEMENTS:
            raise SvgError(f"This SVG file has more than {MOST_ELEMENTS} elements, or nests too deep. Simplify it.")
        if not drawn:
            return
        if name.split(":")[-1].lower() in _RUNS:
            raise SvgError("This SVG file has a script or a foreign part in it, which is never run. Save it plain.")
        for key, value in attributes.items():
            _guard_attribute(key.split(":")[-1].lower(), value)

    def end(_: str) -> None:
        nonlocal depth
        depth -= 1

    def words(text: str) -> None:
        if (drawn and "@import" in text) or (drawn and _URL.search(text)):
            raise SvgError("This SVG file refers to something outside of itself. Save it with all its parts inside.")

    parser = expat.ParserCreate()
    parser.StartDoctypeDeclHandler = doctype
    parser.EntityDeclHandler = doctype
    parser.StartElementHandler = start
    parser.EndElementHandler = end
    parser.CharacterDataHandler = words
    parser.buffer_text = True
    try:
        parser.Parse(data, True)
    except (expat.ExpatError, ValueError, LookupError) as problem:
        if isinstance(problem, SvgError):
            raise
        raise SvgError("This is no SVG file: it is not well-formed XML.") from problem


def _guard_attribute(name: str, value: str) -> None:
    if name.startswith("on"):
        raise SvgError("This SVG file has a script in it, which is never run. Save it as plain SVG.")
    inside = value.strip().startswith("#") or value.strip().lower().startswith("data:image/")
    if (name in ("href", "src") and value.strip() and not inside) or _URL.search(value):
        raise SvgError("This SVG file refers to something outside of itself. Save it with all its parts inside.")


def check_svg(data: bytes) -> tuple[float, float]:
    """Width and height of an SVG picture in its own units. Raises SvgError."""
    root = parse_svg(data)
    for element in root.iter():
        if local_name(element) in ("image", "text"):
            what = "an embedded picture" if local_name(element) == "image" else "text"
            raise SvgError(f"This SVG file has {what} in it, which is not drawn. Turn it into paths and save it.")
    width, height = _view(root)[2:]
    if not (1e-3 <= width <= 1e6 and 1e-3 <= height <= 1e6):
        raise SvgError("This SVG file does not say how large it is: it has no viewBox, and no width and height.")
    _dom(root)
    return width, height


def _dom(root: Any) -> skia.SVGDOM:
    dom = skia.SVGDOM.MakeFromStream(skia.MemoryStream.MakeCopy(_plain(root)))
    if dom is None:
        raise SvgError("This SVG file can't be drawn; save it as plain SVG.")
    return dom


def _view(root: Any) -> tuple[float, float, float, float]:
    """The viewBox, or a box of the stated size: left, top, width, height."""
    numbers = re.findall(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", root.get("viewBox", ""))
    if len(numbers) == 4:
        left, top, width, height = (float(number) for number in numbers)
        return left, top, width, height
    sides = []
    for name in ("width", "height"):
        found = _LENGTH.match(root.get(name, ""))
        sides.append(float(found[1]) * _PIXELS.get(found[2] or "", 0.0) if found else 0.0)
    return 0.0, 0.0, sides[0], sides[1]


def _plain(root: Any) -> bytes:
    """The file as the drawing library reads it: simple style sheets written into the elements that they style, and the
    size left to whoever draws it."""
    rules: list[tuple[str, str]] = []
    for element in root.iter():
        if local_name(element) == "style":
            text = re.sub(r"/\*.*?\*/", "", element.text or "", flags=re.DOTALL)
            for selectors, body in _RULE.findall(text):
                rules += [(selector.strip(), body.strip()) for selector in selectors.split(",")]
    for element in root.iter():
        names = {f".{name}" for name in element.get("class", "").split()} | {
            local_name(element),
            f"#{element.get('id')}",
        }
        styles = [body for selector, body in rules if selector in names]
        if styles:
            element.set("style", ";".join([*styles, element.get("style", "")]))
    left, top, width, height = _view(root)
    root.set("viewBox", f"{left} {top} {width} {height}")
    for name in ("width", "height"):
        root.attrib.pop(name, None)
    return ElementTree.tostring(root)


@lru_cache(maxsize=8)
def _opened(path: str) -> tuple[skia.SVGDOM, float, float]:
    data = Path(path).read_bytes()
    width, height = check_svg(data)
    dom = _dom(parse_svg(data))
    dom.setContainerSize(skia.Size(width, height))
    return dom, width, height


def svg_size(path: str) -> tuple[float, float]:
    """Width and height of a stored SVG picture in its own units. Raises SvgError and OSError."""
    _, width, height = _opened(path)
    return width, height


@lru_cache(maxsize=12)
def svg_pixels(path: str, width: int, height: int) -> Pixels:
    """A stored SVG picture at a size in pixels, premultiplied BGRA; not to be written to. Raises SvgError."""
    dom, own_width, own_height = _opened(path)
    pixels = np.zeros((height, width, 4), np.uint8)
    surface = skia.Surface(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
    drawn = surface.getCanvas()
    drawn.scale(width / own_width, height / own_height)
    dom.render(drawn)
    surface.flushAndSubmit()
    return pixels
