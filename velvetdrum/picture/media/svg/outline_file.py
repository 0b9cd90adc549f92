"""The shapes of an SVG file as path data. Only geometry is read: nothing in the file is run, fetched or followed."""

from __future__ import annotations

import re
from typing import Any

from fontTools.misc.transform import Transform
from fontTools.pens.basePen import BasePen
from fontTools.pens.transformPen import TransformPen
from fontTools.svgLib.path import parse_path

from velvetdrum.picture.media.svg.parser import SvgError, local_name, parse_svg
from velvetdrum.picture.outlines.paths import PathError, path_outline

_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_CALL = re.compile(r"(\w+)\s*\(([^)]*)\)")
_UNDRAWN = {"defs", "clipPath", "mask", "symbol", "marker", "pattern", "metadata", "script", "style", "title", "desc"}
_DEEPEST = 64


def svg_path_data(file: bytes, part: str = "") -> str:
    """All outlines of an SVG file, or those of an element by its id, as one string of path data, in its user units.
    Raises PathError.

    Paths, rectangles, circles, ellipses, lines, polylines and polygons are read, with the transforms of their groups.
    """
    try:
        root = parse_svg(file, drawn=False)
    except SvgError as problem:
        raise PathError(str(problem)) from problem
    pen = _DataPen()
    try:
        _draw(root, Transform(), pen, 0, part)
    except Exception as problem:
        raise PathError("A shape of this SVG file could not be read; turn its shapes into paths first.") from problem
    data = "".join(pen.written)
    if not pen.drawn:
        raise PathError("This SVG file has no shapes. Text must be turned into paths first.")
    path_outline(data)
    return data


def _draw(element: Any, above: Transform, pen: _DataPen, depth: int, part: str) -> None:
    if local_name(element) in _UNDRAWN or element.get("display") == "none" or depth > _DEEPEST:
        return
    here = above.transform(_transform(element.get("transform", "")))
    inside = not part or element.get("id") == part
    data = _data(element) if inside else ""
    if data:
        parse_path(data, TransformPen(pen, here))
    for child in element:
        _draw(child, here, pen, depth + 1, "" if inside else part)


def _data(element: Any) -> str:
    """Path data of a shape; empty for all else."""

    def read(name: str) -> float:
        result = _NUMBER.match(element.get(name, "0").strip())
        return float(result[0]) if result else 0.0

    match local_name(element):
        case "path":
            return str(element.get("d", ""))
        case "rect":
            return _rectangle(read("x"), read("y"), read("width"), read("height"), read("rx") or read("ry"))
        case "circle" | "ellipse" as kind:
            rx, ry = (read("r"), read("r")) if kind == "circle" else (read("rx"), read("ry"))
            x, y = read("cx"), read("cy")
            return f"M{x - rx} {y}A{rx} {ry} 0 0 1 {x + rx} {y}A{rx} {ry} 0 0 1 {x - rx} {y}Z" if rx and ry else ""
        case "line":
            return f"M{read('x1')} {read('y1')}L{read('x2')} {read('y2')}"
        case "polyline" | "polygon" as kind:
            numbers = _NUMBER.findall(element.get("points", ""))
            return "M" + " ".join(numbers) + ("Z" if kind == "polygon" else "") if len(numbers) > 3 else ""
    return ""


def _rectangle(x: float, y: float, width: float, height: float, radius: float) -> str:
    if width <= 0 or height <= 0:
        return ""
    r = min(radius, width / 2, height / 2)
    if r <= 0:
        return f"M{x} {y}h{width}v{height}h{-width}Z"
    across, down = width - 2 * r, height - 2 * r
    return (
        f"M{x + r} {y}h{across}a{r} {r} 0 0 1 {r} {r}v{down}a{r} {r} 0 0 1 {-r} {r}"
        f"h{-across}a{r} {r} 0 0 1 {-r} {-r}v{-down}a{r} {r} 0 0 1 {r} {-r}Z"
    )


def _transform(text: str) -> Transform:
    """The transform list of CSS Transforms 1, section 9, as one matrix."""
    out = Transform()
    for name, inside in _CALL.findall(text):
        values = [float(value) for value in _NUMBER.findall(inside)]
        match name, values:
            case "matrix", [_, _, _, _, _, _]:
                out = out.transform(tuple(values))
            case "translate", [x, *y]:
                out = out.translate(x, y[0] if y else 0.0)
            case "scale", [x, *y]:
                out = out.scale(x, y[0] if y else x)
            case "rotate", [angle, *centre]:
                over, down = centre if len(centre) == 2 else (0.0, 0.0)
                out = out.translate(over, down).rotate(_radians(angle)).translate(-over, -down)
            case "skewX", [angle]:
                out = out.skew(_radians(angle), 0.0)
            case "skewY", [angle]:
                out = out.skew(0.0, _radians(angle))
            case _:
                raise ValueError(f"transform {name}")
    return out


def _radians(degrees: float) -> float:
    return degrees * 3.141592653589793 / 180.0


class _DataPen(BasePen):
    """Writes what is drawn with it as absolute SVG path data."""

    def __init__(self) -> None:
        super().__init__(None)
        self.written: list[str] = []
        self.drawn = False

    def _put(self, letter: str, *points: Any) -> None:
        self.written.append(letter + " ".join(f"{x:.6g} {y:.6g}" for x, y in points))

    def _moveTo(self, point: Any) -> None:
        self._put("M", point)

    def _lineTo(self, point: Any) -> None:
        self.drawn = True
        self._put("L", point)

    def _curveToOne(self, first: Any, second: Any, point: Any) -> None:
        self.drawn = True
        self._put("C", first, second, point)

    def _closePath(self) -> None:
        self.written.append("Z")

    def _endPath(self) -> None:
        pass
