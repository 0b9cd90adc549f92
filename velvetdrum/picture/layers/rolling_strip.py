"""The rolling strip: some seconds of the sound, moving past a line that stands for now."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from velvetdrum.audio.decode import RATE
from velvetdrum.declare.settings import colour, flag, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.marks.envelopes import EnvelopeFigure
from velvetdrum.picture.figures.marks.marks import Bars
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.designs import DUSK, QUAY, Design
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.waves import columns

_OVERVIEW = 512


@layer_kind("rolling-strip", "Rolling strip")
class RollingStrip(EnvelopeFigure):
    """A stretch of the sound that moves past a fixed line for now."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("waveform", "Rolling strip", {"colours": QUAY}),
        Design(
            "waveform",
            "Rolling hills",
            {
                "style": "area",
                "grow": "out",
                "y": 76.0,
                "reach": 48.0,
                "seconds": 4.0,
                "shows": "both",
                "colours": DUSK,
                "now": 62.0,
            },
        ),
    )

    first: ClassVar[tuple[str, ...]] = ("style", "seconds", "base")
    begins: ClassVar[dict[str, Any]] = {"grow": "both", "reach": 30.0, "bars": 72}

    seconds: float = number(
        6,
        lo=0.2,
        hi=120,
        unit="s",
        curve="log",
        label="Time span",
        group="sound",
        help="How much of the sound is in sight.",
    )
    now: float = percent(50, label="Now position", help="Where now stands along the figure.")
    now_line: bool = flag(True, label="Now line", help="Draws a line where now is.")
    now_width: float = number(
        0.4,
        lo=0.05,
        hi=5,
        unit="%",
        label="Now line width",
        advanced=True,
        when=("now_line", (True,)),
        help="Now line width, as a share of the frame's short side.",
    )
    now_colour: str = colour(
        "#f4eadb", label="Now line colour", when=("now_line", (True,)), help="Colour of the line that stands for now."
    )

    def draw_one(self, canvas: Canvas, at: RenderContext) -> None:
        use = at.use
        if use is None:
            return
        count = self.column_count(canvas)
        # Columns belong to the sound, not to the picture: they move, and never change while they do.
        per_column = self.seconds * RATE / count
        left = (use.in_s + float(at.time)) * RATE - self.now / 100 * self.seconds * RATE
        number_ = int(np.floor(left / per_column))
        result = columns(use, self.channel, number_ * per_column, per_column, count + 1)
        edges = np.clip(((number_ + np.arange(count + 2)) * per_column - left) / (self.seconds * RATE), 0.0, 1.0)
        peaks = _loudest(use, self.channel, per_column)
        self.paint_columns(canvas, at, edges, self.heights(result, peaks), self.now / 100, hide_rest=False)
        if self.now_line:
            self._draw_now(canvas, at)

    def _draw_now(self, canvas: Canvas, at: RenderContext) -> None:
        ground = self.ground(canvas)
        run = ground.run
        places = run.places(np.array([self.now / 100]))
        points, ways = ground.at(places)
        full = canvas.short * self.reach / 100
        width = self.now_width * canvas.short / 100
        up, down = full * ground.up + width, full * (1 - ground.up) + width
        ink = self.ink_at(canvas, at)
        plain = ink.in_one(self.now_colour)
        zeros = np.zeros(len(points))
        marks = Bars(points - ways * down, points + ways * up, width, 1.0, zeros, zeros)
        paint_marks(canvas, [marks], plain, self.reach_on(canvas, ground))


def _loudest(use: AudioRange, channel: str, per_column: float) -> tuple[float, float]:
    """The highest peak and the highest RMS of columns about as long, over the used stretch."""
    length = (use.out_s - use.in_s) * RATE
    count = int(np.clip(length / per_column, 1, 8 * _OVERVIEW))
    result = columns(use, channel, use.in_s * RATE, length / count, count)
    return float(result[:, 0].max()), float(result[:, 1].max())
