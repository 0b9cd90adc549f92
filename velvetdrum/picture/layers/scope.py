"""The scope: the sound around now, held still by a trigger or swept in step with the beats."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from typing import Any, ClassVar

import numpy as np
import skia
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE
from velvetdrum.declare.settings import choice, heard_sound, number, whole
from velvetdrum.declare.vocabulary import CHANNELS
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import Ground
from velvetdrum.picture.figures.marks.figure import Figure
from velvetdrum.picture.figures.marks.marks import Areas, Dots, Marks, Strokes, line_path
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.figures.marks.traces import lay
from velvetdrum.picture.figures.paint.fields import Reach
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.designs import DUSK, QUAY, Design
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.waves import MARGIN, SEARCH_S, at_places, fit_gain, rising_crossing, samples, sounding, thinned

Values = NDArray[np.float64]
_JOIN = 0.08
"""Share of a trace that is led over to its beginning where it closes round a shape."""

_FAINTEST = 0.02
_MOST_TRACES = 12
_SLICES = 24


@dataclass(frozen=True, eq=False)
class _Trace:
    """Places from 0 to 1, values from -1 to 1 and the strength of a trace."""

    places: Values
    values: Values
    strength: float
    name: Hashable = None
    """What an older trace is kept under: it stays the same while it fades."""


@layer_kind("scope", "Scope")
class Scope(Figure):
    """The waveform around now, held still by a trigger."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("waveform", "Scope", {}),
        Design(
            "waveform",
            "Scope ring",
            {
                "base": "ring",
                "reach": 14.0,
                "radius": 28.0,
                "line": 0.8,
                "paint": "along",
                "back": True,
                "colours": QUAY,
            },
        ),
        Design("waveform", "Mirrored", {"style": "mirrored", "window_ms": 60, "paint": "level", "colours": DUSK}),
        Design("waveform", "Sweep", {"trigger": "beats", "afterglow_ms": 900, "line": 0.4, "plain": "#a8cf6a"}),
    )
    fits: ClassVar[bool] = True

    first: ClassVar[tuple[str, ...]] = ("style", "window_ms", "trigger", "base")
    both_sides: ClassVar[bool] = True
    thicknesses: ClassVar[tuple[str, ...]] = ("line",)
    begins: ClassVar[dict[str, Any]] = {"reach": 22.0, "paint": "one", "plain": "#f4eadb"}

    style: str = choice(
        "line",
        {"line": "Line", "dots": "Dots", "filled": "Filled", "mirrored": "Mirrored"},
        label="Style",
        help="A line, dots, filled to the base shape, or filled to both sides.",
    )
    window_ms: float = number(
        30,
        lo=1,
        hi=2000,
        unit="ms",
        step=0.5,
        label="Window",
        curve="log",
        group="sound",
        help="How much of the sound is shown.",
        when=("trigger", ("rising", "free")),
    )
    trigger: str = choice(
        "rising",
        {"rising": "Rising edge", "free": "Free", "beats": "Beats"},
        group="sound",
        help="Begins where the wave rises through zero, so that a steady tone stands still; centred on now; or sweeps "
        "across once in so many beats, so that a phrase that repeats draws over itself.",
    )
    beats: int = whole(
        4, lo=1, hi=64, unit="beats", group="sound", help="Beats in one sweep.", when=("trigger", ("beats",))
    )
    gain_db: float = number(
        6, lo=-20, hi=40, unit="dB", label="Gain", group="sound", help="0 dB: full scale reaches the full height."
    )
    listens: str = heard_sound()
    channel: str = choice(
        "mix", CHANNELS, group="sound", advanced=True, help="The part of the stereo sound that is read."
    )
    line: float = number(
        0.5,
        lo=0.05,
        hi=8,
        unit="%",
        label="Line width",
        help="Line width, as a share of the frame's short side.",
        when=("style", ("line",)),
    )
    dot: float = number(
        0.7,
        lo=0.05,
        hi=8,
        unit="%",
        label="Dot size",
        help="Dot size, as a share of the frame's short side.",
        when=("style", ("dots",)),
    )
    dots: int = whole(160, lo=8, hi=600, help="How many dots there are.", when=("style", ("dots",)))
    afterglow_ms: float = number(
        0,
        lo=0,
        hi=4000,
        unit="ms",
        step=10,
        label="Afterglow",
        group="motion",
        help="Time in which an older trace fades to 37 %.",
        curve="log",
    )

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        """The gain."""
        return {"gain_db": fit_gain(use)}

    def draw_one(self, canvas: Canvas, at: RenderContext) -> None:
        if at.use is None:
            return
        ground = self.ground(canvas)
        full = canvas.short * self.reach / 100
        joins = ground.outline.closed and not ground.run.mirror and self.trigger != "beats"
        # What is finer than half a pixel cannot be seen.
        points = int(np.clip(ground.outline.length / max(ground.run.repeat, 1) * 1.5, 64, 3000))
        traces = self._swept(at, points) if self.trigger == "beats" else self._traces(at, points, joins)
        marks = self._marks(canvas, ground, traces, full, joins)
        if marks:
            ink = self.ink_at(canvas, at)
            softness = self.softness * canvas.short / 100
            paint_marks(canvas, marks, ink, Reach(ground, full, full), softness=softness, one_level=True)

    def _traces(self, at: RenderContext, points: int, joins: bool) -> list[_Trace]:
        """The trace of now, and those before it as far as they still glow; the oldest first."""
        now = float(at.time)
        out: list[_Trace] = []
        newest = self._trace(at, now, points, joins)
        if newest is not None:
            out.append(_Trace(*newest, 1.0))
        if self.afterglow_ms <= 0:
            return out
        # Older traces lie on a grid of times: each stays what it was while it fades, as on a phosphor, and a new one
        # comes where it cannot be told from the trace of now.
        assert at.use is not None
        reach = self.afterglow_ms / 1000 * -np.log(_FAINTEST)
        step = max(1 / 60, reach / _MOST_TRACES)
        state = (at.use.recording.identity, at.use.in_s, self._form(), points, joins)
        for turn in range(int(np.ceil(now / step - 1e-9)) - 1, int(np.floor((now - reach) / step)), -1):
            name = (*state, turn)
            # What fades is seen less closely: half the points do.
            result = SHARED_CACHE.get(("trace", name), partial(self._trace, at, turn * step, points // 2, joins))
            if result is None:
                break
            out.append(_Trace(*result, float(np.exp((turn * step - now) * 1000 / self.afterglow_ms)), name))
        return out[::-1]

    def _form(self) -> tuple[Any, ...]:
        """The settings that the form of a trace depends on; how thick it is drawn, and in which colour, may change."""
        return tuple(
            getattr(self, name)
            for name, setting in self.settings.items()
            if setting.group in ("shape", "sound") and name not in ("line", "dot", "dots", "softness")
        )

    def _trace(self, at: RenderContext, now: float, points: int, joins: bool) -> tuple[Values, Values] | None:
        """Places and values of the window around a time; None before the first sound."""
        use = at.use
        assert use is not None
        first_sound, _ = sounding(use)
        if now < first_sound:
            return None
        length = self.window_ms / 1000 * RATE
        lead = int(length * _JOIN) + MARGIN + 2 if joins else MARGIN + 2
        search = round(SEARCH_S * RATE) if self.trigger == "rising" else 0
        centre = (use.in_s + now) * RATE
        begin = int(np.floor(centre - length / 2)) - search - lead
        wave = samples(use, self.channel, begin, int(length) + search + 2 * lead + 4)
        # Looked for in what is shown at most: the crossing at the window's start or shortly before.
        rising = self.trigger == "rising"
        start = lead + rising_crossing(wave[lead:], search) if rising else centre - length / 2 - begin
        count = min(points, max(int(length), 64))
        places = np.linspace(0.0, 1.0, count)
        if length > 3 * points and not joins:
            cut = wave[round(start) : round(start) + int(length)]
            places, values = thinned(cut, points // 2)
        else:
            values = at_places(wave, start + places * length)
            if joins:
                late = places > 1 - _JOIN
                part = (places[late] - 1 + _JOIN) / _JOIN
                part = part * part * (3 - 2 * part)
                before = at_places(wave, np.maximum(start + (places[late] - 1) * length, MARGIN))
                values[late] = values[late] * (1 - part) + before * part
        gained = np.clip(values * 10 ** (self.gain_db / 20), -1.0, 1.0)
        # Nothing of the time before the first sound.
        begins = (first_sound + use.in_s) * RATE - (begin + start)
        shown = places * length >= begins
        if not shown.all():
            places, gained = places[shown], gained[shown]
        return (places, gained) if len(places) > 1 else None

    def _swept(self, at: RenderContext, points: int) -> list[_Trace]:
        """A sweep in so many beats: the running one up to now, and what the one before has left beyond it."""
        use, grid, now = at.use, at.beats, float(at.time)
        assert use is not None
        first_sound, _ = sounding(use)
        if grid is None or now < first_sound:
            return []
        beat = float(grid.beat_at(np.array([now]))[0])
        begin = np.floor(beat / self.beats) * self.beats
        phase = (beat - begin) / self.beats
        out = []
        for cycle, low, high in ((begin - self.beats, phase, 1.0), (begin, 0.0, phase)):
            cuts = np.linspace(low, high, max(2, round(_SLICES * (high - low)) + 1 if self.afterglow_ms else 2))
            for left, right in pairwise(cuts):
                ends = grid.time_of(cycle + np.array([left, right]) * self.beats)
                ends = np.maximum(ends, first_sound)
                count = round(float(ends[1] - ends[0]) * RATE)
                if count < 4:
                    continue
                age = now - float(ends.mean())
                strength = float(np.exp(-age * 1000 / self.afterglow_ms)) if self.afterglow_ms else 1.0
                if strength < _FAINTEST:
                    continue
                wave = samples(use, self.channel, round((use.in_s + ends[0]) * RATE), count)
                columns = int(np.clip(points * (right - left) / 2, 2, count))
                places, values = thinned(wave, columns)
                spots = left + places * (right - left)
                out.append(_Trace(spots, np.clip(values * 10 ** (self.gain_db / 20), -1.0, 1.0), strength))
        return out

    def _marks(self, canvas: Canvas, ground: Ground, traces: list[_Trace], full: float, joins: bool) -> list[Marks]:
        short = canvas.short / 100
        sign = -1.0 if self.grow == "in" else 1.0
        lines: list[tuple[Values, bool]] = []
        paths: list[skia.Path] = []
        strengths: list[float] = []
        areas: list[Marks] = []
        dots: list[tuple[Values, Values, Values, float]] = []
        for trace in traces:
            if self.style == "line":
                for points, closed, path in _lines(canvas, ground, trace, full * sign, joins):
                    lines.append((points, closed))
                    paths.append(path)
                    strengths.append(trace.strength)
                continue
            whole = joins and len(trace.places) > 2 and trace.places[0] == 0.0
            for laid in lay(ground, trace.places, trace.values, joined=whole):
                heights = laid.values * full * sign
                if self.style == "dots":
                    chosen = np.linspace(0, len(heights) - 1, min(self.dots, len(heights))).astype(int)
                    edge = laid.edge(ground, heights)[chosen]
                    dots.append((edge, laid.within[chosen], np.abs(laid.values[chosen]), trace.strength))
                else:
                    tall = np.abs(heights) if self.style == "mirrored" else heights
                    other = -tall if self.style == "mirrored" else np.zeros_like(tall)
                    upper, lower = laid.edge(ground, tall), laid.edge(ground, other)
                    polygons = [upper, lower] if laid.closed else [np.concatenate([upper, lower[::-1]])]
                    areas.append(Areas(polygons, holes=laid.closed, strength=trace.strength))
        if self.style == "line" and lines:
            glows = any(strength < 1 for strength in strengths)
            return [Strokes(lines, self.line * short, strengths if glows else None, paths=paths)]
        if dots:
            edges, within, levels, glow = zip(*dots, strict=True)
            faded = [strength for edge, strength in zip(edges, glow, strict=True) for _ in range(len(edge))]
            points = np.concatenate(edges)
            return [
                Dots(
                    points,
                    np.full(len(points), self.dot * short / 2),
                    np.concatenate(within),
                    np.concatenate(levels),
                    faded,
                )
            ]
        return areas


def _lines(
    canvas: Canvas, ground: Ground, trace: _Trace, height: float, joins: bool
) -> list[tuple[Values, bool, skia.Path]]:
    """The lines of a trace on its base shape: points, whether they close, and the path through them. Those of an older
    trace are kept, since they stay the same."""
    if trace.name is None:
        return _laid_lines(ground, trace, height, joins, 0.05)
    # What fades is seen less closely.
    name = ("trace's lines", trace.name, canvas.width, canvas.height)
    return SHARED_CACHE.get(name, lambda: _laid_lines(ground, trace, height, joins, 0.2))


def _laid_lines(
    ground: Ground, trace: _Trace, height: float, joins: bool, within: float
) -> list[tuple[Values, bool, skia.Path]]:
    whole = joins and len(trace.places) > 2 and trace.places[0] == 0.0
    edges = [
        (laid.edge(ground, laid.values * height), laid.closed)
        for laid in lay(ground, trace.places, trace.values, joined=whole)
    ]
    return [(points, closed, line_path(points, closed, within)) for points, closed in edges]
