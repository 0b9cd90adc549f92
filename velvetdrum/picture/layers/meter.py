"""The level meter: bars, segments, lamps on a dial or an uncovered field, with the ballistics of the standards."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.bases.image_placement import box_about, draw_kept
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import line_ground
from velvetdrum.picture.figures.marks.level_meter import MeterSettings
from velvetdrum.picture.figures.marks.marks import Bars, Dots, Marks
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.figures.paint.fields import Reach
from velvetdrum.picture.figures.paint.paint import Ink
from velvetdrum.picture.media.pictures import covering
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.colour import PictureColours
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.text.labels import draw_labels
from velvetdrum.scene.designs import QUAY, Design, LevelScale
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.ballistics import MeterInput

Values = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class _Column:
    """One column of the meter: its middle and half width across, reading and held top from 0 to 1."""

    middle: float
    half: float
    level: float
    held: float


@dataclass(frozen=True, eq=False)
class _Axes:
    """The meter's own directions in pixels: its foot's middle, one step across and one step up."""

    origin: Values
    across: Values
    up: Values

    def at(self, across: Values | float, up: Values | float) -> Values:
        u, v = np.broadcast_arrays(np.atleast_1d(across), np.atleast_1d(up))
        return self.origin + u[:, None] * self.across + v[:, None] * self.up


@layer_kind("meter", "Meter")
class LevelMeter(MeterSettings):
    """How loud it is, with the ballistics of the standards."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("meter", "Segments", {}),
        Design(
            "meter",
            "Lying bars",
            {"look": "bar", "stands": "lying", "length": 130.0, "thickness": 20.0, "ballistics": "peak"},
        ),
        Design(
            "meter",
            "Dial",
            {
                "look": "dial",
                "columns": "mono",
                "ballistics": "vu",
                "zero_db": -18,
                "low_db": -38,
                "high_db": -3,
                "warning_db": -18,
                "over_db": -15,
                "tick_db": 5,
                "radius": 52.0,
            },
        ),
        Design(
            "meter",
            "Loudness",
            {
                "look": "bar",
                "columns": "mono",
                "ballistics": "short",
                "zero_db": -23,
                "low_db": -41,
                "high_db": -5,
                "tick_db": 3,
                "warning_db": -22,
                "over_db": -14,
                "thickness": 12.0,
            },
        ),
        Design(
            "meter",
            "Low, mid, high",
            {
                "columns": "bands",
                "ballistics": "rms",
                "rms_ms": 120,
                "zones": "off",
                "paint": "along",
                "scale": False,
                "look": "bar",
                "corner": 60.0,
                "thickness": 44.0,
            },
        ),
        Design(
            "meter",
            "Octaves",
            {"columns": "bands", "bands": "octaves", "ballistics": "peak", "thickness": 92.0, "segments": 20},
        ),
        Design(
            "meter",
            "Uncovered",
            {
                "look": "uncover",
                "stands": "lying",
                "columns": "mono",
                "ballistics": "rms",
                "rms_ms": 100,
                "zones": "off",
                "paint": "field",
                "field_size": 130.0,
                "length": 130.0,
                "thickness": 30.0,
                "scale": False,
                "corner": 40.0,
                "colours": QUAY,
            },
        ),
    )
    turned: ClassVar[str] = ""
    level_scale: ClassVar[LevelScale | None] = LevelScale(
        "low_db", "high_db", ("warning_db", "over_db"), "colours", (("zones", ("off",)), ("paint", ("level",)))
    )

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        """Its columns as they are turned, without the scale; a dial's square."""
        short = canvas.short / 100
        if self.look == "dial":
            reach = 2 * self.radius * short
            return box_about(canvas.x(self.x), canvas.y(self.y), reach, reach)
        angle = np.deg2rad(self.turn + (90.0 if self.stands == "lying" else 0.0))
        length, thick = self.length * short, self.thickness * short
        across = abs(length * np.sin(angle)) + abs(thick * np.cos(angle))
        down = abs(length * np.cos(angle)) + abs(thick * np.sin(angle))
        return box_about(canvas.x(self.x), canvas.y(self.y), float(across), float(down))

    def level_axis(self, canvas: Viewport, at: RenderContext) -> tuple[tuple[float, float], tuple[float, float]] | None:
        """From the foot of its columns to full level; a dial has no straight way."""
        if self.look == "dial":
            return None
        axes, length = self._axes(canvas)
        foot, full = axes.at(np.zeros(2), np.array([0.0, length])).tolist()
        return (foot[0], foot[1]), (full[0], full[1])

    def _axes(self, canvas: Viewport) -> tuple[_Axes, float]:
        """The directions of its columns, and how long they are in pixels."""
        length = self.length * canvas.short / 100
        angle = np.deg2rad(self._degrees)
        up = np.array([np.sin(angle), -np.cos(angle)])
        across = np.array([np.cos(angle), np.sin(angle)])
        return _Axes(np.array([canvas.x(self.x), canvas.y(self.y)]) - up * length / 2, across, up), length

    @property
    def _degrees(self) -> float:
        """How its columns are turned from upright, clockwise."""
        return self.turn + (90.0 if self.stands == "lying" else 0.0)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        sources = self.sources()
        readings = [self.reading(at, source) for source in sources]
        ink = self.zoned(self.ink(canvas, float(at.time)))
        if self.look == "dial":
            self._draw_dial(canvas, ink, sources, readings)
        else:
            self._draw_columns(canvas, at, ink, readings)

    # Columns

    def _draw_columns(self, canvas: Canvas, at: RenderContext, ink: Ink, readings: list[tuple[float, float]]) -> None:
        axes, length = self._axes(canvas)
        origin, thick, degrees = axes.origin, self.thickness * canvas.short / 100, self._degrees
        place = thick / len(readings)
        columns = [
            _Column((index + 0.5) * place - thick / 2, place * (1 - self.gap / 100) / 2, level, held)
            for index, (level, held) in enumerate(readings)
        ]
        ground = line_ground(thick, degrees, float(origin[0]), float(origin[1]))
        lit, unlit, marks = self._lit_marks(axes, columns, length)
        reach = Reach(ground, length, 0.0)
        if self.look == "uncover" and self.image in at.media:
            self._uncover(canvas, at.media[self.image], axes, (length, thick), ink.opacity, lit, unlit)
            self._paint(canvas, ink, reach, [], [], marks)
        else:
            self._paint(canvas, ink, reach, lit, unlit, marks)
        if self.scale:
            self._draw_scale(canvas, axes, length, thick)

    def _uncover(
        self,
        canvas: Canvas,
        path: str,
        axes: _Axes,
        size: tuple[float, float],
        opacity: float,
        lit: list[Marks],
        unlit: list[Marks],
    ) -> None:
        """Show a picture that covers the meter, upright, through what is lit, and faintly through the rest."""
        length, thick = size
        corners = axes.at(np.array([-thick, thick, -thick, thick]) / 2, np.array([0.0, 0.0, length, length]))
        low, high = np.floor(corners.min(axis=0)).astype(int), np.ceil(corners.max(axis=0)).astype(int)
        result = covering(path, int(max(high[0] - low[0], 1)), int(max(high[1] - low[1], 1)))
        area = (int(low[0]), int(low[1]), int(high[0]), int(high[1]))
        box, shown = Box(*map(float, area)), PictureColours(result, area)
        if unlit and self.unlit > 0:
            canvas.reveal(unlit, shown, box, opacity * self.unlit / 100)
        if lit:
            canvas.reveal(lit, shown, box, opacity)

    def _lit_marks(
        self, axes: _Axes, columns: list[_Column], length: float
    ) -> tuple[list[Marks], list[Marks], list[Marks]]:
        """What is lit, what is not, and the marks for the last tops."""
        levels, held = (np.array([getattr(column, name) for column in columns]) for name in ("level", "held"))
        if self.look == "segments":
            count = self.segments
            steps = np.arange(count)
            starts, ends = (steps + self.segment_gap / 200) / count, (steps + 1 - self.segment_gap / 200) / count
            on = levels[:, None] * count >= steps + 0.5
            top = np.minimum((held * count - 0.5).astype(int), count - 1)
            kept = np.flatnonzero(held * count >= 0.5) if self.hold else np.zeros(0, int)
            lit, unlit = np.nonzero(on), np.nonzero(~on)
            return (
                self._stripes(axes, columns, lit[0], starts[lit[1]], ends[lit[1]], length),
                self._stripes(axes, columns, unlit[0], starts[unlit[1]], ends[unlit[1]], length),
                self._stripes(axes, columns, kept, starts[top[kept]], ends[top[kept]], length),
            )
        cuts = np.array(sorted({0.0, *self.zone_ends, 1.0}) if self._shaped else [0.0, 1.0])
        which = np.repeat(np.arange(len(columns)), len(cuts) - 1)
        low, high, level = np.tile(cuts[:-1], len(columns)), np.tile(cuts[1:], len(columns)), levels[which]
        kept = np.flatnonzero(held > 0) if self.hold else np.zeros(0, int)
        mark = np.maximum(held[kept] - 0.012, 0.0)
        return (
            self._stripes(axes, columns, which, low, np.minimum(high, level), length),
            self._stripes(axes, columns, which, np.maximum(low, level), high, length),
            self._stripes(axes, columns, kept, mark, mark + 0.012, length),
        )

    @property
    def _shaped(self) -> bool:
        return self.zones != "off" and self.zone_shapes

    def _stripes(
        self, axes: _Axes, columns: list[_Column], which: NDArray[np.intp], low: Values, high: Values, length: float
    ) -> list[Marks]:
        """Boxes from low to high places in columns; one, two or three beside each other, by the zone that they lie
        in."""
        kept = high > low + 1e-4
        which, low, high = which[kept], low[kept], high[kept]
        if not len(low):
            return []
        middle = (low + high) / 2
        warning, over = self.zone_ends
        zone = np.where(middle < warning, 1, np.where(middle < over, 2, 3)) if self._shaped else np.ones(len(low), int)
        # Each stripe as often as there are boxes beside each other in its zone, with the number of each.
        rows = np.repeat(np.arange(len(low)), zone)
        number_ = np.arange(len(rows)) - np.repeat(np.cumsum(zone) - zone, zone)
        centre, half = (np.array([getattr(column, name) for column in columns])[which] for name in ("middle", "half"))
        slit = np.where(zone > 1, half * 0.16, 0.0)
        wide = (2 * half - slit * (zone - 1)) / zone
        offset = (centre - half + wide / 2)[rows] + number_ * (wide + slit)[rows]
        along = (which[rows] + 0.5) / len(columns)
        return [
            Bars(
                axes.at(offset, low[rows] * length),
                axes.at(offset, high[rows] * length),
                wide[rows],
                self.corner / 100,
                along,
                middle[rows],
            )
        ]

    def _paint(
        self, canvas: Canvas, ink: Ink, reach: Reach, lit: list[Marks], unlit: list[Marks], tops: list[Marks]
    ) -> None:
        boxes = self.look == "segments" or self.look == "dial"
        if self.unlit > 0 and unlit:
            faint = ink.fainter(self.unlit / 100)
            paint_marks(canvas, unlit, faint, reach, one_level=boxes)
        if lit:
            paint_marks(canvas, lit, ink, reach, one_level=boxes)
        if tops:
            paint_marks(canvas, tops, ink, reach, one_level=True)

    # Dial

    def _draw_dial(
        self, canvas: Canvas, ink: Ink, sources: list[MeterInput], readings: list[tuple[float, float]]
    ) -> None:
        short = canvas.short / 100
        count = len(sources)
        radius = self.radius * short
        step = radius * 2.3
        for index, (level, held) in enumerate(readings):
            # Side by side; the pivots stand so that the whole lies around the middle.
            shift = (index - (count - 1) / 2) * step
            centre = np.array([canvas.x(self.x) + shift, canvas.y(self.y) + radius * 0.5])
            self._draw_one_dial(canvas, ink, centre, radius, level, held)

    def _ways(self, places: Values | float) -> Values:
        angle = np.deg2rad(self.turn + (np.atleast_1d(places) - 0.5) * self.sweep)
        return np.stack([np.sin(angle), -np.cos(angle)], axis=1)

    def _draw_one_dial(
        self, canvas: Canvas, ink: Ink, centre: Values, radius: float, level: float, held: float
    ) -> None:
        short = canvas.short / 100
        count = self.segments
        places = (np.arange(count) + 0.5) / count
        points = centre + self._ways(places) * radius
        pitch = np.deg2rad(self.sweep) * radius / count
        size = pitch * (1 - self.segment_gap / 100) / 2
        warning, over = self.zone_ends
        factor = (
            np.where(places < warning, 1.0, np.where(places < over, 1.25, 1.55)) if self._shaped else np.ones(count)
        )
        sizes = size * factor
        on = level * count >= np.arange(count) + 0.5
        x, y = (float(value) for value in centre)
        ground = line_ground(2 * radius, 0.0, x, y)
        reach = Reach(ground, radius + size * 2, 0.0)

        def lamps(chosen: NDArray[np.bool_]) -> list[Marks]:
            return [Dots(points[chosen], sizes[chosen], places[chosen], places[chosen])] if chosen.any() else []

        top = np.zeros(count, bool)
        if self.hold and held * count >= 0.5:
            top[min(int(held * count - 0.5), count - 1)] = True
        self._paint(canvas, ink, reach, lamps(on), lamps(~on), lamps(top))
        if self.needle:
            plain = ink.in_one(self.needle_colour)
            way = self._ways(level)
            width = self.needle_width * short
            zero = np.zeros(1)
            tip = centre + way * (radius - size * 2.2)
            foot = centre - way * radius * 0.12
            paint_marks(canvas, [Bars(foot, tip, width, 1.0, zero, zero)], plain, reach)
            hub = Dots(centre[None], np.array([width * 1.8]), zero, zero)
            paint_marks(canvas, [hub], plain, reach)
        if self.scale:
            name = ("dial", self.state(), canvas.width, canvas.height, canvas.area, x, y)
            draw_kept(canvas, name, lambda onto: self._write_dial(onto, centre, radius, size))

    def _write_dial(self, canvas: Canvas, centre: Values, radius: float, size: float) -> None:
        size_px = self.scale_size * canvas.short / 100
        labels = []
        for text_, place in self.ticks():
            x, y = (centre + self._ways(place) * (radius + size * 2 + size_px * 0.9))[0]
            labels.append((text_, float(x), float(y)))
        x, y = (centre - self._ways(0.5) * (radius * 0.12 + size_px * 1.1))[0]
        labels.append((self.unit, float(x), float(y)))
        draw_labels(canvas, labels, size_px, self.scale_colour, self.opacity / 100)

    # Scale

    def _draw_scale(self, canvas: Canvas, axes: _Axes, length: float, thick: float) -> None:
        name = (self.state(), canvas.width, canvas.height, canvas.area)
        draw_kept(canvas, ("scale", *name), lambda onto: self._draw_ticks(onto, axes, length, thick))

    def _draw_ticks(self, canvas: Canvas, axes: _Axes, length: float, thick: float) -> None:
        size = self.scale_size * canvas.short / 100
        lying = self.stands == "lying"
        # Beside an upright meter on its left; under one that lies.
        side = 1.0 if lying else -1.0
        reach = thick / 2 + size * 0.35
        ticks = self.ticks()
        places = np.array([place for _, place in ticks])
        if len(places):
            zeros = np.zeros(len(places))
            near = axes.at(side * reach, places * length)
            far = axes.at(side * (reach + size * 0.45), places * length)
            plain = self.ink(canvas, 0.0).in_one(self.scale_colour)
            ground = line_ground(thick, 0.0, float(axes.origin[0]), float(axes.origin[1]))
            paint_marks(
                canvas, [Bars(near, far, max(size * 0.09, 0.5), 0.0, zeros, zeros)], plain, Reach(ground, length, 0)
            )
        away = side * (reach + size * (1.25 if lying else 1.7))
        labels = []
        for name, place in ticks:
            x, y = axes.at(away, place * length)[0]
            labels.append((name, float(x), float(y)))
        x, y = axes.at(away, length + size * (2.2 if lying else 1.4))[0]
        labels.append((self.unit, float(x), float(y)))
        draw_labels(canvas, labels, size, self.scale_colour, self.opacity / 100)
