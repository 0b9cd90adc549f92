"""The trace: levels as lines with a tail, over a field, past a line, round a ring, or against each other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, colour, flag, layer, number, stops, whole
from velvetdrum.declare.vocabulary import percent, position_x, position_y
from velvetdrum.picture.bases.image_placement import box_about
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.particles import draw_discs, premultiplied
from velvetdrum.picture.raster.tapered import draw_tapered
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.text.labels import draw_labels
from velvetdrum.scene.designs import Design, Follow
from velvetdrum.scene.kinds import layer_kind

Values = NDArray[np.float64]

MOST_LINES = 4
_MOST_POINTS = 3000
_RATE = 240
"""Points a second of a tail, as far as there may be so many."""
_TABLE = 256

_LEVELS = ("level", "level_2", "level_3", "level_4")
_FIELD = ("form", ("sweep", "strip"))
_TURNING = ("form", ("sweep", "ring"))
_TIMED = ("form", ("sweep", "strip", "ring"))
_BOXED = ("form", ("sweep", "strip", "pair"))


@dataclass(frozen=True, eq=False)
class Tail:
    """A line from its oldest point to its head: points in pixels, shape (n, 2), ages in seconds, levels (0 to 1), and
    whether a line leads to each from the one before."""

    points: Values
    ages: Values
    levels: Values
    joined: NDArray[np.bool_]


def _further(number_: int) -> float:
    result: float = percent(
        0,
        label=f"Level {number_}",
        group="sound",
        help="Of another trace: give it a signal.",
        when=("lines", ((">", number_ - 1),)),
    )
    return result


@layer_kind("trace", "Trace")
class Trace(DrawnLayer):
    """A level drawn as a line with a tail that fades, thins and changes its colour."""

    summary: ClassVar[str] = "{form}"
    first = ("form", "lines", "level", "tail_s")
    turned: ClassVar[str] = ""
    designs: ClassVar[tuple[Design, ...]] = (
        Design("waveform", "Trace, sweep", {"grid": True}, follows=(Follow("level", "level", 0, 100),)),
        Design(
            "waveform",
            "Trace, two of them",
            {"lines": 2, "stacked": "apart", "form": "strip", "by": "line", "tail_s": 6},
            follows=(Follow("level", "level", 0, 100), Follow("level_2", "hits", 0, 100)),
        ),
        Design(
            "waveform",
            "Trace round a ring",
            {"form": "ring", "height": 16, "line": 0.8, "tail_s": 3.5},
            follows=(Follow("level", "hits", 0, 100),),
        ),
        Design(
            "waveform",
            "Trace, one against another",
            {"form": "pair", "width": 45, "height": 60, "tail_s": 1.6, "head": 2.5},
            follows=(Follow("level", "level", 0, 100), Follow("level_2", "hits", 0, 100)),
        ),
    )

    form: str = choice(
        "sweep",
        {
            "sweep": "Sweep",
            "strip": "Rolling strip",
            "ring": "Round a ring",
            "pair": "One against another",
            "way": "Way of a layer",
        },
        label="Form",
        help="Whether the head runs over the field, stands while the past moves away, goes round, is led by two levels "
        "across and up, or follows a layer.",
    )
    lines: int = whole(1, lo=1, hi=MOST_LINES, label="Traces", help="How many levels are drawn.", when=_TIMED)
    stacked: str = choice(
        "over",
        {"over": "Over each other", "apart": "Each in its own lane"},
        label="Several",
        help="Whether traces share the field, or part it among them.",
        when=(("form", ("sweep", "strip")), ("lines", ((">", 1),))),
    )
    source: str = layer(
        label="Layer",
        help="The layer whose place is followed, as keyframes and signals move it.",
        when=("form", ("way",)),
    )
    x: float = position_x(50, of="the middle of the field")
    y: float = position_y(50, of="the middle of the field")
    width: float = number(76, lo=1, hi=200, unit="%", help="Of the frame's width.", when=_BOXED)
    height: float = number(
        30,
        lo=0.5,
        hi=200,
        unit="%",
        help="From level 0 to level 100, of the frame's short side.",
        when=("form", ("sweep", "strip", "ring", "pair")),
    )
    radius: float = number(
        24,
        lo=0.5,
        hi=120,
        unit="%",
        help="Of the ring at level 0, of the frame's short side.",
        when=("form", ("ring",)),
    )
    line: float = number(
        0.6, lo=0.03, hi=10, unit="%", label="Line width", help="At the head, of the frame's short side."
    )
    head: float = number(
        1.6,
        lo=0,
        hi=20,
        unit="%",
        label="Head mark",
        help="Size of the mark at the head, of the frame's short side; 0 for none.",
    )

    level: float = percent(
        50, group="sound", help="Give it a signal: what it was is drawn, of two levels the one across."
    )
    level_2: float = percent(
        0,
        label="Level 2",
        group="sound",
        help="Of a second trace, or upward where one is drawn against another: give it a signal.",
    )
    level_3: float = _further(3)
    level_4: float = _further(4)

    period: float = number(
        4, lo=0.05, hi=600, step=0.05, group="motion", help="Time of one sweep, or of one turn.", when=_TURNING
    )
    unit: str = choice(
        "s",
        {"s": "Seconds", "beats": "Beats", "bars": "Bars"},
        label="Unit",
        group="motion",
        help="Unit of the sweep; without a steady beat it goes by seconds.",
        when=_TURNING,
    )
    span_s: float = number(
        6,
        lo=0.1,
        hi=120,
        unit="s",
        step=0.1,
        label="Time span",
        group="motion",
        help="Time from the head to the far end.",
        when=("form", ("strip",)),
    )
    tail_s: float = number(
        3,
        lo=0.05,
        hi=120,
        unit="s",
        step=0.05,
        label="Tail",
        group="motion",
        curve="log",
        help="How much of the past is shown.",
    )
    fade: float = percent(100, step=1, group="motion", help="How much fainter the end of the tail is.")
    thin: float = percent(60, step=1, group="motion", help="How much thinner the end of the tail is.")

    colours: tuple[Stop, ...] = stops(
        [(0.0, "#fff3d6"), (0.35, "#e0ac55"), (1.0, "#ff7a66")],
        label="Colours",
        help="Gradient that a trace takes its colours from.",
    )
    by: str = choice(
        "age",
        {"age": "Age", "level": "Level", "line": "Trace"},
        label="Colour by",
        group="colour",
        help="Which place of the gradient is taken: by how long ago it was, by the level, or one for each trace.",
    )
    opacity: float = percent(100, step=1, group="colour", help="How solid the line is at its head.")
    adds: bool = flag(True, label="Light adds up", group="colour", help="Plus-lighter, or one over another.")

    grid: bool = flag(False, label="Grid", help="Draws lines at quarters of the level and of the time.", when=_FIELD)
    labels: bool = flag(
        True, label="Labels", help="Writes levels and times at the grid.", when=(_FIELD, ("grid", (True,)))
    )
    grid_colour: str = colour("#bda9b4", label="Grid colour", help="Of grid and labels.", when=("grid", (True,)))
    grid_opacity: float = percent(
        30, step=1, label="Grid opacity", group="colour", help="How solid the grid is.", when=("grid", (True,))
    )

    def _half(self, view: Viewport) -> tuple[float, float]:
        """Half of the field's width and of its height, in pixels."""
        unit = view.short / 100
        if self.form == "ring":
            reach = (self.radius + self.height) * unit
            return reach, reach
        if self.form == "way":
            return view.width / 2, view.height / 2
        return self.width * view.width / 200, self.height * unit / 2

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        if self.form == "way":
            return super().paint_bounds(view, at)
        beside = 8.0 if self.grid else 0.0
        return self.extent(view, at).grown((max(self.line, self.head) + beside) * view.short / 100 + 2)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        across, down = self._half(canvas)
        return box_about(canvas.x(self.x), canvas.y(self.y), 2 * across, 2 * down)

    def _times(self, at: RenderContext) -> Values:
        """The moments of the tail, the oldest first, none before the project's start."""
        now = float(at.time)
        length = min(self.tail_s, self.span_s) if self.form == "strip" else self.tail_s
        begin = max(now - length, 0.0)
        step = max(1 / _RATE, length / _MOST_POINTS)
        # On a grid of the project's own: points move with the sound and never change while they do.
        inner = np.arange(np.floor(begin / step) + 1, np.ceil(now / step)) * step
        return np.concatenate([[begin], inner[(inner > begin) & (inner < now)], [now]])

    def levels(self, name: str, times: Values, at: RenderContext) -> Values:
        """A level at times, 0 to 1.

        Parameters
        ----------
        name
            Name of its setting.
        times
            Times in seconds of the project.
        at
            The time that is drawn.
        """
        if at.curves is None or not at.curves.moves(name):
            return np.full(len(times), float(getattr(self, name)) / 100)
        return at.curves.values(name, times) / 100

    def turns(self, times: Values, at: RenderContext) -> Values:
        """How many sweeps have been made at times.

        Parameters
        ----------
        times
            Times in seconds of the project.
        at
            The time that is drawn.
        """
        if self.unit == "s" or at.beats is None:
            return times / self.period
        # A hair: so that a frame that falls on a beat begins the new sweep, whichever way the last bit rounded.
        count = at.beats.bar_at if self.unit == "bars" else at.beats.beat_at
        return np.asarray(count(times + 1e-6) / self.period)

    def tails(self, view: Viewport, at: RenderContext) -> list[Tail]:
        """The lines as they are now.

        Parameters
        ----------
        view
            The frame.
        at
            The time that is drawn.
        """
        times = self._times(at)
        ages = float(at.time) - times
        whole_line = np.arange(len(times)) > 0
        middle = np.array([view.x(self.x), view.y(self.y)])
        across, down = self._half(view)
        if self.form == "way":
            return [Tail(self._way(view, times, at), ages, np.zeros(len(times)), whole_line)]
        if self.form == "pair":
            first, second = (self.levels(name, times, at) for name in _LEVELS[:2])
            points = np.stack([(2 * first - 1) * across, (1 - 2 * second) * down], axis=1) + middle
            return [Tail(points, ages, first, whole_line)]
        result = []
        turns = self.turns(times, at)
        place = turns - np.floor(turns)
        # Between two sweeps nothing is drawn back.
        joined = whole_line & (np.diff(np.floor(turns), prepend=np.floor(turns[:1])) == 0)
        for number_, name in enumerate(_LEVELS[: self.lines]):
            level = self.levels(name, times, at)
            if self.form == "ring":
                reach = (self.radius + self.height * level) * view.short / 100
                points = (
                    middle + np.stack([np.sin(2 * np.pi * turns), -np.cos(2 * np.pi * turns)], axis=1) * reach[:, None]
                )
                result.append(Tail(points, ages, level, whole_line))
                continue
            x = (2 * place - 1) * across if self.form == "sweep" else across - ages / self.span_s * 2 * across
            low, high = self._lane(number_, down)
            points = np.stack([x, low + (high - low) * level], axis=1) + middle
            result.append(Tail(points, ages, level, joined if self.form == "sweep" else whole_line))
        return result

    def _lane(self, number_: int, down: float) -> tuple[float, float]:
        """Heights of level 0 and level 100 of a trace, in pixels from the middle of the field, downward."""
        if self.stacked != "apart" or self.lines == 1:
            return down, -down
        each = 2 * down / self.lines
        top = -down + number_ * each
        return top + each * 0.96, top + each * 0.04

    def _way(self, view: Viewport, times: Values, at: RenderContext) -> Values:
        """Where the place of a layer was, in pixels."""
        if not self.source or at.project is None or at.signals is None:
            return np.broadcast_to(np.array([view.x(self.x), view.y(self.y)]), (len(times), 2)).copy()
        placed = at.project.by_id[self.source]
        curves = SettingCurves(placed, at.signals, at.curves.shape if at.curves else "")
        own = placed.layer.settings

        def percent_of(place: str, moved: str) -> Values:
            base = curves.values(place, times) if place in own else np.full(len(times), 50.0)
            return base + curves.values(moved, times)

        x, y = percent_of("x", "move_x"), percent_of("y", "move_y")
        return np.stack([x * view.width / 100, y * view.height / 100], axis=1)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        unit = canvas.short / 100
        if self.grid and self.form in ("sweep", "strip"):
            self._draw_grid(canvas)
        table = ramp(self.colours, _TABLE, "oklab", False)
        tails = self.tails(canvas, at)
        for number_, tail in enumerate(tails):
            past = np.clip(tail.ages / self.tail_s, 0.0, 1.0)
            alphas = self.opacity / 100 * (1 - self.fade / 100 * past)
            widths = self.line * unit * (1 - self.thin / 100 * past)
            share = (number_ + 0.5) / len(tails)
            tones = {"age": past, "level": np.clip(tail.levels, 0, 1), "line": np.full(len(past), share)}[self.by]
            draw_tapered(canvas, tail.points, widths, alphas, tones, tail.joined, table, self.adds)
            if self.head > 0:
                word = premultiplied(table[[round(float(tones[-1]) * (_TABLE - 1))]], np.array([self.opacity / 100]))
                x, y = tail.points[-1:].T
                draw_discs(canvas, x, y, np.array([self.head * unit / 2]), word, "disc", False)

    def _draw_grid(self, canvas: Canvas) -> None:
        across, down = self._half(canvas)
        x, y, unit = canvas.x(self.x), canvas.y(self.y), canvas.short / 100
        surface = canvas.surface()
        brush = skia.Paint(
            AntiAlias=True,
            Style=skia.Paint.kStroke_Style,
            StrokeWidth=max(0.14 * unit, 1.0),
            Color=round(255 * self.grid_opacity / 100) << 24 | int(self.grid_colour[1:], 16),
        )
        marks: list[tuple[str, float, float]] = []
        size = 2.0 * unit
        for lane in range(self.lines if self.stacked == "apart" else 1):
            low, high = self._lane(lane, down)
            for part in range(5):
                height = y + low + (high - low) * part / 4
                surface.drawLine(x - across, height, x + across, height, brush)
                if part % 2 == 0:
                    marks.append((f"{part * 25}", x - across - 2.2 * unit, height))
        for part in range(5):
            place = x - across + 2 * across * part / 4
            surface.drawLine(place, y - down, place, y + down, brush)
            span = self.period if self.form == "sweep" else self.span_s
            value = span * part / 4 if self.form == "sweep" else -span * (1 - part / 4)
            unit_name = self.unit if self.form == "sweep" else "s"
            marks.append((f"{value:g} {unit_name}".replace("-", "\u2212"), place, y + down + 2.4 * unit))
        if self.labels:
            draw_labels(canvas, marks, size, self.grid_colour, min(self.grid_opacity / 100 * 2, 1.0))

    def notes(self, at: RenderContext) -> list[str]:
        if self.form in ("sweep", "ring") and self.unit != "s" and at.beats is None:
            return [
                f"There is no steady beat to lock to, so the sweep takes {self.period:g} s. Type a tempo or tap along "
                "in the Sound room, or choose seconds."
            ]
        if self.form == "way" and not self.source:
            return ["No layer is chosen yet: choose the one whose way is drawn."]
        names = _LEVELS[: 2 if self.form == "pair" else self.lines]
        if self.form != "way" and at.curves is not None and not any(at.curves.moves(name) for name in names):
            return ["No level moves yet: give Level a signal, by the ring beside it."]
        return []
