"""SVG files drawn at any size, with their text and the pictures in them."""

from __future__ import annotations

import base64
import binascii
import copy
import re
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any
from urllib.parse import unquote_to_bytes
from xml.etree import ElementTree

import numpy as np
import skia

from velvetdrum.limits.cache import cached
from velvetdrum.picture.media.picture_decoder import PictureError, decoded, opened_picture
from velvetdrum.picture.media.svg.outline_file import svg_path_data
from velvetdrum.picture.media.svg.parser import SvgError, local_name, looks_like_svg, parse_svg
from velvetdrum.picture.media.svg.styles import write_styles
from velvetdrum.picture.media.svg.text import draw_texts
from velvetdrum.picture.raster.areas import Pixels

__all__ = ["SvgError", "SvgFacts", "check_svg", "looks_like_svg", "svg_pixels", "svg_size"]

MOST_PICTURES = 24
MOST_PARTS = 60
_MOST_PICTURE_PIXELS = 40_000_000
_TRIED_AT = 512
_DRAWN = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "use", "image"}
_UNDRAWN = {"defs", "clipPath", "mask", "symbol", "marker", "pattern", "filter", "linearGradient", "radialGradient"}
_LENGTH = re.compile(r"\s*(\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?\s*(px|pt|mm|cm|in|em|%)?\s*$")
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_PIXELS = {"px": 1.0, "": 1.0, "pt": 4 / 3, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "em": 16.0}
_STROKE = ("stroke", "stroke-width")
_XLINK = "{http://www.w3.org/1999/xlink}href"


@dataclass(frozen=True)
class SvgFacts:
    """The size of an SVG picture in its own units, and sentences about what is not shown as it was asked for."""

    width: float
    height: float
    notes: tuple[str, ...] = ()


