"""Envelopes as marks: neighbouring columns along a base shape, as bars, as a line or as an area."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, colour, heard_sound, number, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import Ground
from velvetdrum.picture.figures.marks.figure import Figure
from velvetdrum.picture.figures.marks.marks import Areas, Bars, Marks, Strokes
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.figures.marks.traces import lay
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Viewport

Values = NDArray[np.float64]


class EnvelopeFigure(Figure):
    """Settings and drawing of figures that show the envelope of a stretch of the sound."""

    thicknesses: ClassVar[tuple[str, ...]] = ("line",)
    begins: ClassVar[dict[str, Any]] = {"grow": "both", "reach": 30.0}

    style: str = choice(
        "bars",
        {"bars": "Bars", "area": "Area", "line": "Line"},
        label="Style",
        help="Bars, a filled area, or its outline.",
    )
    bars: int = whole(96, lo=4, hi=800, help="Bars over the whole figure.", when=("style", ("bars",)))
    gap: float = number(42, lo=0, hi=95, unit="%", help="Empty part of each bar's place.", when=("style", ("bars",)))
    corner: float = percent(
        100, label="Corner radius", when=("style", ("bars",)), help="Corner radius, of half the bar's thickness."
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
    least: float = number(
        0.6,
        lo=0,
        hi=20,
        unit="%",
        label="Minimum length",
        advanced=True,
        help="Length of a silent bar, as a share of the frame's short side.",
        when=("style", ("bars",)),
    )
    shows: str = choice(
        "rms",
        {"peak": "Peak", "rms": "RMS", "both": "Both"},
        group="sound",
        help="The highest sample of each stretch, its RMS, or the RMS before the peak.",
    )
    gain_db: float = number(
        0,
        lo=-20,
        hi=30,
        unit="dB",
        label="Gain",
        group="sound",
        help="0 dB: the loudest place of the track reaches the full height.",
    )
    listens: str = heard_sound()
    channel: str = choice(
        "mix",
        {"mix": "Mix", "left": "Left", "right": "Right"},
        group="sound",
        advanced=True,
        help="The part of the stereo sound that is read.",
    )
    rest: str = colour("#f4eadb", label="Unplayed part", help="Colour of what has not been played yet.")
    rest_opacity: float = percent(
        28, step=1, label="Unplayed opacity", group="colour", help="How solid that is, of the figure."
    )

    def column_count(self, canvas: Viewport) -> int:
        """Columns over the whole figure. Those of a line or an area are about as wide as two pixels of a large frame,
        and the same in a small one, so that both show one shape."""
        if self.style == "bars":
            return self.bars
        ground = self.ground(canvas)
        shares = ground.run.repeat * (2 if ground.run.mirror else 1)
        return int(np.clip(round(ground.outline.length / canvas.short / shares * 540), 32, 1200))

    def heights(self, found: NDArray[np.float32], peaks: tuple[float, float]) -> list[tuple[Values, float]]:
        """Heights from 0 to 1 with their strength, back to front, from peak and RMS, shape (n, 2); `peaks` are those
        that reach the full height."""
        gain = 10 ** (self.gain_db / 20)
        peak = np.clip(found[:, 0].astype(np.float64) * gain / max(peaks[0], 1e-4), 0, 1)
        if self.shows == "peak":
            return [(peak, 1.0)]
        if self.shows == "rms":
            return [(np.clip(found[:, 1].astype(np.float64) * gain / max(peaks[1], 1e-4), 0, 1), 1.0)]
        rms = np.clip(found[:, 1].astype(np.float64) * gain / max(peaks[0], 1e-4), 0, 1)
        return [(peak, 0.45), (rms, 1.0)]

    def paint_columns(
        self,
        canvas: Canvas,
        at: RenderContext,
        edges: Values,
        heights: list[tuple[Values, float]],
        played: float,
        *,
        hide_rest: bool,
    ) -> None:
        """Draw columns; `edges` are their ends in the figure, 0 to 1, one more than columns. What lies beyond `played`
        is drawn in the colour of the rest, or hidden."""
        ground = self.ground(canvas)
        reach = self.reach_on(canvas, ground)
        full = canvas.short * self.reach / 100
        ink = self.ink_at(canvas, at)
        softness = self.softness * canvas.short / 100
        faint = ink.in_one(self.rest).fainter(self.rest_opacity / 100)
        for tall, strength in heights:
            for first, last, colours in ((played, 1.0, faint), (0.0, played, ink)):
                if last <= first or (hide_rest and colours is faint):
                    continue
                chosen = colours.fainter(strength)
                if self.style == "bars":
                    marks = self._bar_marks(canvas, ground, edges, tall, full, (first, last))
                else:
                    marks = self._curve_marks(canvas, ground, edges, tall, full, (first, last))
                paint_marks(canvas, marks, chosen, reach, softness=softness)

    def _bar_marks(
        self, canvas: Canvas, ground: Ground, edges: Values, tall: Values, full: float, span: tuple[float, float]
    ) -> list[Marks]:
        run, short = ground.run, canvas.short / 100
        low, high = np.maximum(edges[:-1], span[0]), np.minimum(edges[1:], span[1])
        shares = np.clip((high - low) / np.maximum(edges[1:] - edges[:-1], 1e-9), 0.0, 1.0)
        kept = np.flatnonzero(shares > 1e-3)
        if not len(kept):
            return []
        middle = (edges[:-1] + edges[1:])[kept] / 2
        places = run.places(middle)
        copies = len(places) // len(middle)
        # A bar's place is that of a whole column, also where the row begins or ends within one.
        width = float(np.max(np.diff(edges))) * ground.outline.length / copies
        thick = max(width * (1 - self.gap / 100), 0.25)
        lengths = np.tile(np.maximum(tall[kept] * full, min(self.least * short, full)), copies)
        points, ways = ground.at(places)
        feet = points - ways * (lengths * (1 - ground.up))[:, None]
        heads = points + ways * (lengths * ground.up)[:, None]
        strengths = np.tile(shares[kept], copies)
        return [
            Bars(
                feet,
                heads,
                thick,
                self.corner / 100,
                run.figure_place(places),
                np.tile(tall[kept], copies),
                strengths.tolist() if (strengths < 0.999).any() else None,
            )
        ]

    def _curve_marks(
        self, canvas: Canvas, ground: Ground, edges: Values, tall: Values, full: float, span: tuple[float, float]
    ) -> list[Marks]:
        middle = np.clip((edges[:-1] + edges[1:]) / 2, edges[0], edges[-1])
        inside = (middle > span[0]) & (middle < span[1])
        ends = np.clip([max(span[0], float(middle[0])), min(span[1], float(middle[-1]))], 0.0, 1.0)
        if ends[1] <= ends[0]:
            return []
        places = np.concatenate([[ends[0]], middle[inside], [ends[1]]])
        values = np.interp(places, middle, tall)
        if span[0] <= 0.0 and places[0] > edges[0]:
            places, values = np.concatenate([[edges[0]], places]), np.concatenate([values[:1], values])
        if span[1] >= 1.0 and places[-1] < edges[-1]:
            places, values = np.concatenate([places, [edges[-1]]]), np.concatenate([values, values[-1:]])
        lines: list[tuple[Values, bool]] = []
        polygons: list[Values] = []
        for laid in lay(ground, places, values):
            upper = laid.edge(ground, laid.values * full * ground.up)
            lower = laid.edge(ground, -laid.values * full * (1 - ground.up))
            lines += [(edge, False) for edge, share in ((upper, ground.up), (lower, 1 - ground.up)) if share]
            polygons.append(np.concatenate([upper, lower[::-1]]))
        if self.style == "line":
            return [Strokes(lines, self.line * canvas.short / 100)]
        return [Areas(polygons)]
