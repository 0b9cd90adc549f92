"""The spectrum: how loud each frequency band is, as bars, segments, dots, hairlines, a line or an area."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, colour, flag, number, rate, whole
from velvetdrum.declare.vocabulary import CHANNELS, TILT_UNIT, attack, loud, percent, quiet, release
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import Ground
from velvetdrum.picture.figures.marks.clusters import cluster_heights
from velvetdrum.picture.figures.marks.figure import Spectral
from velvetdrum.picture.figures.marks.heard_bands import fitted_range, range_problems, refitted_range
from velvetdrum.picture.figures.marks.lines import on_piece, through
from velvetdrum.picture.figures.marks.marks import Areas, Bars, Dots, Marks, Strokes
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.text.labels import draw_labels
from velvetdrum.scene.designs import DUSK, QUAY, WARM, Design, even_ramp
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import BarSettings, bar_heights, cap_heights
from velvetdrum.signals.spectrum import SPACINGS, iec_bands, nominal_hz

STYLES = {
    "bars": "Bars",
    "segments": "Segments",
    "dots": "Dots",
    "hairlines": "Hairlines",
    "line": "Line",
    "area": "Area",
    "line-area": "Line and area",
}
_SEPARATE = ("bars", "segments", "dots", "hairlines")
_IEC = ("octave", "third")
_NAMED = (("spacing", _IEC), ("labels", (True,)))

Values = NDArray[np.float64]


@layer_kind("spectrum", "Spectrum")
class Spectrum(Spectral):
    """How loud each frequency band is, along a base shape."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("spectrum", "Bars", {}),
        Design(
            "spectrum",
            "Rising bars",
            {
                "grow": "out",
                "y": 84.0,
                "reach": 66.0,
                "bands": 40,
                "gap": 26.0,
                "corner": 40.0,
                "paint": "level",
                "colours": DUSK,
                "caps": True,
            },
        ),
        Design(
            "spectrum",
            "Ring of bars",
            {"base": "ring", "grow": "out", "reach": 22.0, "bands": 60, "mirror": True, "radius": 24.0},
        ),
        Design(
            "spectrum",
            "Segments",
            {
                "style": "segments",
                "bands": 28,
                "grow": "out",
                "y": 84.0,
                "reach": 66.0,
                "gap": 22.0,
                "corner": 20.0,
                "paint": "level",
                "colours": even_ramp("#5fc4b4", "#e0ac55", "#ff7a66"),
            },
        ),
        Design(
            "spectrum",
            "Dots",
            {
                "style": "dots",
                "base": "ring",
                "grow": "out",
                "reach": 24.0,
                "bands": 90,
                "mirror": True,
                "colours": QUAY,
                "dot": 1.2,
            },
        ),
        Design(
            "spectrum", "Hairlines", {"style": "hairlines", "bands": 110, "line": 0.28, "reach": 60.0, "colours": WARM}
        ),
        Design(
            "spectrum",
            "Line",
            {"style": "line", "bands": 48, "grow": "out", "y": 72.0, "reach": 52.0, "line": 0.8, "smooth": 1.5},
        ),
        Design(
            "spectrum",
            "Shore",
            {
                "style": "line-area",
                "bands": 40,
                "grow": "out",
                "y": 78.0,
                "reach": 58.0,
                "smooth": 2.0,
                "colours": QUAY,
            },
        ),
        Design(
            "spectrum",
            "Blossom",
            {
                "style": "area",
                "base": "ring",
                "grow": "out",
                "reach": 20.0,
                "bands": 28,
                "mirror": True,
                "repeat": 3,
                "smooth": 1.0,
                "colours": DUSK,
            },
        ),
        Design(
            "spectrum",
            "Nested rings",
            {
                "style": "line",
                "base": "ring",
                "grow": "out",
                "reach": 22.0,
                "radius": 26.0,
                "bands": 40,
                "mirror": True,
                "copies": 5,
                "copy_size": 80.0,
                "copy_turn": 24,
                "copy_hue": 30,
                "copy_opacity": 86.0,
                "line": 0.6,
            },
        ),
        Design("spectrum", "Clusters", {"bands": 14, "cluster": 5, "cluster_rate": 2.0, "gap": 34.0, "colours": WARM}),
        Design(
            "spectrum",
            "Third-octaves",
            {
                "spacing": "third",
                "labels": True,
                "grow": "out",
                "y": 82.0,
                "reach": 62.0,
                "gap": 24.0,
                "corner": 20.0,
                "label_size": 2.0,
                "width": 90.0,
            },
        ),
    )
    fits: ClassVar[bool] = True

    first: ClassVar[tuple[str, ...]] = ("style", "bands", "base")
    thicknesses: ClassVar[tuple[str, ...]] = ("line",)
    begins: ClassVar[dict[str, Any]] = {"grow": "both", "reach": 52.0}

    style: str = choice("bars", STYLES, label="Style", help="What stands for a band.")
    bands: int = whole(
        64, lo=4, hi=512, help="How many bands the spectrum is cut into.", when=("spacing", ("log", "linear", "mel"))
    )
    gap: float = number(
        38, lo=0, hi=95, unit="%", help="Empty part of each bar's place.", when=("style", ("bars", "segments"))
    )
    corner: float = percent(
        100,
        label="Corner radius",
        help="Corner radius, of half the bar's thickness.",
        when=("style", ("bars", "segments")),
    )
    segments: int = whole(14, lo=2, hi=64, help="Segments in a full column.", when=("style", ("segments",)))
    segment_gap: float = number(
        30,
        lo=0,
        hi=90,
        unit="%",
        label="Segment gap",
        help="Empty part of each segment.",
        when=("style", ("segments",)),
    )
    partly: str = choice(
        "whole",
        {"whole": "On or off", "part": "In part"},
        label="Last segment",
        help="Segments are wholly on or off, or the last one is as long as the level asks.",
        when=("style", ("segments",)),
    )
    dot: float = number(
        1.4,
        lo=0.1,
        hi=12,
        unit="%",
        label="Dot size",
        help="Across a dot, of the frame's short side.",
        when=("style", ("dots",)),
    )
    line: float = number(
        0.5,
        lo=0.05,
        hi=8,
        unit="%",
        label="Line width",
        help="Line width, as a share of the frame's short side.",
        when=("style", ("line", "line-area", "hairlines")),
    )
    fill: float = percent(
        40, step=1, label="Area opacity", group="colour", help="How solid the area is.", when=("style", ("line-area",))
    )
    least: float = number(
        0.6,
        lo=0,
        hi=20,
        unit="%",
        label="Minimum length",
        help="Length of a silent bar, of the frame's short side.",
        advanced=True,
        when=("style", ("bars", "hairlines", "segments")),
    )
    cluster: int = whole(
        1,
        lo=1,
        hi=12,
        label="Bars per band",
        advanced=True,
        when=("style", _SEPARATE),
        help="Several bars share a band's level, each a little different.",
    )
    cluster_spread: float = percent(
        45,
        label="Difference",
        advanced=True,
        when=(("style", _SEPARATE), ("cluster", (">", 1))),
        help="How much shorter a bar of a cluster may be.",
    )
    cluster_rate: float = rate(
        0,
        lo=0,
        hi=12,
        unit="Hz",
        label="Spread rate",
        advanced=True,
        when=(("style", _SEPARATE), ("cluster", (">", 1))),
        help="How often the differences change; 0 keeps them.",
    )
    seed: int = whole(
        1,
        lo=0,
        hi=9999,
        advanced=True,
        when=(("style", _SEPARATE), ("cluster", (">", 1))),
        help="Another number, other differences.",
    )
    labels: bool = flag(
        False,
        label="Band names",
        advanced=True,
        when=("spacing", _IEC),
        help="Writes each band's nominal frequency below it.",
    )
    label_size: float = number(
        2.6,
        lo=0.5,
        hi=10,
        unit="%",
        label="Name size",
        advanced=True,
        when=_NAMED,
        help="Name size, as a share of the frame's short side.",
    )
    label_colour: str = colour("#bda9b4", label="Name colour", advanced=True, when=_NAMED, help="Colour of the names.")

    quiet_db: float = quiet(-58, help="Level at which a bar begins to stand.")
    loud_db: float = loud(-16, help="Level at which a bar has its full length.")
    tilt_db: float = number(
        3,
        lo=-6,
        hi=12,
        unit=TILT_UNIT,
        label="Tilt",
        group="sound",
        help="Lifts bands above 1 kHz and lowers others; music falls with pitch.",
    )
    spacing: str = choice("log", SPACINGS, group="sound", help="How the bands share the range.")
    channel: str = choice(
        "mix",
        CHANNELS | {"halves": "Left and right halves"},
        group="sound",
        help="The part of the stereo sound that is read; or left on the first half and right on the second.",
        advanced=True,
    )
    smooth: float = number(
        0,
        lo=0,
        hi=24,
        unit="bands",
        label="Smoothing",
        group="sound",
        advanced=True,
        help="Spreads each band over its neighbours; the sum stays.",
    )

    attack_ms: float = attack(12, of="a bar")
    release_ms: float = release(170, of="a bar")
    average_ms: float = number(
        0,
        lo=0,
        hi=10_000,
        unit="ms",
        step=1,
        label="Average",
        group="motion",
        curve="log",
        advanced=True,
        help="Shows the mean of this stretch around the moment.",
    )
    caps: bool = flag(
        False,
        group="motion",
        help="A mark on each bar that stays at its last top, then falls.",
        when=("style", _SEPARATE),
    )
    cap_hold_ms: float = number(
        400,
        lo=0,
        hi=5000,
        unit="ms",
        step=10,
        label="Cap hold",
        group="motion",
        when=("caps", (True,)),
        help="How long a cap stays.",
    )
    cap_fall: float = number(
        60,
        lo=2,
        hi=1000,
        unit="%/s",
        step=1,
        label="Cap fall rate",
        group="motion",
        when=("caps", (True,)),
        help="How fast it falls then, of the full height.",
    )
    cap_size: float = number(
        0.7,
        lo=0.05,
        hi=6,
        unit="%",
        label="Cap size",
        group="motion",
        advanced=True,
        when=("caps", (True,)),
        help="Thickness of a cap, of the frame's short side.",
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        return super().check(values) + range_problems(values)

    @property
    def reads(self) -> BarSettings:
        """What is read of the sound, of the mix where two channels are shown."""
        return BarSettings(
            count=self.bands,
            low_hz=self.low_hz,
            # Patches can move the two past each other.
            high_hz=max(self.high_hz, self.low_hz * 1.05),
            spacing=self.spacing,  # type: ignore[arg-type]
            channel="mix" if self.channel == "halves" else self.channel,
            quiet_db=self.quiet_db,
            loud_db=self.loud_db,
            tilt_db=self.tilt_db,
            attack_ms=self.attack_ms,
            release_ms=self.release_ms,
            smooth_bands=self.smooth,
            average_ms=self.average_ms,
        )

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        """Levels, tilt and the end of the range."""
        return fitted_range(cls(settings).reads, use)

    @classmethod
    def refitted(cls, settings: dict[str, Any], before: AudioRange, after: AudioRange) -> dict[str, Any]:
        return refitted_range(cls(settings).reads, before, after)

    def draw_one(self, canvas: Canvas, at: RenderContext) -> None:
        heights = self._heights(at, capped=False)
        halves = self.channel == "halves"
        count = len(heights) // 2 if halves else len(heights)
        ground = self.ground(canvas)
        places, indices = ground.run.spots(count, halves=halves)
        reach = self.reach_on(canvas, ground)
        ink = self.ink_at(canvas, at)
        soft = self.softness * canvas.short / 100
        tall = heights[indices]
        if self.style in _SEPARATE:
            marks = self._separate(canvas, ground, places, tall)
            if self.caps:
                marks += self._cap_marks(canvas, ground, places, self._heights(at, capped=True)[indices])
            paint_marks(canvas, marks, ink, reach, softness=soft, one_level=self.style != "bars")
        else:
            self._curved(canvas, ground, places, tall, ink, reach, soft)
        if self.labels and self.spacing in _IEC:
            self._write_labels(canvas, ground, places, indices, ink.opacity)

    def _heights(self, at: RenderContext, *, capped: bool) -> Values:
        """Heights of all bars, 0 to 1; of two channels one after the other."""
        return self.shared((self.reads, capped), lambda: self._read(at, capped=capped))

    def _read(self, at: RenderContext, *, capped: bool) -> Values:
        reads = self.reads
        if at.use is None:
            result = np.zeros(len(reads.bands.edges) * (2 if self.channel == "halves" else 1))
        else:
            parts = []
            for channel in ("left", "right") if self.channel == "halves" else (reads.channel,):
                chosen = replace(reads, channel=channel)
                if capped:
                    parts.append(cap_heights(at.use, chosen, self.cap_hold_ms, self.cap_fall / 100, at.time))
                else:
                    parts.append(bar_heights(at.use, chosen, at.time))
            result = np.concatenate(parts).astype(np.float64)
        if self.cluster == 1 or self.style not in _SEPARATE:
            return result
        changes = self.integral("cluster_rate", float(at.time))
        return cluster_heights(result, self.cluster, self.cluster_spread / 100, self.seed, changes)

    def _separate(self, canvas: Canvas, ground: Ground, places: Values, tall: Values) -> list[Marks]:
        short = canvas.short / 100
        full = self.reach * short
        points, ways = ground.at(places)
        along = ground.run.figure_place(places)
        up, down = ground.shares
        if self.style == "dots":
            sides = [share for share in (up, -down) if share]
            tips = [points + ways * (tall * full * share)[:, None] for share in sides]
            size = len(sides)
            radii = np.full(len(tall) * size, self.dot * short / 2)
            return [Dots(np.concatenate(tips), radii, np.tile(along, size), np.tile(tall, size))]
        pitch = ground.outline.length / max(len(places), 1)
        thick = self.line * short if self.style == "hairlines" else max(pitch * (1 - self.gap / 100), 0.25)
        if self.style == "segments":
            return self._segments(points, ways, along, tall, full, thick, (up, down))
        lengths = np.maximum(tall * full, min(self.least * short, full))
        feet = points - ways * (lengths * down)[:, None]
        heads = points + ways * (lengths * up)[:, None]
        roundness = 1.0 if self.style == "hairlines" else self.corner / 100
        return [Bars(feet, heads, thick, roundness, along, tall)]

    def _segments(
        self,
        points: Values,
        ways: Values,
        along: Values,
        tall: Values,
        full: float,
        thick: float,
        shares: tuple[float, float],
    ) -> list[Marks]:
        count = self.segments
        steps = np.arange(count)
        asked = tall[:, None] * count
        if self.partly == "whole":
            parts = (asked >= steps[None, :] + 0.5).astype(float)
        else:
            parts = np.clip(asked - steps[None, :], 0.0, 1.0)
        if self.least > 0:
            parts[:, 0] = np.maximum(parts[:, 0], 1.0 if self.partly == "whole" else 0.5)
        bars, numbers = np.nonzero(parts > 0.02)
        part = parts[bars, numbers]
        marks: list[Marks] = []
        for share, sign in zip(shares, (1.0, -1.0), strict=True):
            if not share:
                continue
            unit = full * share / count
            feet = sign * (numbers * unit + unit * self.segment_gap / 200)
            heads = feet + sign * unit * (1 - self.segment_gap / 100) * part
            marks.append(
                Bars(
                    points[bars] + ways[bars] * feet[:, None],
                    points[bars] + ways[bars] * heads[:, None],
                    thick,
                    self.corner / 100,
                    along[bars],
                    (numbers + 0.5) / count,
                )
            )
        return marks

    def _cap_marks(self, canvas: Canvas, ground: Ground, places: Values, tops: Values) -> list[Marks]:
        short = canvas.short / 100
        points, ways = ground.at(places)
        along = ground.run.figure_place(places)
        pitch = ground.outline.length / max(len(places), 1)
        wide = self.dot * short if self.style == "dots" else max(pitch * (1 - self.gap / 100), 0.25)
        if self.style == "hairlines":
            wide = max(self.line * short * 2, pitch * 0.5)
        size = self.cap_size * short
        across = np.stack([-ways[:, 1], ways[:, 0]], axis=1) * wide / 2
        lift = np.maximum(tops * self.reach * short, min(self.least * short, self.reach * short))
        marks: list[Marks] = []
        for share, sign in zip(ground.shares, (1.0, -1.0), strict=True):
            if share:
                middle = points + ways * (sign * (lift * share + size))[:, None]
                marks.append(Bars(middle - across, middle + across, size, self.corner / 100, along, tops))
        return marks

    def _curved(
        self, canvas: Canvas, ground: Ground, places: Values, tall: Values, ink: Any, reach: Any, soft: float
    ) -> None:
        full = self.reach * canvas.short / 100
        lines: list[tuple[Values, bool]] = []
        areas: list[Values] = []
        up, down = ground.shares
        steps = 6 if len(tall) <= 160 else 3 if len(tall) <= 320 else 2
        # Copies of one piece differ in size, turn and place alone: their heights along the shape are the same.
        name = ("course", steps, tall.tobytes()) if len(ground.outline.pieces) == 1 else ("course", id(ground), steps)
        for fine, heights, closed, piece in self.shared(name, lambda: through(ground, places, tall, steps)):
            points, ways = on_piece(ground, piece, fine)
            upper = points + ways * (heights * full * up)[:, None]
            lower = points - ways * (heights * full * down)[:, None]
            lines += [(edge, closed) for edge, share in ((upper, up), (lower, down)) if share]
            areas += [upper, lower] if closed else [np.concatenate([upper, lower[::-1]])]
        marks: list[Marks] = []
        if self.style != "line":
            marks.append(Areas(areas, holes=True, strength=self.fill / 100 if self.style == "line-area" else 1.0))
        if self.style != "area":
            marks.append(Strokes(lines, self.line * canvas.short / 100))
        paint_marks(canvas, marks, ink, reach, softness=soft)

    def _write_labels(
        self, canvas: Canvas, ground: Ground, places: Values, indices: NDArray[np.intp], opacity: float
    ) -> None:
        size = self.label_size * canvas.short / 100
        names = [nominal_hz(centre) for centre, _, _ in iec_bands(self.low_hz, self.reads.high_hz, self.spacing)]  # type: ignore[arg-type]
        points, ways = ground.at(places)
        down = self.reach * canvas.short / 100 * (1 - ground.up)
        middles = points - ways * (down + size)
        step = self.cluster if self.style in _SEPARATE else 1
        labels = []
        for index, (x, y) in zip(indices.tolist(), middles.tolist(), strict=True):
            if index % step == step // 2 and index // step < len(names):
                hz = names[index // step]
                labels.append((f"{hz / 1000:g}k" if hz >= 1000 else f"{hz:g}", x, y))
        draw_labels(canvas, labels, size, self.label_colour, opacity)
