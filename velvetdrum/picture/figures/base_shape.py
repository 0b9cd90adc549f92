"""Base shapes as settings: which curve a figure stands on, where it is, and how the figure runs along it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, flag, number, path_data, text, whole
from velvetdrum.declare.vocabulary import degrees, percent, position_x, position_y
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.outlines import curves
from velvetdrum.picture.outlines.outline import Outline, Points
from velvetdrum.picture.outlines.paths import LONGEST_PATH, PathError, fitted, path_outline
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.typesetting.shaping import TYPEFACES, text_outline

BASES = {
    "line": "Line",
    "ring": "Ring",
    "arc": "Arc",
    "polygon": "Polygon",
    "rectangle": "Rectangle",
    "path": "Path",
    "text": "Text",
}
"""The base shapes, by what projects store."""

WAVE_PATH = "M0 40C20 0 40 0 60 40S100 80 120 40 160 0 180 40"


@dataclass(frozen=True)
class PathRun:
    """How a figure runs along its base shape: from `start` (a share of the way), backwards, there and back, and how
    often around."""

    start: float
    reverse: bool
    mirror: bool
    repeat: int
    middle: bool = False
    """Of one that is mirrored: it runs from the middle to both ends, in place of from the ends."""
    opposite: bool = False
    """Of one that is mirrored: the second half grows the other way."""

    def figure_place(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        """Place in the figure, 0 to 1, at places along the base shape, 0 to 1."""
        result = places - self.start
        result = result - np.floor(result)
        if self.reverse:
            result = 1.0 - result
        result = result * self.repeat
        result = np.where(result >= self.repeat, 1.0, result - np.floor(result))
        if not self.mirror:
            return result
        away = np.abs(2.0 * result - 1.0)
        return away if self.middle else 1.0 - away

    def turned(self, places: NDArray[np.float64]) -> NDArray[np.bool_]:
        """Where along the base shape a figure grows the other way."""
        if not (self.mirror and self.opposite):
            return np.zeros(len(places), bool)
        way = np.mod(places - self.start, 1.0)
        # The very end of the shape is not its beginning.
        way = np.where((places >= 1.0) & (way == 0.0), np.nextafter(1.0, 0.0), way)
        return np.mod((1.0 - way if self.reverse else way) * self.repeat, 1.0) >= 0.5

    def places(self, within: NDArray[np.float64]) -> NDArray[np.float64]:
        """Places along the base shape of places in the figure (0 to 1), each as often as the figure comes there: all of
        them once for every turn, in the order of the turns. The way back of `figure_place`."""
        parts: list[NDArray[np.float64]] = []
        if self.middle:
            within = 1.0 - within
        for turn in range(self.repeat):
            parts += [turn + within / 2, turn + 1 - within / 2] if self.mirror else [turn + within]
        along = np.concatenate(parts) / self.repeat
        result = (1.0 - along if self.reverse else along) + self.start
        # The very end of the shape is not its beginning.
        return np.where(result == 1.0, 1.0, result - np.floor(result))

    def spots(self, count: int, *, halves: bool = False) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
        """Even places along the base shape for `count` values, and which value stands at each, in the order of the
        way. `halves`: there are 2 x `count` values, the first `count` for the first half."""
        return _spots(self, count, halves)


@cached
def _spots(run: PathRun, count: int, halves: bool) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    once = np.arange(count)
    if halves:
        other = once[::-1]
        if run.mirror:
            once = np.concatenate([other, count + once] if run.middle else [once, count + other])
        else:
            once = np.concatenate([once, count + once])
    elif run.mirror:
        once = np.concatenate([once[::-1], once] if run.middle else [once, once[::-1]])
    indices = np.tile(once, run.repeat)
    total = len(indices)
    places = (np.arange(total) + 0.5) / total
    if run.reverse:
        places = 1.0 - places
    places = places + run.start
    places = places - np.floor(places)
    order = np.argsort(places, kind="stable")
    return places[order], indices[order].astype(np.intp)


@dataclass(frozen=True, eq=False)
class Ground:
    """A base shape in a frame: its outline in pixels, how a figure runs on it and which way it grows."""

    outline: Outline
    run: PathRun
    up: float
    """Share of a figure's reach that grows outward; the rest grows inward."""
    fixed: tuple[float, float] | None
    """The one direction in which all grows, if there is one."""
    centre: tuple[float, float]
    form: str = ""
    """line, ring or arc where places can be told from a pixel's coordinates at once."""

    @property
    def shares(self) -> tuple[float, float]:
        """How much of a figure's reach grows outward, and how much inward."""
        return self.up, 1.0 - self.up

    @property
    def reaches(self) -> tuple[float, float]:
        """How much of a figure's reach lies outward of the shape at the most, and how much inward."""
        far = max(self.shares)
        return (far, far) if self.run.opposite else self.shares

    def at(self, places: NDArray[np.float64]) -> tuple[Points, Points]:
        """Points and the directions of growth at places along the base shape, each shape (n, 2)."""
        points, normals, _ = self.outline.at(places)
        return points, self.ways(normals, places)

    def ways(self, normals: Points, places: NDArray[np.float64]) -> Points:
        """The directions of growth at places along the base shape, whose normals are given, shape (n, 2)."""
        if self.fixed is not None:
            normals = np.broadcast_to(np.array(self.fixed), normals.shape)
        turned = self.run.turned(places)
        return np.where(turned[:, None], -normals, normals) if turned.any() else normals


