"""The spectrum: how loud each frequency band is, as bars, segments, dots, hairlines, a line or an area."""

from __future__ import annotations

from copy import copy
from dataclasses import replace
from fractions import Fraction
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.records import changed
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import Ground
from velvetdrum.picture.figures.marks.clusters import cluster_heights
from velvetdrum.picture.figures.marks.lines import on_piece, through
from velvetdrum.picture.figures.marks.marks import Areas, Bars, Dots, Marks, Strokes
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.figures.marks.spectrum_designs import DESIGNS
from velvetdrum.picture.figures.marks.spectrum_settings import IEC, NAMED, PAIRS, SEPARATE, SpectrumSettings
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.text.labels import draw_labels
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.bars import bar_heights, cap_heights
from velvetdrum.signals.pitch_bands import PITCH_CLASSES
from velvetdrum.signals.spectrum import iec_bands, nominal_hz

Values = NDArray[np.float64]


@layer_kind("spectrum", "Spectrum")
class Spectrum(SpectrumSettings):
    """How loud each frequency band is, along a base shape."""

    designs: ClassVar[tuple[Design, ...]] = DESIGNS

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        for number_ in range(self.echoes, 0, -1):
            time = at.time - Fraction(self.echo_ms * number_ / 1000).limit_denominator(1_000_000)
            if time >= 0:
                self._echo(number_)._draw_now(canvas, changed(at, time=time))
        self._draw_now(canvas, at)

    def _draw_now(self, canvas: Canvas, at: RenderContext) -> None:
        super().draw(canvas, at)

    def _echo(self, number_: int) -> Spectrum:
        """The figure as an earlier spectrum shows it."""
        result = copy(self)
        for name in self.sizes:
            setattr(result, name, getattr(self, name) * (self.echo_size / 100) ** number_)
        result.opacity = self.opacity * (self.echo_opacity / 100) ** number_
        return result

    def draw_one(self, canvas: Canvas, at: RenderContext) -> None:
        heights = self._heights(at, capped=False)
        halves = self.channel in PAIRS
        count = len(heights) // 2 if halves else len(heights)
        ground = self.ground(canvas)
        places, indices = ground.run.spots(count, halves=halves)
        reach = self.reach_on(canvas, ground)
        ink = self.ink_at(canvas, at)
        soft = self.softness * canvas.short / 100
        tall = heights[indices]
        if self.style in SEPARATE:
            marks = self._separate(canvas, ground, places, tall)
            if self.caps:
                marks += self._cap_marks(canvas, ground, places, self._heights(at, capped=True)[indices])
            paint_marks(canvas, marks, ink, reach, softness=soft, one_level=self.style != "bars")
        else:
            self._curved(canvas, ground, places, tall, ink, reach, soft)
        if self.labels and self.spacing in NAMED:
            self._write_labels(canvas, ground, places, indices, ink.opacity)

    def _heights(self, at: RenderContext, *, capped: bool) -> Values:
        """Heights of all bars, 0 to 1; of two channels one after the other."""
        return self.shared((self.reads, capped), lambda: self._read(at, capped=capped))

    def _read(self, at: RenderContext, *, capped: bool) -> Values:
        reads = self.reads
        if at.use is None:
            result = np.zeros(len(reads.bands.edges) * (2 if self.channel in PAIRS else 1))
        else:
            parts = []
            for channel in PAIRS.get(self.channel, (reads.channel,)):
                chosen = replace(reads, channel=channel)
                if capped:
                    parts.append(cap_heights(at.use, chosen, self.cap_hold_ms, self.cap_fall / 100, at.time))
                else:
                    parts.append(bar_heights(at.use, chosen, at.time))
            result = np.concatenate(parts).astype(np.float64)
        if self.cluster == 1 or self.style not in SEPARATE:
            return result
        changes = self.integral("cluster_rate", float(at.time))
        spread, slope = self.cluster_spread / 100, self.cluster_slope / 100
        return cluster_heights(result, self.cluster, spread, self.seed, changes, slope)

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
        names = list(PITCH_CLASSES)
        if self.spacing in IEC:
            bands = iec_bands(self.low_hz, self.reads.high_hz, self.spacing)  # type: ignore[arg-type]
            names = [_called(nominal_hz(centre)) for centre, _, _ in bands]
        points, ways = ground.at(places)
        down = self.reach * canvas.short / 100 * (1 - ground.up)
        middles = points - ways * (down + size)
        step = self.cluster if self.style in SEPARATE else 1
        labels = []
        for index, (x, y) in zip(indices.tolist(), middles.tolist(), strict=True):
            if index % step == step // 2 and index // step < len(names):
                labels.append((names[index // step], x, y))
        draw_labels(canvas, labels, size, self.label_colour, opacity)


def _called(hz: float) -> str:
    """How a frequency is written below a bar."""
    return f"{hz / 1000:g}k" if hz >= 1000 else f"{hz:g}"
