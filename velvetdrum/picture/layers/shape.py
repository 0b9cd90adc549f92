"""A shape: a rectangle, an ellipse, a star and so on, filled, stroked or both; its stroke can be drawn on."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, colour, flag, number, path_data, whole
from velvetdrum.declare.vocabulary import degrees, percent, position_x, position_y
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import Ground, PathRun, base_outline, bounds, path_problem
from velvetdrum.picture.figures.marks.marks import Areas, Strokes
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.figures.paint.fields import Reach
from velvetdrum.picture.figures.paint.paint import Painted
from velvetdrum.picture.outlines import curves
from velvetdrum.picture.outlines.outline import Outline, Piece
from velvetdrum.picture.outlines.paths import LONGEST_PATH
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import QUAY, Design, Sizing
from velvetdrum.scene.kinds import layer_kind

Values = NDArray[np.float64]

LANTERN = "M30 4h40l6 14H24zM28 22h44v6H28zM32 32h36l6 44H26zM22 80h56v10H22z"
_SIDED = ("rectangle", "ellipse")
_ROUND = ("ring", "polygon", "star")


@layer_kind("shape", "Shape")
class Shape(Painted):
    """A plain shape, filled, stroked or both; its stroke can run round."""

    drawn_path: ClassVar[str] = "path"
    drawn_on: ClassVar[str] = "draw_to"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("shape", "Ellipse", {}),
        Design("shape", "Rectangle", {"form": "rectangle", "width": 60.0, "corner": 4.0, "plain": "#5fc4b4"}),
        Design(
            "shape",
            "Running ring",
            {
                "form": "ellipse",
                "filled": False,
                "stroked": True,
                "stroke": 1.6,
                "draw_to": 70.0,
                "paint": "field",
                "field": "angular",
                "colours": QUAY,
                "width": 60.0,
                "height": 60.0,
            },
        ),
        Design("shape", "Star", {"form": "star", "sides": 8, "hole": 55.0, "plain": "#ff7a66"}),
        Design(
            "shape", "Dashed line", {"form": "line", "width": 130.0, "stroke": 0.8, "dash": 2.4, "plain": "#f4eadb"}
        ),
        Design("shape", "Lighthouse", {"form": "path", "size": 60.0, "plain": "#f0b866"}),
    )
    sizings: ClassVar[tuple[Sizing, ...]] = (
        Sizing(across=("width",), down=("height",), when=(("form", _SIDED), ("turn", (0,)))),
        Sizing(both=("radius",), when=(("form", _ROUND),)),
        Sizing(both=("size",), when=(("form", ("path",)),)),
    )

    first = ("form",)

    paint: str = choice(
        "one",
        {"one": "One colour", "along": "Along", "field": "Behind it", "time": "Over time"},
        label="Paint",
        group="colour",
        help="One colour; a gradient along the outline, fixed behind the whole, or over time.",
    )
    form: str = choice(
        "ellipse",
        {
            "rectangle": "Rectangle",
            "ellipse": "Ellipse",
            "ring": "Ring",
            "line": "Line",
            "polygon": "Polygon",
            "star": "Star",
            "path": "Path",
        },
        label="Shape",
        help="Shape that is drawn.",
    )
    x: float = position_x(50, of="the middle")
    y: float = position_y(50, of="the middle")
    width: float = number(
        40,
        lo=0.5,
        hi=300,
        unit="%",
        help="Width, as a share of the frame's short side.",
        when=("form", (*_SIDED, "line")),
    )
    height: float = number(
        40, lo=0.5, hi=300, unit="%", help="Height, as a share of the frame's short side.", when=("form", _SIDED)
    )
    corner: float = percent(
        0,
        label="Corner radius",
        help="Corner radius, as a share of the frame's short side.",
        when=("form", ("rectangle",)),
    )
    radius: float = number(
        24,
        lo=0.5,
        hi=150,
        unit="%",
        help="From the middle to the rim or the corners, of the frame's short side.",
        when=("form", _ROUND),
    )
    hole: float = number(
        60,
        lo=1,
        hi=99,
        unit="%",
        help="Inner radius, of the outer.",
        when=("form", ("ring", "star")),
        label="Inner radius",
    )
    sides: int = whole(
        6, lo=3, hi=24, help="Number of sides of a polygon, or of points of a star.", when=("form", ("polygon", "star"))
    )
    path: str = path_data(LANTERN, most=LONGEST_PATH, when=("form", ("path",)))
    size: float = number(
        40,
        lo=0.5,
        hi=300,
        unit="%",
        help="Longer side of the path, of the frame's short side.",
        when=("form", ("path",)),
    )
    turn: float = degrees(0, help="Turns it about its middle, clockwise.", label="Rotation")
    filled: bool = flag(True, label="Fill", help="Fills the shape with the paint.")
    fill_opacity: float = percent(
        100, step=1, label="Fill opacity", group="colour", help="How solid the fill is.", when=("filled", (True,))
    )
    stroked: bool = flag(False, label="Stroke", help="Draws the shape's outline.")
    stroke: float = number(
        1, lo=0.05, hi=20, unit="%", label="Stroke width", help="Stroke width, as a share of the frame's short side."
    )
    stroke_paint: bool = flag(
        True,
        label="Stroke takes the paint",
        group="colour",
        when=("stroked", (True,)),
        help="The stroke has the paint of the fill, or a colour of its own.",
    )
    stroke_colour: str = colour(
        "#f4eadb",
        label="Stroke colour",
        help="Colour of the stroke.",
        when=(("stroked", (True,)), ("stroke_paint", (False,))),
    )
    draw_from: float = number(
        0,
        lo=-200,
        hi=200,
        unit="%",
        label="Stroke start",
        when=("stroked", (True,)),
        help="Where along the outline the stroke begins.",
    )
    draw_to: float = number(
        100,
        lo=-200,
        hi=200,
        unit="%",
        label="Stroke end",
        when=("stroked", (True,)),
        help="Where along the outline it ends.",
    )
    dash: float = number(
        0,
        lo=0,
        hi=40,
        unit="%",
        label="Dash",
        when=("stroked", (True,)),
        advanced=True,
        help="Length of a dash, of the frame's short side; 0 draws through.",
    )
    dash_gap: float = number(
        50,
        lo=5,
        hi=95,
        unit="%",
        label="Dash gap",
        when=("stroked", (True,)),
        advanced=True,
        help="Empty part of each dash's place.",
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        result = super().check(values)
        return result + (path_problem(values["path"]) if values["form"] == "path" else [])

    @classmethod
    def stroked_path(cls, data: str, x: float, y: float, size: float, width: float, colour: str) -> dict[str, Any]:
        """Settings of a path that is a stroke alone: its middle in per cent of the frame, its longer side and the width
        of its stroke in per cent of the short side."""
        placed = {"form": "path", "path": data, "x": x, "y": y, "size": size}
        return placed | {"filled": False, "stroked": True, "stroke": width, "paint": "one", "plain": colour}

    @property
    def still(self) -> bool:
        return not self.changing

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self.extent(view, at).grown(2.0)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        """The shape as it is turned, with its stroke."""
        outline = _ground(self._outline(canvas), self.turn, canvas.x(self.x), canvas.y(self.y)).outline
        stroked = self.stroked or self.form == "line"
        return bounds(outline, self.stroke * canvas.short / 200 if stroked else 0.0)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        outline = self._outline(canvas)
        centre = (canvas.x(self.x), canvas.y(self.y))
        ground = _ground(outline, self.turn, *centre)
        ink = self.ink(canvas, float(at.time))
        points = np.concatenate([piece.points for piece in ground.outline.pieces])
        inside = float(np.hypot(*(points - centre).T).max())
        reach = Reach(ground, canvas.short * self.stroke / 100, inside)
        if self.filled and self.form != "line":
            filling = ink.fainter(self.fill_opacity / 100)
            paint_marks(canvas, [Areas([piece.points for piece in ground.outline.pieces], holes=True)], filling, reach)
        if self.stroked or self.form == "line":
            lines = self._strokes(canvas, ground.outline)
            inked = ink if self.stroke_paint else ink.in_one(self.stroke_colour)
            if lines:
                paint_marks(canvas, [Strokes(lines, self.stroke * canvas.short / 100)], inked, reach)

    def _outline(self, canvas: Viewport) -> Outline:
        short = canvas.short / 100
        key: tuple[Any, ...]
        match self.form:
            case "rectangle":
                key = (self.width * short, self.height * short, self.corner * short)
            case "ellipse":
                key = (self.width * short, self.height * short)
            case "ring":
                key = (self.radius * short, self.hole / 100)
            case "line":
                key = (self.width * short,)
            case "polygon":
                key = (self.radius * short, self.sides)
            case "star":
                key = (self.radius * short, self.sides, self.hole / 100)
            case _:
                key = (self.path, self.size * short)
        return _shaped(self.form, key)

    def _strokes(self, canvas: Viewport, outline: Outline) -> list[tuple[Values, bool]]:
        """The drawn-on part of each outline, in dashes where it has some."""
        begin, end = sorted((self.draw_from / 100, self.draw_to / 100))
        whole = end - begin >= 1.0
        lines: list[tuple[Values, bool]] = []
        for piece in outline.pieces:
            spans = [(0.0, 1.0)] if whole else [(begin, end)]
            if self.dash > 0:
                spans = self._dashes(canvas, piece, spans[0])
            elif whole:
                lines.append((piece.points, piece.closed))
                continue
            for low, high in spans:
                lines += _parts(piece, low, high)
        return lines

    def _dashes(self, canvas: Viewport, piece: Piece, span: tuple[float, float]) -> list[tuple[float, float]]:
        asked = self.dash * canvas.short / 100 / max(1 - self.dash_gap / 100, 0.05) / max(piece.length, 1e-6)
        # Round a closed shape the dashes come out even, so that none is cut at its start.
        step = 1.0 / max(round(1.0 / asked), 1) if piece.closed and asked < 1 else asked
        low, high = span
        first, last = int(np.floor(low / step)), int(np.ceil(high / step))
        share = 1 - self.dash_gap / 100
        result = [(max(n * step, low), min((n + share) * step, high)) for n in range(first, min(last, first + 2000))]
        return [(start, stop) for start, stop in result if stop - start > 1e-6]


def _parts(piece: Piece, low: float, high: float) -> list[tuple[Values, bool]]:
    """A stretch of a piece from place to place as lines; round a closed piece it goes on past the start."""
    out = []
    spans = [(low, high)]
    if piece.closed:
        base = np.floor(low)
        low, high = low - base, high - base
        spans = [(low, min(high, 1.0)), (0.0, high - 1.0)] if high > 1.0 else [(low, high)]
    for start, stop in spans:
        start, stop = max(start, 0.0), min(stop, 1.0)
        if stop - start < 1e-9:
            continue
        inside = piece.along[(piece.along > start * piece.length) & (piece.along < stop * piece.length)]
        way = np.concatenate([[start * piece.length], inside, [stop * piece.length]])
        out.append((piece.at(way)[0], False))
    if len(out) == 2:
        # One line over the start, so that there is no seam.
        out = [(np.concatenate([out[0][0], out[1][0]]), False)]
    return out


@cached
def _shaped(form: str, key: tuple[Any, ...]) -> Outline:
    match form:
        case "ellipse":
            width, height = key
            return curves.ellipse(width, height, curves.filled_steps(max(width, height)))
        case "ring":
            steps = curves.filled_steps(key[0])
            inner = curves.ring(key[0] * key[1], steps).pieces[0]
            return Outline((*curves.ring(key[0], steps).pieces, replace(inner, side=-1.0)))
        case "star":
            return curves.star(*key)
        case _:
            return base_outline(form, key)


@cached
def _ground(outline: Outline, turn: float, x: float, y: float) -> Ground:
    return Ground(outline.moved(turn, x, y), PathRun(0.0, False, False, 1), 1.0, None, (x, y))