class OnShape(DrawnLayer):
    """Settings of everything that stands on a base shape."""

    drawn_path: ClassVar[str] = "path"
    grows: ClassVar[bool] = True

    base: str = choice("line", BASES, label="Base shape", help="The curve that the figure stands on.")
    x: float = position_x(50, of="the middle of the base shape")
    y: float = position_y(50, of="the middle of the base shape")
    width: float = number(
        76,
        lo=1,
        hi=200,
        unit="%",
        label="Length",
        help="Length of the line, of the frame's width.",
        when=("base", ("line",)),
    )
    radius: float = number(
        26,
        lo=0.5,
        hi=120,
        unit="%",
        help="From the centre to the curve or corner, of the frame's short side.",
        when=("base", ("ring", "arc", "polygon")),
    )
    sweep: float = degrees(180, lo=5, hi=355, help="How far round the arc goes.", when=("base", ("arc",)))
    sides: int = whole(6, lo=3, hi=24, help="Sides of the polygon.", when=("base", ("polygon",)))
    box_width: float = number(
        70,
        lo=1,
        hi=250,
        unit="%",
        label="Box width",
        help="Box width, as a share of the frame's short side.",
        when=("base", ("rectangle",)),
    )
    box_height: float = number(
        44,
        lo=1,
        hi=250,
        unit="%",
        label="Box height",
        help="Box height, as a share of the frame's short side.",
        when=("base", ("rectangle",)),
    )
    box_corner: float = percent(
        8,
        label="Corner radius",
        help="Corner radius, as a share of the frame's short side.",
        when=("base", ("rectangle",)),
    )
    path: str = path_data(WAVE_PATH, most=LONGEST_PATH, when=("base", ("path",)))
    words: str = text(
        "Lantern", most=80, label="Text", help="The line of text whose outlines are followed.", when=("base", ("text",))
    )
    typeface: str = choice("fraunces-semibold", TYPEFACES, help="The typeface of the text.", when=("base", ("text",)))
    size: float = number(
        80,
        lo=1,
        hi=250,
        unit="%",
        help="Longer side of the path or text, of the frame's short side.",
        when=("base", ("path", "text")),
    )
    turn: float = degrees(0, help="Turns it all about its middle, clockwise.", label="Rotation")
    grow: str = choice(
        "out",
        {"out": "Out", "in": "In", "both": "Both", "fixed": "One way"},
        label="Growth",
        help="Outward (up from a line), inward, to both sides, or everywhere in one direction.",
    )
    direction: float = degrees(0, help="The one way: 0 is up, 90 to the right.", when=("grow", ("fixed",)))
    mirror: bool = flag(False, label="Mirror", help="There and back again: the second half mirrors the first.")
    mirror_from: str = choice(
        "ends",
        {"ends": "The ends", "middle": "The middle"},
        label="Mirrored from",
        help="It begins at both ends and meets in the middle, or begins in the middle.",
        when=("mirror", (True,)),
        advanced=True,
    )
    mirror_grow: str = choice(
        "same",
        {"same": "The same way", "opposite": "The other way"},
        label="Second half grows",
        help="The half that mirrors the first grows to the same side of the shape, or to the other.",
        when=("mirror", (True,)),
        advanced=True,
    )
    start: float = number(
        0, lo=-100, hi=100, unit="%", help="Where along the shape it begins, of the shape's length.", advanced=True
    )
    reverse: bool = flag(False, label="Reversed", help="Runs the other way along the shape.", advanced=True)
    repeat: int = whole(1, lo=1, hi=24, label="Repeats", help="How often it comes along the shape.", advanced=True)

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        result = super().check(values)
        if values["base"] == "path":
            result += path_problem(values["path"])
        if values["base"] == "text":
            try:
                text_outline(values["words"], values["typeface"])
            except PathError as problem:
                result.append(("words", str(problem)))
        return result

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        """The base shape with all that can grow on it."""
        ground = self.ground(canvas)
        reach = getattr(self, "reach", 0.0) * canvas.short / 100
        if self.base == "line" and not self.turn and self.grow != "fixed":
            result = bounds(ground.outline, 0.0)
            up, down = ground.reaches
            return Box(result.left, result.top - up * reach, result.right, result.bottom + down * reach)
        return bounds(ground.outline, reach * ground.reaches[0] if self.base != "text" else reach)

    def ground(self, canvas: Viewport) -> Ground:
        """The base shape in a frame of the canvas's size."""
        short = canvas.short / 100
        key: tuple[Any, ...]
        match self.base:
            case "line":
                key = (self.width * canvas.width / 100,)
            case "ring":
                key = (self.radius * short,)
            case "arc":
                key = (self.radius * short, self.sweep)
            case "polygon":
                key = (self.radius * short, self.sides)
            case "rectangle":
                key = (self.box_width * short, self.box_height * short, self.box_corner * short)
            case "path":
                key = (self.path, self.size * short)
            case _:
                key = (self.words, self.typeface, self.size * short)
        run = PathRun(
            self.start / 100,
            self.reverse,
            self.mirror,
            self.repeat,
            middle=self.mirror and self.mirror_from == "middle",
            opposite=self.mirror and self.mirror_grow == "opposite",
        )
        angle = np.deg2rad(self.direction)
        fixed = (float(np.sin(angle)), float(-np.cos(angle))) if self.grow == "fixed" else None
        up = {"in": 0.0, "both": 0.5}.get(self.grow, 1.0)
        return _ground(self.base, key, self.turn, canvas.x(self.x), canvas.y(self.y), run, up, fixed)


