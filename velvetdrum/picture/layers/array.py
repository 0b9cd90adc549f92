"""The array: a layer shown many times, each copy with its own place, in the sound too."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, flag, layer, number, stops, whole
from velvetdrum.declare.vocabulary import degrees, percent, seed
from velvetdrum.picture.bases.deep_layer import DeepLayer
from velvetdrum.picture.bases.layer import LayerPicture, RenderContext
from velvetdrum.picture.figures.arrangement import Spots, grid, rings, spiral, sunflower
from velvetdrum.picture.figures.base_shape import OnShape, bounds
from velvetdrum.picture.figures.layer_copies import Copies, copies_with_room, copy_clouds, lay_copies, sized
from velvetdrum.picture.figures.marks.heard_bands import HearsBands
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.space.clouds import Cloud
from velvetdrum.scene.designs import Design, Follow
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import BarSettings, bar_heights
from velvetdrum.signals.births import chances
from velvetdrum.signals.waves import RATE, samples

MOST_COPIES = 5000
MOST_TIMES = 160
"""Copies at most that each show their layer at a time of their own."""

_TABLE = 256

Values = NDArray[np.float64]

_SHAPE = ("arrange", ("shape",))
_GRID = ("arrange", ("grid",))
_ROUND = ("arrange", ("rings", "spiral", "sunflower"))
_BETWEEN = ("arrange", ("rings", "spiral"))
_HEARD = ("hear", ("bands", "wave", "level", "chance"))


_BOAT = ("shape", {"form": "path", "size": 30, "path": "M0 44h100l-18 34H18zM46 4v34H16z", "plain": "#f4eadb"})
"""A paper boat, for pictures of designs."""


@layer_kind("array", "Array")
class Array(OnShape, HearsBands, DeepLayer):
    """A layer shown many times: along a shape, on a grid, on rings or a spiral, each copy moved by its part of the
    sound."""

    summary: ClassVar[str] = "{source} · {count}"
    first = ("source", "count", "arrange", "copy_size", "hear", "base")
    begins: ClassVar[dict[str, object]] = {"base": "ring", "y": 50.0, "radius": 30.0}
    designs: ClassVar[tuple[Design, ...]] = (
        Design("shape", "Array on a ring", {}, source=_BOAT),
        Design(
            "shape", "Array on a grid", {"arrange": "grid", "count": 28, "copy_size": 7, "hear": "chance"}, source=_BOAT
        ),
        Design(
            "shape",
            "Array, sunflower",
            {"arrange": "sunflower", "count": 144, "copy_size": 5, "size_0": 50, "size_1": 140, "tint": "form"},
            source=_BOAT,
        ),
        Design(
            "shape",
            "Running array",
            {"base": "line", "hear": "level", "wait_s": 0.04, "count": 32, "copy_size": 5, "lift": 16},
            source=_BOAT,
            follows=(Follow("level", "level", 0, 100),),
        ),
    )
    grow = "out"
    bands = 0

    source: str = layer(label="Layer", help="The layer or group that is shown, with its own effects and masks.")
    count: int = whole(24, lo=1, hi=MOST_COPIES, label="Copies", help="How many there are.")
    arrange: str = choice(
        "shape",
        {"shape": "Along a shape", "grid": "Grid", "rings": "Rings", "spiral": "Spiral", "sunflower": "Sunflower"},
        label="Arrangement",
        help="How the copies stand: along the base shape, in rows, on rings in each other, or from the middle outward.",
    )
    columns: int = whole(7, lo=1, hi=500, help="How many stand in a row.", when=_GRID)
    gap_x: float = number(
        12,
        lo=0,
        hi=200,
        unit="%",
        label="Distance across",
        help="To the right neighbour, of the short side.",
        when=_GRID,
    )
    gap_y: float = number(
        12, lo=0, hi=200, unit="%", label="Distance down", help="To the lower neighbour, of the short side.", when=_GRID
    )
    rings: int = whole(3, lo=1, hi=64, help="How many rings there are.", when=("arrange", ("rings",)))
    spiral_turns: float = number(
        3,
        lo=0.1,
        hi=40,
        unit="",
        step=0.1,
        label="Windings",
        help="How often it goes round.",
        when=("arrange", ("spiral",)),
    )
    inner: float = number(
        10, lo=0, hi=150, unit="%", label="Inner radius", help="Where it begins, of the short side.", when=_BETWEEN
    )
    outer: float = number(
        36, lo=0.5, hi=200, unit="%", label="Outer radius", help="Where it ends, of the short side.", when=_ROUND
    )
    copy_size: float = number(
        7, lo=0.1, hi=200, unit="%", label="Copy size", help="Longer side of a copy's box, of the frame's short side."
    )
    facing: str = choice(
        "upright",
        {"upright": "Upright", "along": "Along the way", "outward": "Outward"},
        label="Orientation",
        help="Whether copies stay upright, lie along the way, or stand with their heads outward.",
    )
    front: str = choice(
        "last",
        {"last": "The last", "first": "The first"},
        label="In front",
        help="Which copy covers which.",
        advanced=True,
    )
    seed: int = seed(of="other chances")

    hear: str = choice(
        "bands",
        {
            "none": "Nothing",
            "bands": "A band each",
            "wave": "The waveform",
            "level": "One level, later each",
            "chance": "Chance",
        },
        label="Each copy hears",
        group="sound",
        help="What moves a copy: its band of the sound, its place in the waveform, the level below, or a chance.",
    )
    level: float = percent(
        0,
        group="sound",
        help="Give it a signal; each copy gets it later than the one before.",
        when=("hear", ("level",)),
    )
    wait_s: float = number(
        0.05,
        lo=0,
        hi=10,
        unit="s",
        step=0.01,
        label="Delay of a copy",
        group="sound",
        help="How much later each copy hears the level than the one before it.",
        when=("hear", ("level",)),
    )
    window_ms: float = number(
        40,
        lo=2,
        hi=2000,
        unit="ms",
        step=1,
        label="Window",
        group="sound",
        curve="log",
        help="Stretch of the waveform that the copies show.",
        when=("hear", ("wave",)),
    )

    size_0: float = number(
        70,
        lo=0,
        hi=400,
        unit="%",
        label="Size at 0",
        group="motion",
        help="Size of a copy that hears nothing.",
        when=_HEARD,
    )
    size_1: float = number(
        130,
        lo=0,
        hi=400,
        unit="%",
        label="Size at 1",
        group="motion",
        help="Size of a copy at its loudest.",
        when=_HEARD,
    )
    lift: float = number(
        6, lo=-100, hi=100, unit="%", group="motion", help="How far it is moved outward at its loudest.", when=_HEARD
    )
    turn_by: float = degrees(
        0,
        lo=-1440,
        hi=1440,
        label="Rotation by it",
        group="motion",
        help="How far it is turned at its loudest.",
        when=_HEARD,
    )
    opacity_0: float = percent(
        100, label="Opacity at 0", group="motion", help="Opacity of a copy that hears nothing.", when=_HEARD
    )
    delay_s: float = number(
        0,
        lo=-10,
        hi=10,
        unit="s",
        step=0.01,
        label="Time offset",
        group="motion",
        help="How much later each copy shows the layer than the one before it; earlier below 0.",
    )

    step_size: float = number(
        100,
        lo=50,
        hi=150,
        unit="%",
        step=0.1,
        label="Size step",
        group="motion",
        help="Size of a copy, of the one before it.",
    )
    step_turn: float = degrees(0, label="Rotation step", group="motion", help="Angle from a copy to the next.")
    step_x: float = number(
        0,
        lo=-50,
        hi=50,
        unit="%",
        step=0.1,
        label="Step X",
        group="motion",
        help="Way to the right from a copy to the next.",
    )
    step_y: float = number(
        0, lo=-50, hi=50, unit="%", step=0.1, label="Step Y", group="motion", help="Way down from a copy to the next."
    )
    step_z: float = number(
        0,
        lo=-50,
        hi=50,
        unit="%",
        step=0.1,
        label="Step Z",
        group="motion",
        help="Way to the viewer from a copy to the next, in a space.",
    )
    step_opacity: float = number(
        100,
        lo=0,
        hi=100,
        unit="%",
        step=0.1,
        label="Opacity step",
        group="motion",
        help="Opacity of a copy, of the one before it.",
    )
    chance_size: float = percent(0, label="Size by chance", group="motion", help="How far sizes stray.", advanced=True)
    chance_turn: float = degrees(
        0, lo=0, label="Rotation by chance", group="motion", help="How far angles stray.", advanced=True
    )
    chance_x: float = percent(
        0, label="X by chance", group="motion", help="How far places stray across.", advanced=True
    )
    chance_y: float = percent(0, label="Y by chance", group="motion", help="How far places stray down.", advanced=True)
    chance_z: float = percent(
        0, label="Z by chance", group="motion", help="How far places stray in depth, in a space.", advanced=True
    )
    chance_opacity: float = percent(
        0, label="Opacity by chance", group="motion", help="How much less opacity a copy may have.", advanced=True
    )

    opacity: float = percent(100, step=1, group="colour", help="How solid they are.")
    tint: str = choice(
        "none",
        {"none": "As it is", "form": "One colour", "shade": "Times its light"},
        label="Tint",
        group="colour",
        help="Whether copies have the layer's own colours, one of the gradient, or that one times their own light.",
    )
    colours: tuple[Stop, ...] = stops(
        [(0.0, "#ff7a66"), (0.34, "#e0ac55"), (0.67, "#5fc4b4"), (1.0, "#a99bff")],
        label="Colours",
        help="Gradient that tinted copies take their colours from.",
    )
    by: str = choice(
        "place",
        {"place": "Place", "level": "Level", "chance": "Chance"},
        label="Colour by",
        group="colour",
        help="Which place of the gradient a copy takes: its own among all, what it hears, or any.",
    )
    adds: bool = flag(False, label="Light adds up", group="colour", help="Plus-lighter, or one over another.")

    @property
    def still(self) -> bool:
        return False

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        return super().fitted(settings, use) if cls(cls.defaults() | settings).hear == "bands" else {}

    @property
    def reads(self) -> BarSettings:
        return replace(super().reads, count=max(2, min(self.count, 256)))

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        """The arrangement with a copy's size about it."""
        reach = (self.copy_size / 2 + max(self.lift, 0.0)) * canvas.short / 100
        if self.arrange == "shape":
            return bounds(self.ground(canvas).outline, reach)
        points = self.spots(canvas, max(self.count, 2))[0].points
        return Box(*points.min(axis=0), *points.max(axis=0)).grown(reach)

    def spots(self, view: Viewport, count: int) -> tuple[Spots, NDArray[np.intp]]:
        """Where so many copies stand, in pixels of the frame, with the ways outward and along there, and the number of
        the copy at each: those of a mirrored or repeated shape stand there more than once."""
        unit = view.short / 100
        match self.arrange:
            case "shape":
                ground = self.ground(view)
                places, index = ground.run.spots(count)
                order = np.argsort(index, kind="stable")
                return Spots(*ground.outline.at(places[order])), index[order]
            case "grid":
                result = grid(count, self.columns, self.gap_x * unit, self.gap_y * unit)
            case "rings":
                result = rings(count, self.rings, self.inner * unit, self.outer * unit)
            case "spiral":
                result = spiral(count, self.spiral_turns, self.inner * unit, self.outer * unit)
            case _:
                result = sunflower(count, self.outer * unit)
        return result.turned(self.turn, (view.x(self.x), view.y(self.y))), np.arange(count)

    def hearing(self, at: RenderContext, count: int) -> Values:
        """What each copy hears, shape (count,): 0 to 1, of the waveform -1 to 1."""
        place = (np.arange(count) + 0.5) / count
        match self.hear:
            case "chance":
                return chances(self.seed, np.arange(count), 7)
            case "level":
                times = float(at.time) - self.wait_s * np.arange(count)
                if at.curves is None or not at.curves.moves("level"):
                    return np.full(count, self.level / 100)
                return np.where(times >= 0, at.curves.values("level", np.maximum(times, 0.0)), 0.0) / 100
            case "bands" if at.use is not None:
                heights = np.clip(bar_heights(at.use, self.reads, at.time), 0.0, 1.0)
                return np.asarray(heights[np.minimum((place * len(heights)).astype(int), len(heights) - 1)], np.float64)
            case "wave" if at.use is not None:
                length = max(round(self.window_ms / 1000 * RATE), 2)
                first = round((at.use.in_s + float(at.time)) * RATE) - length // 2
                wave = samples(at.use, self.channel, first, length)
                return np.interp(place * (length - 1), np.arange(length), wave.astype(np.float64))
        return np.zeros(count)

    def copies(self, view: Viewport, at: RenderContext, count: int) -> Copies:
        """So many copies of one that is as large as `copy_size` says."""
        unit = view.short / 100
        spots, index = self.spots(view, count)
        spots = Spots(spots.points[:MOST_COPIES], spots.outward[:MOST_COPIES], spots.along[:MOST_COPIES])
        index = index[:MOST_COPIES]
        heard = self.hearing(at, count)[index]
        level = np.abs(heard)

        def strays(channel: int) -> Values:
            return 2 * chances(self.seed, index, channel) - 1

        scales = np.full(len(index), 1.0)
        lift = np.zeros(len(index))
        alphas = np.full(len(index), self.opacity / 100)
        angles = np.deg2rad(self.step_turn * index + self.chance_turn * strays(1))
        if self.hear != "none":
            scales = (self.size_0 + (self.size_1 - self.size_0) * level) / 100
            lift = self.lift * unit * heard
            alphas = alphas * (self.opacity_0 / 100 + (1 - self.opacity_0 / 100) * level)
            angles = angles + np.deg2rad(self.turn_by) * heard
        if self.facing != "upright":
            way = (
                spots.along if self.facing == "along" else np.stack([-spots.outward[:, 1], spots.outward[:, 0]], axis=1)
            )
            angles = angles + np.arctan2(way[:, 1], way[:, 0])
        points = spots.points + spots.outward * lift[:, None]
        steps = np.stack([self.step_x * index, self.step_y * index], axis=1)
        by_chance = np.stack([self.chance_x * strays(2), self.chance_y * strays(3)], axis=1)
        scales = scales * (self.step_size / 100) ** index * (1 + self.chance_size / 100 * strays(4))
        alphas = alphas * (self.step_opacity / 100) ** index
        alphas = alphas * (1 - self.chance_opacity / 100 * chances(self.seed, index, 5))
        tones = {"place": (index + 0.5) / count, "level": level, "chance": chances(self.seed, index, 6)}[self.by]
        depths = self.step_z * index + self.chance_z * strays(8)
        longer = np.maximum(scales, 0.0) * self.copy_size * unit
        return Copies(points + (steps + by_chance) * unit, angles, longer, alphas, tones, depths, index)

    def pictures(self, view: Viewport, at: RenderContext, copies: Copies) -> list[LayerPicture]:
        """The layer by the number of the copy that shows it, or one for all where they show the same; each about as
        large as its largest copy."""
        steps = range(int(copies.numbers.max(initial=0)) + 1 if self.delay_s else 1)
        times = [at.time - Fraction(self.delay_s * index).limit_denominator(1_000_000) for index in steps]
        return sized(at, self.source, times, view, float(copies.longer.max(initial=0.0)))

    def shown_count(self, at: RenderContext) -> int:
        """How many copies are drawn: fewer than asked for where each would be drawn anew."""
        if not self.delay_s or self.count <= MOST_TIMES or at.picture_of is None:
            return self.count
        still = at.picture_of(self.source, at.time, Viewport(64, 36)).still
        return self.count if still else MOST_TIMES

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        if at.space is not None:
            super().draw(canvas, at)
        elif self.source and at.picture_of is not None:
            copies = self.copies(canvas, at, self.shown_count(at))
            pictures = self.pictures(canvas, at, copies)
            first = self.front == "first"
            lay_copies(canvas, pictures, copies, self._colours(copies), self.tint, self.adds, first)

    def _colours(self, copies: Copies) -> NDArray[np.float64]:
        if self.tint == "none":
            return np.ones((len(copies.tones), 3))
        table = ramp(self.colours, _TABLE, "oklab", False)
        return np.asarray(table[np.rint(np.clip(copies.tones, 0, 1) * (_TABLE - 1)).astype(int)])

    def clouds(self, view: Viewport, at: RenderContext) -> list[Cloud] | None:
        if not self.source or at.picture_of is None:
            return []
        copies = self.copies(view, at, self.shown_count(at))
        pictures = self.pictures(view, at, copies)
        return copy_clouds(view, pictures, copies, self._colours(copies), self.tint, self.adds)

    def notes(self, at: RenderContext) -> list[str]:
        if not self.source or at.picture_of is None:
            return ["No layer is chosen yet: choose the one that is shown many times."]
        shown = self.shown_count(at)
        if shown < self.count:
            return [
                f"{self.count:,} copies would each show another time of the layer; the first {shown:,} are drawn. "
                "Fewer copies, or no time offset, helps."
            ]
        view = Viewport(320, 180)
        copies = self.copies(view, at, shown)
        room = copies_with_room(view, self.pictures(view, at, copies), copies)
        if room < len(copies.longer):
            return [f"{self.count:,} copies cover too much; {room:,} are drawn. Make them fewer, or smaller."]
        return []