class Drawing:
    """An SVG file ready to be drawn."""

    def __init__(self, data: bytes, part: str = "") -> None:
        """`part`: the id of what alone is drawn, where it stands; empty for all. Raises SvgError."""
        root = parse_svg(data)
        self.left, self.top, self.width, self.height = _view(root)
        if not (1e-3 <= self.width <= 1e6 and 1e-3 <= self.height <= 1e6):
            raise SvgError("This SVG file does not say how large it is: it has no viewBox, and no width and height.")
        write_styles(root)
        notes = draw_texts(root).sentences()
        root.set("viewBox", f"{self.left} {self.top} {self.width} {self.height}")
        for name in ("width", "height"):
            root.attrib.pop(name, None)
        if part:
            root = _alone(root, part)
        self.stages = _stages(root, notes)
        self.facts = SvgFacts(self.width, self.height, tuple(notes))

    def pixels(self, width: int, height: int) -> Pixels:
        """The picture at a size in pixels, premultiplied BGRA."""
        pixels = np.zeros((height, width, 4), np.uint8)
        surface = skia.Surface(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
        for stage in self.stages:
            stage.draw(surface.getCanvas(), self, width, height)
        surface.flushAndSubmit()
        return pixels

    def render(self, canvas: skia.Canvas, dom: skia.SVGDOM, width: int, height: int) -> None:
        """Render a document of this size into a box of pixels."""
        dom.setContainerSize(skia.Size(self.width, self.height))
        canvas.save()
        canvas.scale(width / self.width, height / self.height)
        dom.render(canvas)
        canvas.restore()


@dataclass
class _Shapes:
    """A part of a file that the drawing library draws by itself."""

    dom: skia.SVGDOM

    def draw(self, canvas: skia.Canvas, drawing: Drawing, width: int, height: int) -> None:
        drawing.render(canvas, self.dom, width, height)


@dataclass
class _Embedded:
    """A picture in a file. The drawing library leaves those out: it draws the box of it (with all that clips, masks and
    fades it) in plain colour, and the picture is laid into what that covers."""

    cover: skia.SVGDOM
    picture: Pixels
    box: tuple[float, float, float, float]
    matrix: skia.Matrix

    def draw(self, canvas: skia.Canvas, drawing: Drawing, width: int, height: int) -> None:
        whole = skia.Rect.MakeWH(width, height)
        canvas.saveLayer(whole)
        canvas.save()
        canvas.scale(width / drawing.width, height / drawing.height)
        canvas.translate(-drawing.left, -drawing.top)
        canvas.concat(self.matrix)
        image = skia.Image.fromarray(self.picture, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
        left, top, across, down = self.box
        sampling = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
        canvas.drawImageRect(image, skia.Rect.MakeXYWH(left, top, across, down), sampling)
        canvas.restore()
        canvas.saveLayer(whole, skia.Paint(BlendMode=skia.BlendMode.kDstIn))
        drawing.render(canvas, self.cover, width, height)
        canvas.restore()
        canvas.restore()


def check_svg(data: bytes) -> SvgFacts:
    """What an SVG picture is, after it was drawn once at a middling size. Raises SvgError."""
    drawing = Drawing(data)
    scale = _TRIED_AT / max(drawing.width, drawing.height)
    drawing.pixels(max(round(drawing.width * scale), 1), max(round(drawing.height * scale), 1))
    return drawing.facts


def _stages(root: Any, notes: list[str]) -> list[_Shapes | _Embedded]:
    """The file as parts that are drawn one after the other: shapes, a picture, shapes, and so on."""
    order = [element for element in _shown(root) if local_name(element) in _DRAWN]
    images = [element for element in order if local_name(element) == "image"]
    hidden = sum(local_name(element) == "image" for element in root.iter()) - len(images)
    if hidden:
        notes.append("A picture in a pattern, a symbol or a mask of this file is not drawn; put it on the page itself.")
    if len(images) > MOST_PICTURES:
        raise SvgError(f"This SVG file has {len(images)} pictures in it; up to {MOST_PICTURES} are drawn.")
    if not images:
        return [_Shapes(_dom(root))]
    stages: list[_Shapes | _Embedded] = []
    numbers = {element: number for number, element in enumerate(order)}
    cuts = [-1, *(numbers[image] for image in images), len(order)]
    total = 0
    for begin, end in pairwise(cuts):
        if begin >= 0:
            embedded, count = _embedded(root, order, begin)
            total += count
            if total > _MOST_PICTURE_PIXELS:
                raise SvgError(
                    "The pictures in this SVG file have more than 40 million pixels in all. Make them smaller."
                )
            stages.append(embedded)
        if end - begin > 1:
            stages.append(_Shapes(_dom(_only(root, order, range(begin + 1, end)))))
    return stages


def _embedded(root: Any, order: list[Any], number: int) -> tuple[_Embedded, int]:
    element = order[number]
    picture = _picture_of(element)
    numbers = [_number(element.get(name, "0")) for name in ("x", "y", "width", "height")]
    own = (float(picture.shape[1]), float(picture.shape[0]))
    x, y, width, height = numbers[0], numbers[1], numbers[2] or own[0], numbers[3] or own[1]
    box = _fitted_box((x, y, width, height), own, element.get("preserveAspectRatio", ""))
    cached = _only(root, order, range(number, number + 1))
    for image in cached.iter():
        if local_name(image) == "image" and image.get("data-drawn"):
            image.tag = f"{{{image.tag[1:].split('}')[0]}}}rect" if image.tag.startswith("{") else "rect"
            for name, value in (("x", x), ("y", y), ("width", width), ("height", height), ("fill", "#fff")):
                image.set(name, str(value))
            for name in ("href", _XLINK, "preserveAspectRatio", "style"):
                image.attrib.pop(name, None)
            if "style" in element.attrib:
                image.set("style", f"{element.get('style')};fill:#fff")
    above = {child: parent for parent in root.iter() for child in parent}
    matrix, at = skia.Matrix(), element
    while at is not None:
        matrix.postConcat(_matrix(at.get("transform", "")))
        at = above.get(at)
    return _Embedded(_dom(cached), picture, box, matrix), picture.shape[0] * picture.shape[1]


def _fitted_box(
    box: tuple[float, float, float, float], own: tuple[float, float], how: str
) -> tuple[float, float, float, float]:
    """Where a picture lies in its box (SVG 2, 8.7): whole and in the middle where nothing else is asked for."""
    x, y, width, height = box
    words = how.split() or ["xMidYMid"]
    if words[0] == "none":
        return box
    scales = (width / own[0], height / own[1])
    scale = max(scales) if "slice" in words else min(scales)
    shares = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    across = shares.get(words[0][1:4], 0.5) if len(words[0]) >= 8 else 0.5
    down = shares.get(words[0][5:8], 0.5) if len(words[0]) >= 8 else 0.5
    return (x + (width - own[0] * scale) * across, y + (height - own[1] * scale) * down, own[0] * scale, own[1] * scale)


def _picture_of(element: Any) -> Pixels:
    """The pixels of the data that an image element holds. Raises SvgError."""
    href = (element.get("href") or element.get(_XLINK) or "").strip()
    head, mark, body = href.partition(",")
    if not mark or not head.lower().startswith("data:image/"):
        raise SvgError("A picture in this SVG file is empty. Save it with all its parts inside.")
    try:
        data = base64.b64decode(body, validate=False) if ";base64" in head.lower() else unquote_to_bytes(body)
        with opened_picture(data) as result:
            if result.format not in ("PNG", "JPEG", "MPO", "WEBP", "GIF"):
                raise SvgError("A picture in this SVG file is none that can be read.")
            if result.size[0] * result.size[1] > _MOST_PICTURE_PIXELS:
                raise SvgError("A picture in this SVG file has more than 40 million pixels. Make it smaller.")
        return decoded(data)
    except (PictureError, binascii.Error, ValueError) as problem:
        if isinstance(problem, SvgError):
            raise
        raise SvgError(
            "A picture in this SVG file is damaged, or none that can be read (PNG, JPEG, WebP)."
        ) from problem


def _alone(root: Any, part: str) -> Any:
    """A copy of a file in which only what stands in an element is shown."""
    wanted = next((element for element in root.iter() if element.get("id") == part), None)
    if wanted is None:
        raise SvgError(f"This SVG file has no part called “{part[:60]}” any more; choose another.")
    order = [element for element in _shown(root) if local_name(element) in _DRAWN]
    within = {id(element) for element in wanted.iter()}
    places = [number for number, element in enumerate(order) if id(element) in within]
    return _only(root, order, range(places[0], places[-1] + 1) if places else range(0))


def _named_parts(root: Any) -> list[tuple[str, str]]:
    container = root
    while True:
        drawn = [child for child in container if any(local_name(element) in _DRAWN for element in _shown(child))]
        # A page is often one group that holds all others.
        if len(drawn) != 1 or not len(drawn[0]):
            break
        container = drawn[0]
    labels = [next((value for name, value in child.items() if name.endswith("}label")), "") for child in drawn]
    return [
        (child.get("id", ""), label or child.get("id", ""))
        for child, label in zip(drawn, labels, strict=True)
        if child.get("id")
    ][:MOST_PARTS]


def _shown(element: Any) -> list[Any]:
    """The elements of a file that are drawn where they stand, in their order."""
    if local_name(element) in _UNDRAWN:
        return []
    out = [element]
    for part in element:
        out += _shown(part)
    return out


def _only(root: Any, order: list[Any], wanted: range) -> Any:
    """A copy of a file in which only some of what is drawn is shown."""
    for number, element in enumerate(order):
        if number not in wanted:
            element.set("data-hidden", "1")
        elif local_name(element) == "image":
            element.set("data-drawn", "1")
    made = copy.deepcopy(root)
    for element in order:
        element.attrib.pop("data-hidden", None)
        element.attrib.pop("data-drawn", None)
    for parent in list(made.iter()):
        for part in list(parent):
            if part.get("data-hidden"):
                # What others refer to must stay; it is moved out of sight.
                part.attrib.pop("data-hidden")
                parent.remove(part)
                if part.get("id"):
                    made.append(_aside(part))
    return made


def _aside(element: Any) -> Any:
    holder = ElementTree.Element(f"{{{element.tag[1:].split('}')[0]}}}defs" if element.tag.startswith("{") else "defs")
    holder.append(element)
    return holder


def _matrix(text: str) -> skia.Matrix:
    """A transform attribute as a matrix (CSS Transforms 1, 8)."""
    out = skia.Matrix()
    for name, inner in re.findall(r"(\w+)\s*\(([^()]*)\)", text):
        numbers = [float(value) for value in _NUMBER.findall(inner)]
        step = skia.Matrix()
        match name, len(numbers):
            case "matrix", 6:
                a, b, c, d, e, f = numbers
                step = skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1)
            case "translate", 1 | 2:
                step.setTranslate(numbers[0], numbers[1] if len(numbers) > 1 else 0.0)
            case "scale", 1 | 2:
                step.setScale(numbers[0], numbers[-1])
            case "rotate", 1:
                step.setRotate(numbers[0])
            case "rotate", 3:
                step.setRotate(numbers[0], numbers[1], numbers[2])
            case "skewX", 1:
                step.setSkew(float(np.tan(np.deg2rad(numbers[0]))), 0.0)
            case "skewY", 1:
                step.setSkew(0.0, float(np.tan(np.deg2rad(numbers[0]))))
        out.preConcat(step)
    return out


def _dom(root: Any) -> skia.SVGDOM:
    dom = skia.SVGDOM.MakeFromStream(skia.MemoryStream.MakeCopy(ElementTree.tostring(root)))
    if dom is None:
        raise SvgError("This SVG file can't be drawn; save it as plain SVG.")
    return dom


def _number(text: str) -> float:
    result = _NUMBER.match(text.strip())
    value = float(result[0]) if result else 0.0
    return value if abs(value) < 1e6 else 0.0


def _view(root: Any) -> tuple[float, float, float, float]:
    """The viewBox, or a box of the stated size: left, top, width, height."""
    numbers = _NUMBER.findall(root.get("viewBox", "")[:200])
    if len(numbers) == 4:
        left, top, width, height = (float(number) for number in numbers)
        return left, top, width, height
    sides = []
    for name in ("width", "height"):
        result = _LENGTH.match(root.get(name, "")[:60])
        sides.append(float(result[1]) * _PIXELS.get(result[2] or "", 0.0) if result else 0.0)
    return 0.0, 0.0, sides[0], sides[1]


@cached
def _opened(path: str, part: str = "") -> Drawing:
    return Drawing(Path(path).read_bytes(), part)


def svg_size(path: str) -> tuple[float, float]:
    """Width and height of a stored SVG picture in its own units. Raises SvgError and OSError."""
    drawing = _opened(path)
    return drawing.width, drawing.height


@cached
def svg_pixels(path: str, width: int, height: int, part: str = "") -> Pixels:
    """A stored SVG picture, or a part of it where it stands, at a size of all of it in pixels, premultiplied BGRA; not
    to be written to. Raises SvgError."""
    return _opened(path, part).pixels(width, height)


@cached
def svg_outlines(path: str, part: str = "") -> tuple[str, tuple[float, float, float, float]]:
    """All outlines of a stored SVG picture, or of a part of it, as path data, and the left, top, right and bottom of
    the whole drawing, both in its own units. Raises PathError, SvgError and OSError."""
    drawing = _opened(path)
    box = drawing.left, drawing.top, drawing.left + drawing.width, drawing.top + drawing.height
    return svg_path_data(Path(path).read_bytes(), part), box


@cached
def svg_stroke(path: str, part: str) -> float:
    """The width of the first stroke of a part of a stored SVG picture, of the longer side of the whole drawing; 0 where
    nothing of it is stroked. Raises SvgError and OSError."""
    root = parse_svg(Path(path).read_bytes())
    write_styles(root)
    width, height = _view(root)[2:]
    wanted = next((element for element in root.iter() if element.get("id") == part), None)
    if wanted is None:
        return 0.0
    above = {child: parent for parent in root.iter() for child in parent}
    for element in wanted.iter():
        line = [element]
        while line[-1] in above:
            line.append(above[line[-1]])
        paint, wide = (next((v for v in (_declared(at, name) for at in line) if v), "") for name in _STROKE)
        if local_name(element) in _DRAWN and paint not in ("", "none"):
            scale = 1.0
            for at in line:
                matrix = _matrix(at.get("transform", ""))
                area = matrix.getScaleX() * matrix.getScaleY() - matrix.getSkewX() * matrix.getSkewY()
                scale *= float(np.sqrt(abs(area)))
            return (_number(wide) if wide else 1.0) * scale / max(width, height)
    return 0.0


def _declared(element: Any, name: str) -> str:
    """What an element says of a property, in its style or as an attribute; empty where it says nothing."""
    style = dict(pair.split(":", 1) for pair in element.get("style", "").split(";") if ":" in pair)
    inside = {key.strip(): value.strip() for key, value in style.items()}
    return str(inside.get(name) or element.get(name, "")).strip()


@cached
def svg_parts(path: str) -> tuple[tuple[str, str], ...]:
    """The parts of a stored SVG picture that may be shown apart, the hindmost first: the id and the name of each group
    or shape of its page that has an id. Raises SvgError and OSError."""
    return tuple(_named_parts(parse_svg(Path(path).read_bytes())))