def bounds(outline: Outline, margin: float) -> Box:
    """The box of an outline, grown by a margin, in pixels."""
    return Box(*outline.bounds).grown(margin)


def path_problem(data: str) -> list[tuple[str, str]]:
    """What is wrong with the path data of a setting called path, as `Declared.check` says it."""
    try:
        path_outline(data)
    except PathError as problem:
        return [("path", str(problem))]
    return []


@cached
def _ground(
    base: str,
    key: tuple[Any, ...],
    turn: float,
    x: float,
    y: float,
    run: PathRun,
    up: float,
    fixed: tuple[float, float] | None,
) -> Ground:
    form = base if base in ("line", "ring", "arc") and fixed is None else ""
    return Ground(base_outline(base, key).moved(turn, x, y), run, up, fixed, (x, y), form)


@cached
def point_ground(x: float, y: float) -> Ground:
    """A base shape that is hardly more than a point, for figures that reach out from one."""
    outline = curves.ring(1e-3).moved(0.0, x, y)
    return Ground(outline, PathRun(0.0, False, False, 1), 1.0, None, (x, y), "ring")


@cached
def line_ground(length: float, turn: float, x: float, y: float) -> Ground:
    """A straight line as a base shape: `length` pixels about a point, turned clockwise; growth is upward from it."""
    return Ground(curves.line(length).moved(turn, x, y), PathRun(0.0, False, False, 1), 1.0, None, (x, y), "line")


@cached
def base_outline(base: str, key: tuple[Any, ...]) -> Outline:
    """The outline of a base shape about the origin. `key`: what its curve takes, in pixels."""
    match base:
        case "line":
            return curves.line(*key)
        case "ring":
            return curves.ring(*key)
        case "arc":
            return curves.arc(*key)
        case "polygon":
            return curves.polygon(*key)
        case "rectangle":
            return curves.rounded_rectangle(*key)
        case "path":
            return fitted(_parsed(key[0]), key[1])
        case _:
            return fitted(text_outline(key[0], key[1]), key[2])


@cached
def _parsed(data: str) -> Outline:
    return path_outline(data)
