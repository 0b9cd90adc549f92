"""The level meter: bars, segments, lamps on a dial or an uncovered field, with the ballistics of the standards."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.kinds.settings import Stop, choice, colour, flag, number, picture, text, whole
from velvetdrum.picture.canvas import Box, Canvas
from velvetdrum.picture.drawing import Moment
from velvetdrum.picture.figures.labels import draw_labels
from velvetdrum.picture.figures.marks import Bars, Dots, Marks
from velvetdrum.picture.figures.painting import paint_marks
from velvetdrum.picture.images import covering
from velvetdrum.picture.paint.fields import Reach
from velvetdrum.picture.paint.painted import Ink, Painted
from velvetdrum.picture.shapes.based import line_ground
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.ballistics import BALLISTICS, LOUDNESS_S, Meter, Source, meter_reading
from velvetdrum.signals.spectrum import iec_bands

Values = NDArray[np.float64]
_BOXED = ("bar", "segments", "uncover")
_MOST_BANDS = 32
_PAIR = re.compile(r"\s*(\d+(?:\.\d+)?)\s*(k?)\s*(?:-|–|to)\s*(\d+(?:\.\d+)?)\s*(k?)\s*(?:Hz)?\s*", re.IGNORECASE)
_THIRDS = ((30.0, 200.0), (200.0, 2500.0), (2500.0, 15_000.0))


def parse_bands(given: str) -> list[tuple[float, float]]:
    """Bands in Hz from a text like "40-160, 160-2.5k". Raises ValueError with a sentence."""
    out = []
    for part in given.split(","):
        match = _PAIR.fullmatch(part)
        if match is None:
            raise ValueError(f"Write bands as 40-160, 160-2.5k, in Hz; “{part.strip()}” is none.")
        low = float(match[1]) * (1000 if match[2] else 1)
        high = float(match[3]) * (1000 if match[4] else 1)
        if not 10 <= low < high <= 24_000:
            raise ValueError(f"A band goes from 10 Hz to 24 kHz and upward; “{part.strip()}” does not.")
        out.append((low, high))
    if len(out) > _MOST_BANDS:
        raise ValueError(f"A meter has up to {_MOST_BANDS} bands, not {len(out)}.")
    return out


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
class LevelMeter(Painted):
    """How loud it is, with the ballistics of the standards."""

    first: ClassVar[tuple[str, ...]] = ("look", "columns", "bands", "typed")
    begins: ClassVar[dict[str, Any]] = {"paint": "one", "plain": "#5fc4b4"}

    look: str = choice(
        "segments",
        {"bar": "Bar", "segments": "Segments", "dial": "Dial", "uncover": "Uncovered"},
        label="Drawn as",
        help="A bar, segments, lamps and a needle on a dial, or a field that the level uncovers.",
    )
    columns: str = choice(
        "stereo",
        {"mono": "Mono", "stereo": "Left and right", "bands": "Bands"},
        help="One column, one for each channel, or one for each band.",
    )
    bands: str = choice(
        "thirds",
        {"thirds": "Low, mid, high", "octaves": "Octaves", "typed": "Typed"},
        help="Which bands there are.",
        when=("columns", ("bands",)),
    )
    typed: str = text("40-160, 160-2.5k, 2.5k-15k", most=400, label="Bands in Hz",
                      help="From and to of each band, with commas between.",
                      when=(("columns", ("bands",)), ("bands", ("typed",))))  # fmt: skip
    image: str = picture(label="Picture", help="A picture that the level uncovers, in place of the paint.",
                         when=("look", ("uncover",)))  # fmt: skip
    x: float = number(50, lo=-50, hi=150, unit="%", label="Across", help="Middle of the meter, across the frame.")
    y: float = number(50, lo=-50, hi=150, unit="%", label="Down", help="Middle of the meter, down the frame.")
    stands: str = choice("upright", {"upright": "Upright", "lying": "Lying"}, help="Which way the level rises.",
                         when=("look", _BOXED))  # fmt: skip
    length: float = number(70, lo=1, hi=250, unit="%", help="From foot to full level, of the frame's short side.",
                           when=("look", _BOXED))  # fmt: skip
    thickness: float = number(24, lo=0.5, hi=250, unit="%", help="Across all columns, of the frame's short side.",
                              when=("look", _BOXED))  # fmt: skip
    radius: float = number(40, lo=2, hi=150, unit="%", help="From the pivot to the lamps, of the frame's short side.",
                           when=("look", ("dial",)))  # fmt: skip
    sweep: float = number(110, lo=20, hi=330, unit="°", step=1, help="How far the needle turns.",
                          when=("look", ("dial",)))  # fmt: skip
    turn: float = number(0, lo=-360, hi=360, unit="°", step=1, help="Turns the meter about its middle, clockwise.",
                         often=False)  # fmt: skip
    gap: float = number(18, lo=0, hi=90, unit="%", help="Empty part of each column's place.", when=("look", _BOXED))
    corner: float = number(30, lo=0, hi=100, unit="%", label="Rounding", when=("look", _BOXED),
                           help="Corner radius, of half the shorter side.")  # fmt: skip
    segments: int = whole(24, lo=3, hi=96, help="Segments, or lamps, in all.", when=("look", ("segments", "dial")))
    segment_gap: float = number(32, lo=0, hi=90, unit="%", label="Segment gap", help="Empty part of each segment.",
                                when=("look", ("segments", "dial")))  # fmt: skip
    unlit: float = number(16, lo=0, hi=100, unit="%", step=1, label="Unlit strength", group="colour",
                          help="How much shows of what is not lit; 0 hides it.")  # fmt: skip
    needle: bool = flag(True, help="A needle beside the lamps.", when=("look", ("dial",)))
    needle_colour: str = colour("#f4eadb", label="Needle colour", help="Colour of the needle.",
                                when=("look", ("dial",)))  # fmt: skip
    needle_width: float = number(0.9, lo=0.1, hi=6, unit="%", label="Needle width", often=False,
                                 when=("look", ("dial",)), help="Of the frame's short side.")  # fmt: skip

    ballistics: str = choice("quasi-2", BALLISTICS, group="motion",
                             help="How it follows the sound, as IEC, AES and EBU define it.")  # fmt: skip
    fall_db_s: float = number(11.8, lo=1, hi=200, unit="dB/s", label="Falls", group="motion",
                              help="How fast a sample peak falls back.", when=("ballistics", ("peak",)))  # fmt: skip
    rms_ms: float = number(300, lo=5, hi=5000, unit="ms", step=1, label="RMS time", group="motion", curve="log",
                           help="How much of the sound is averaged.", when=("ballistics", ("rms",)))  # fmt: skip
    hold: bool = flag(True, label="Peak hold", group="motion", help="A mark that stays at the last top, then falls.")
    hold_ms: float = number(1000, lo=0, hi=10_000, unit="ms", step=10, label="Holds", group="motion",
                            help="How long the mark stays.", when=("hold", (True,)))  # fmt: skip
    hold_fall_db_s: float = number(20, lo=1, hi=200, unit="dB/s", label="Mark falls", group="motion",
                                   help="How fast it falls then.", when=("hold", (True,)))  # fmt: skip
    low_db: float = number(-48, lo=-100, hi=10, unit="dB", step=1, label="From", group="sound",
                           help="Level at the foot: dBFS, or LUFS for loudness.")  # fmt: skip
    high_db: float = number(
        0, lo=-60, hi=24, unit="dB", step=1, label="To", group="sound", help="Level at full length."
    )
    zero_db: float = number(0, lo=-60, hi=10, unit="dB", step=1, label="Scale's zero", group="sound",
                            help="The level that the scale calls 0: -23 for LU.")  # fmt: skip
    scale: bool = flag(True, group="shape", help="Ticks and numbers beside the meter.")
    tick_db: float = number(6, lo=1, hi=24, unit="dB", step=1, label="A tick each", help="Levels between two ticks.",
                            when=("scale", (True,)), often=False)  # fmt: skip
    scale_size: float = number(3, lo=0.5, hi=12, unit="%", label="Scale size", often=False,
                               when=("scale", (True,)), help="Of the numbers, of the frame's short side.")  # fmt: skip
    scale_colour: str = colour("#bda9b4", label="Scale colour", when=("scale", (True,)),
                               help="Of ticks and numbers.")  # fmt: skip
    zones: str = choice("hard", {"off": "Off", "hard": "Hard", "smooth": "Smooth"}, group="colour", label="Zones",
                        help="Colours that change at stated levels, in place of the paint.")  # fmt: skip
    safe: str = colour("#5fc4b4", label="Safe", help="Below the warning level.", when=("zones", ("hard", "smooth")))
    warning: str = colour(
        "#e0ac55", label="Warning", help="From the warning level.", when=("zones", ("hard", "smooth"))
    )
    over: str = colour("#ff7a66", label="Over", help="From the over level.", when=("zones", ("hard", "smooth")))
    warning_db: float = number(-18, lo=-100, hi=24, unit="dB", step=1, label="Warning from", group="colour",
                               when=("zones", ("hard", "smooth")), help="Where the warning zone begins.")  # fmt: skip
    over_db: float = number(-9, lo=-100, hi=24, unit="dB", step=1, label="Over from", group="colour",
                            when=("zones", ("hard", "smooth")), help="Where the over zone begins.")  # fmt: skip
    zone_shapes: bool = flag(True, label="Zone shapes", group="colour", when=("zones", ("hard", "smooth")),
                             help="One slit in the warning zone and two in the over zone, for all who do not see the "
                             "colours.")  # fmt: skip

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        found = super().check(values)
        if values["high_db"] < values["low_db"] + 1:
            found.append(("high_db", "To must lie at least 1 dB above From."))
        if values["over_db"] < values["warning_db"]:
            found.append(("over_db", "The over zone cannot begin below the warning zone."))
        try:
            parse_bands(values["typed"])
        except ValueError as problem:
            found.append(("typed", str(problem)))
        return found

    def draw(self, canvas: Canvas, at: Moment) -> None:
        sources = self._sources()
        readings = [self._reading(at, source) for source in sources]
        ink = self._zoned(self.ink(canvas, float(at.time)))
        if self.look == "dial":
            self._draw_dial(canvas, ink, sources, readings)
        else:
            self._draw_columns(canvas, at, ink, readings)

    # What is read

    def _sources(self) -> list[Source]:
        if self.columns == "bands":
            if self.bands == "octaves":
                found = [(low, high) for _, low, high in iec_bands(31.0, 16_000.0, "octave")]
            else:
                found = list(_THIRDS) if self.bands == "thirds" else parse_bands(self.typed)
            return [Source("mix", band) for band in found]
        # Loudness is that of the whole programme; it has no channels.
        if self.columns == "mono" or self.ballistics in LOUDNESS_S:
            return [Source("mix")]
        return [Source("left"), Source("right")]

    def _reading(self, at: Moment, source: Source) -> tuple[float, float]:
        """Reading and held top as places on the scale, 0 to 1."""
        if at.use is None:
            return 0.0, 0.0
        meter = Meter(self.ballistics, self.fall_db_s, self.rms_ms, self.hold_ms, self.hold_fall_db_s)
        level, held = meter_reading(at.use, meter, source, at.time)
        return self._place(level), self._place(held)

    def _place(self, level_db: float) -> float:
        return float(np.clip((level_db - self.low_db) / max(self.high_db - self.low_db, 0.1), 0.0, 1.0))

    @property
    def _zone_ends(self) -> tuple[float, float]:
        return self._place(self.warning_db), self._place(max(self.over_db, self.warning_db))

    def _zoned(self, ink: Ink) -> Ink:
        if self.zones == "off":
            return ink
        warning, over = self._zone_ends
        colours: tuple[Stop, ...] = ((0.0, self.safe), (warning, self.warning), (over, self.over))
        graded = replace(ink, paint="level", colours=colours, steps=self.zones == "hard")
        return replace(graded, back=False, drifts=False, hue=0.0, hue_shift=0.0)

    # Columns

    def _draw_columns(self, canvas: Canvas, at: Moment, ink: Ink, readings: list[tuple[float, float]]) -> None:
        short = canvas.short / 100
        length, thick = self.length * short, self.thickness * short
        degrees = self.turn + (90.0 if self.stands == "lying" else 0.0)
        angle = np.deg2rad(degrees)
        up = np.array([np.sin(angle), -np.cos(angle)])
        across = np.array([np.cos(angle), np.sin(angle)])
        origin = np.array([canvas.x(self.x), canvas.y(self.y)]) - up * length / 2
        axes = _Axes(origin, across, up)
        place = thick / len(readings)
        columns = [
            _Column((index + 0.5) * place - thick / 2, place * (1 - self.gap / 100) / 2, level, held)
            for index, (level, held) in enumerate(readings)
        ]
        ground = line_ground(thick, degrees, float(origin[0]), float(origin[1]))
        lit, unlit, marks = self._lit_marks(axes, columns, length)
        reach = Reach(ground, length, 0.0)
        if self.look == "uncover" and self.image in at.pictures:
            self._uncover(canvas, at.pictures[self.image], axes, (length, thick), ink.opacity, lit, unlit)
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
        found = covering(path, int(max(high[0] - low[0], 1)), int(max(high[1] - low[1], 1)))
        area = (int(low[0]), int(low[1]), int(high[0]), int(high[1]))
        box = Box(*map(float, area))
        if unlit and self.unlit > 0:
            canvas.reveal(unlit, found, area, box, opacity * self.unlit / 100)
        if lit:
            canvas.reveal(lit, found, area, box, opacity)

    def _lit_marks(
        self, axes: _Axes, columns: list[_Column], length: float
    ) -> tuple[list[Marks], list[Marks], list[Marks]]:
        """What is lit, what is not, and the marks for the last tops."""
        lit: list[Marks] = []
        unlit: list[Marks] = []
        tops: list[Marks] = []
        along = [(index + 0.5) / len(columns) for index in range(len(columns))]
        for column, place in zip(columns, along, strict=True):
            if self.look == "segments":
                count = self.segments
                starts = (np.arange(count) + self.segment_gap / 200) / count
                ends = (np.arange(count) + 1 - self.segment_gap / 200) / count
                on = column.level * count >= np.arange(count) + 0.5
                lit += self._stripes(axes, column, starts[on], ends[on], length, place)
                unlit += self._stripes(axes, column, starts[~on], ends[~on], length, place)
                if self.hold and column.held * count >= 0.5:
                    top = min(int(column.held * count - 0.5), count - 1)
                    tops += self._stripes(axes, column, starts[top : top + 1], ends[top : top + 1], length, place)
                continue
            cuts = sorted({0.0, *self._zone_ends, 1.0}) if self._shaped else [0.0, 1.0]
            low, high = np.array(cuts[:-1]), np.array(cuts[1:])
            lit += self._stripes(axes, column, low, np.minimum(high, column.level), length, place)
            unlit += self._stripes(axes, column, np.maximum(low, column.level), high, length, place)
            if self.hold and column.held > 0:
                mark = np.array([max(column.held - 0.012, 0.0)])
                tops += self._stripes(axes, column, mark, mark + 0.012, length, place)
        return lit, unlit, tops

    @property
    def _shaped(self) -> bool:
        return self.zones != "off" and self.zone_shapes

    def _stripes(
        self, axes: _Axes, column: _Column, low: Values, high: Values, length: float, along: float
    ) -> list[Marks]:
        """Boxes from low to high places; one, two or three beside each other, by the zone that they lie in."""
        kept = high > low + 1e-4
        low, high = low[kept], high[kept]
        if not len(low):
            return []
        middle = (low + high) / 2
        warning, over = self._zone_ends
        zone = np.where(middle < warning, 1, np.where(middle < over, 2, 3)) if self._shaped else np.ones(len(low), int)
        out: list[Marks] = []
        for count in np.unique(zone):
            here = zone == count
            slit = column.half * 0.16 if count > 1 else 0.0
            wide = (2 * column.half - slit * (count - 1)) / count
            for number_ in range(count):
                offset = column.middle - column.half + wide / 2 + number_ * (wide + slit)
                out.append(
                    Bars(
                        axes.at(offset, low[here] * length),
                        axes.at(offset, high[here] * length),
                        wide,
                        self.corner / 100,
                        np.full(int(here.sum()), along),
                        middle[here],
                    )
                )
        return out

    def _paint(
        self, canvas: Canvas, ink: Ink, reach: Reach, lit: list[Marks], unlit: list[Marks], tops: list[Marks]
    ) -> None:
        boxes = self.look == "segments" or self.look == "dial"
        if self.unlit > 0 and unlit:
            faint = replace(ink, opacity=ink.opacity * self.unlit / 100)
            paint_marks(canvas, unlit, faint, reach, one_level=boxes)
        if lit:
            paint_marks(canvas, lit, ink, reach, one_level=boxes)
        if tops:
            paint_marks(canvas, tops, ink, reach, one_level=True)

    # Dial

    def _draw_dial(self, canvas: Canvas, ink: Ink, sources: list[Source], readings: list[tuple[float, float]]) -> None:
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
        warning, over = self._zone_ends
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
            plain = replace(ink, paint="one", plain=self.needle_colour, hue=0.0, hue_shift=0.0)
            way = self._ways(level)
            width = self.needle_width * short
            zero = np.zeros(1)
            tip = centre + way * (radius - size * 2.2)
            foot = centre - way * radius * 0.12
            paint_marks(canvas, [Bars(foot, tip, width, 1.0, zero, zero)], plain, reach)
            hub = Dots(centre[None], np.array([width * 1.8]), zero, zero)
            paint_marks(canvas, [hub], plain, reach)
        if self.scale:
            size_px = self.scale_size * short
            labels = []
            for text_, place in self._ticks():
                x, y = (centre + self._ways(place) * (radius + size * 2 + size_px * 0.9))[0]
                labels.append((text_, float(x), float(y)))
            x, y = (centre - self._ways(0.5) * (radius * 0.12 + size_px * 1.1))[0]
            labels.append((self._unit, float(x), float(y)))
            draw_labels(canvas, labels, size_px, self.scale_colour, self.opacity / 100)

    # Scale

    @property
    def _unit(self) -> str:
        if self.ballistics in LOUDNESS_S:
            return "LU" if self.zero_db else "LUFS"
        return "VU" if self.ballistics == "vu" and self.zero_db else "dB" if self.zero_db else "dBFS"

    def _ticks(self) -> list[tuple[str, float]]:
        """Numbers of the scale and their places, 0 to 1."""
        first = int(np.ceil((self.low_db - self.zero_db) / self.tick_db - 1e-6))
        last = int(np.floor((self.high_db - self.zero_db) / self.tick_db + 1e-6))
        out = []
        for index in range(first, last + 1):
            value = index * self.tick_db
            sign = "+" if value > 0 and self.zero_db else ""
            out.append((f"{sign}{value:g}".replace("-", "−"), self._place(value + self.zero_db)))
        return out

    def _draw_scale(self, canvas: Canvas, axes: _Axes, length: float, thick: float) -> None:
        size = self.scale_size * canvas.short / 100
        lying = self.stands == "lying"
        # Beside an upright meter on its left; under one that lies.
        side = 1.0 if lying else -1.0
        reach = thick / 2 + size * 0.35
        ticks = self._ticks()
        places = np.array([place for _, place in ticks])
        if len(places):
            zeros = np.zeros(len(places))
            near = axes.at(side * reach, places * length)
            far = axes.at(side * (reach + size * 0.45), places * length)
            plain = Ink("one", self.scale_colour, (), "srgb", False, False, False, 0.0, 0.0, 0.0, False,
                        self.ink(canvas, 0.0).field, self.opacity / 100)  # fmt: skip
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
        labels.append((self._unit, float(x), float(y)))
        draw_labels(canvas, labels, size, self.scale_colour, self.opacity / 100)
