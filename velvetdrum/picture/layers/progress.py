"""Progress: a ring, bar, strip or row of dots that fills or drains over a stretch of time."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, colour, flag, number, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import OnShape, bounds
from velvetdrum.picture.figures.marks.marks import Areas, Dots, Strokes
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.figures.paint.fields import Reach
from velvetdrum.picture.figures.paint.paint import Ink, Painted
from velvetdrum.picture.outlines.outline import Outline
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import WARM, Design, Sizing
from velvetdrum.scene.kinds import layer_kind

Values = NDArray[np.float64]


@layer_kind("progress", "Progress")
class Progress(OnShape, Painted):
    """How far it has gone, along any base shape."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("words", "Progress bar", {"y": 92.0, "width": 80.0}),
        Design("words", "Progress ring", {"base": "ring", "radius": 30.0, "stroke": 2.0, "head": True}),
        Design("words", "Progress dots", {"marks": "dots", "count": 24, "y": 90.0, "width": 70.0, "stroke": 1.6}),
        Design(
            "words",
            "Progress arc",
            {"base": "arc", "radius": 36.0, "sweep": 240.0, "stroke": 3.0, "paint": "along", "colours": WARM},
        ),
    )
    sizings: ClassVar[tuple[Sizing, ...]] = (
        Sizing(across=("width",), when=(("base", ("line",)), ("turn", (0,)))),
        Sizing(both=("radius",), when=(("base", ("ring", "arc", "polygon")),)),
        Sizing(both=("size",), when=(("base", ("path", "text")),)),
    )
    first = ("base", "marks")
    grow = "out"
    direction = 0.0
    mirror = False
    repeat = 1
    begins: ClassVar[dict[str, Any]] = {"paint": "one", "plain": "#f0b866", "base": "line", "y": 50.0}

    paint: str = choice(
        "one",
        {"one": "One colour", "along": "Along", "field": "Behind it", "time": "Over time"},
        label="Paint",
        group="colour",
        help="One colour; a gradient along the way, fixed behind the whole, or over time.",
    )
    marks: str = choice(
        "line", {"line": "Line", "dots": "Dots", "dashes": "Dashes"}, help="What the way is drawn with."
    )
    count: int = whole(24, lo=2, hi=240, help="How many dots or dashes there are.", when=("marks", ("dots", "dashes")))
    stroke: float = number(
        1.2, lo=0.05, hi=30, unit="%", label="Width", help="Width, as a share of the frame's short side."
    )
    cap: str = choice("round", {"round": "Round", "flat": "Flat"}, label="Ends", help="The form of its ends.")
    over: str = choice(
        "used",
        {
            "used": "The used part",
            "sound": "First to last sound",
            "layer": "In to out of the layer",
            "value": "A share",
        },
        label="Over",
        group="sound",
        help="The stretch that it goes over; or as far as a share says, which a signal can move.",
    )
    value: float = percent(
        50, step=1, label="Share", group="sound", when=("over", ("value",)), help="How far it has gone."
    )
    drain: bool = flag(False, label="Drains", group="sound", help="Begins full and empties.")
    ground_colour: str = colour("#f4eadb", label="Ground", help="Colour of the way that it goes.")
    ground_opacity: float = percent(
        22, step=1, label="Ground opacity", group="colour", help="How solid the ground is; 0 for none."
    )
    head: bool = flag(False, label="Head", help="Draws a dot at the present position.")
    head_size: float = number(
        2.2,
        lo=0.1,
        hi=40,
        unit="× width",
        label="Head size",
        help="Size of the head, as a multiple of the line's width.",
        when=("head", (True,)),
    )
    ticks: bool = flag(False, label="Ticks", help="A mark at every marker of the project.")

    @property
    def still(self) -> bool:
        return False

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self.extent(view, at).grown(3.0)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        width = self.stroke * canvas.short / 100
        return bounds(self.ground(canvas).outline, width * max(self.head_size if self.head else 1.0, 1.6) / 2 + 1)

    def share(self, at: RenderContext) -> float:
        """How far it has gone, 0 to 1."""
        now = float(at.time)
        begin, end = self._stretch(at)
        gone = self.value / 100 if self.over == "value" else (now - begin) / max(end - begin, 1e-6)
        gone = min(max(gone, 0.0), 1.0)
        return 1.0 - gone if self.drain else gone

    def _stretch(self, at: RenderContext) -> tuple[float, float]:
        length = at.project.length_s if at.project else at.until
        if self.over == "sound" and at.sound:
            return at.sound
        return (at.since, at.until) if self.over == "layer" else (0.0, length)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        ground = self.ground(canvas)
        outline, width = ground.outline, self.stroke * canvas.short / 100
        ink = self.ink(canvas, float(at.time))
        reach = Reach(ground, width, width)
        begin = self.start / 100
        share = self.share(at)
        under = replace(ink.in_one(self.ground_colour), opacity=self.ground_opacity / 100 * ink.opacity)
        if self.marks == "dots":
            self._dots(canvas, outline, begin, share, (ink, under), reach, width)
        else:
            if self.ground_opacity:
                self._line(canvas, outline, begin, (0.0, 1.0), under, reach, width)
            if share > 0:
                self._line(canvas, outline, begin, (0.0, share), ink, reach, width)
        if self.ticks and at.project:
            self._ticks(canvas, outline, begin, at, ink.in_one(self.ground_colour), reach, width)
        if self.head:
            point = outline.at(np.array([self._place(begin, share)]))[0]
            head = Dots(point, np.array([width * self.head_size / 2]), np.array([share]), np.ones(1))
            paint_marks(canvas, [head], ink, reach)

    def _place(self, begin: float, share: float) -> float:
        return begin - share if self.reverse else begin + share

    def _line(
        self,
        canvas: Canvas,
        outline: Outline,
        begin: float,
        span: tuple[float, float],
        ink: Ink,
        reach: Reach,
        width: float,
    ) -> None:
        """The way from one share to another, in dashes where it has some."""
        pieces = [span]
        if self.marks == "dashes":
            step = 1.0 / self.count
            pieces = [
                (n * step, min((n + 0.62) * step, span[1])) for n in range(self.count) if n * step < span[1] - 1e-9
            ]
        whole = span == (0.0, 1.0) and outline.closed and self.marks == "line"
        if whole:
            paint_marks(canvas, [Strokes([(outline.pieces[0].points, True)], width)], ink, reach)
            return
        polygons = []
        for low, high in pieces:
            steps = max(int((high - low) * outline.length / 2), 2)
            shares = np.linspace(low, high, min(steps, 2000))
            places = begin - shares if self.reverse else begin + shares
            if not outline.closed:
                places = np.clip(places, 0.0, 1.0)
            points, normals, _ = outline.at(places)
            half = normals * width / 2
            polygons.append(np.concatenate([points + half, (points - half)[::-1]]))
        paint_marks(canvas, [Areas(polygons)], ink, reach)
        if self.cap == "round":
            ends = np.array([[self._place(begin, low), self._place(begin, high)] for low, high in pieces]).ravel()
            if not outline.closed:
                ends = np.clip(ends, 0.0, 1.0)
            points = outline.at(ends)[0]
            count = len(points)
            if ink.opacity >= 1 and not ink.clear:
                caps = Dots(points, np.full(count, width / 2), np.clip(ends % 1.0001, 0, 1), np.ones(count))
                paint_marks(canvas, [caps], ink, reach)

    def _dots(
        self,
        canvas: Canvas,
        outline: Outline,
        begin: float,
        share: float,
        inks: tuple[Ink, Ink],
        reach: Reach,
        width: float,
    ) -> None:
        shares = np.arange(self.count) / (self.count if outline.closed else max(self.count - 1, 1))
        places = begin - shares if self.reverse else begin + shares
        points = outline.at(places)[0]
        come = np.clip(share * self.count - np.arange(self.count), 0.0, 1.0)
        along, level = shares, np.ones(self.count)
        if self.ground_opacity:
            paint_marks(canvas, [Dots(points, np.full(self.count, width / 2), along, level)], inks[1], reach)
        if (come > 0).any():
            done = come > 0
            radii = width / 2 * (0.4 + 0.6 * come[done])
            paint_marks(canvas, [Dots(points[done], radii, along[done], level[done])], inks[0], reach)

    def _ticks(
        self, canvas: Canvas, outline: Outline, begin: float, at: RenderContext, ink: Ink, reach: Reach, width: float
    ) -> None:
        first, last = self._stretch(at)
        assert at.project
        shares = [(marker.time_s - first) / max(last - first, 1e-6) for marker in at.project.markers]
        places = np.array([self._place(begin, share) for share in shares if 0.0 <= share <= 1.0])
        if not len(places):
            return
        points, normals, _ = outline.at(places)
        lines = [
            (np.stack([p - n * width * 0.8, p + n * width * 0.8]), False) for p, n in zip(points, normals, strict=True)
        ]
        paint_marks(canvas, [Strokes(lines, max(width * 0.22, 1.0))], ink, reach)
