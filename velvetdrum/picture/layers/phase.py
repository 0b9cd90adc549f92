"""The phase figure: left against right, a quarter turn aside, so that mono stands upright."""

from __future__ import annotations

from itertools import pairwise
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE
from velvetdrum.declare.settings import choice, heard_sound, number, whole
from velvetdrum.declare.vocabulary import degrees, position_x, position_y
from velvetdrum.picture.bases.image_placement import box_about
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import point_ground
from velvetdrum.picture.figures.marks.marks import Dots, Marks, Strokes
from velvetdrum.picture.figures.marks.painter import paint_marks
from velvetdrum.picture.figures.paint.fields import Reach
from velvetdrum.picture.figures.paint.paint import Painted
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.waves import MARGIN, at_places, fit_gain, sounding, stereo

Values = NDArray[np.float64]
_SLICES = 12


@layer_kind("phase", "Phase figure")
class PhaseFigure(Painted):
    """Left against right: mono stands upright, opposite phase lies flat."""

    designs: ClassVar[tuple[Design, ...]] = (Design("waveform", "Phase figure", {}),)
    fits: ClassVar[bool] = True

    begins = {"paint": "level", "colours": [{"at": 0, "colour": "#5fc4b4"}, {"at": 1, "colour": "#a99bff"}]}  # noqa: RUF012
    first = ("style",)

    style: str = choice("line", {"line": "Line", "dots": "Dots"}, label="Style", help="A line, or dots.")
    x: float = position_x(50, of="the middle")
    y: float = position_y(50, of="the middle")
    radius: float = number(
        40, lo=1, hi=120, unit="%", help="Reach of full scale in both channels, of the frame's short side."
    )
    turn: float = degrees(0, help="Turns the figure about its middle, clockwise.", label="Rotation")
    line: float = number(
        0.35,
        lo=0.05,
        hi=6,
        unit="%",
        label="Line width",
        help="Line width, as a share of the frame's short side.",
        when=("style", ("line",)),
    )
    dot: float = number(
        0.6,
        lo=0.05,
        hi=6,
        unit="%",
        label="Dot size",
        help="Dot size, as a share of the frame's short side.",
        when=("style", ("dots",)),
    )
    dots: int = whole(500, lo=8, hi=3000, help="How many dots there are.", when=("style", ("dots",)))
    window_ms: float = number(
        40, lo=2, hi=400, unit="ms", step=1, label="Window", group="sound", help="How much of the sound is shown."
    )
    listens: str = heard_sound()
    gain_db: float = number(
        4,
        lo=-20,
        hi=40,
        unit="dB",
        label="Gain",
        group="sound",
        help="0 dB: full scale in both channels reaches the rim.",
    )
    afterglow_ms: float = number(
        25,
        lo=0,
        hi=400,
        unit="ms",
        step=1,
        label="Afterglow",
        group="motion",
        help="Time in which the older part fades to 37 %.",
    )

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        """The gain."""
        return {"gain_db": fit_gain(use)}

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        reach = 2 * self.radius * canvas.short / 100
        return box_about(canvas.x(self.x), canvas.y(self.y), reach, reach)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        if at.use is None or float(at.time) < sounding(at.use)[0]:
            return
        points, ages = self._points(canvas, at)
        centre = point_ground(canvas.x(self.x), canvas.y(self.y))
        full = canvas.short * self.radius / 100
        fading = np.exp(-ages * 1000 / self.afterglow_ms) if self.afterglow_ms > 0 else np.ones_like(ages)
        newness = 1.0 - ages / max(float(ages.max()), 1e-9)
        levels = np.hypot(*(points - (canvas.x(self.x), canvas.y(self.y))).T) / full
        marks: list[Marks]
        if self.style == "dots":
            chosen = np.linspace(0, len(points) - 1, min(self.dots, len(points))).astype(int)
            radii = np.full(len(chosen), self.dot * canvas.short / 200)
            marks = [Dots(points[chosen], radii, newness[chosen], levels[chosen], fading[chosen].tolist())]
        else:
            edges = np.linspace(0, len(points) - 1, _SLICES + 1).astype(int)
            pairs = list(pairwise(edges))
            lines = [(points[low : high + 1], False) for low, high in pairs]
            strengths = [float(fading[(low + high) // 2]) for low, high in pairs]
            along = np.array([newness[(low + high) // 2] for low, high in pairs])
            marks = [Strokes(lines, self.line * canvas.short / 100, strengths, along)]
        paint_marks(
            canvas, marks, self.ink(canvas, float(at.time)), Reach(centre, full, full), one_level=self.style == "dots"
        )

    def _points(self, canvas: Canvas, at: RenderContext) -> tuple[Values, Values]:
        """Points of the figure in pixels, and their ages in seconds, the oldest first."""
        use = at.use
        assert use is not None
        now = float(at.time)
        first, _ = sounding(use)
        # Centred on now, as all windows are; a sound that has not begun is not shown.
        length = self.window_ms / 1000
        begin = max(now - length / 2, first)
        start = (use.in_s + begin) * RATE
        # Twice as many points as samples where the figure is large enough to show corners between them.
        fine = 2 if canvas.short * self.radius / 100 > 200 else 1
        count = max(int((now + length / 2 - begin) * RATE * fine), 8)
        base = int(np.floor(start)) - MARGIN - 1
        pair = stereo(use, base, count // fine + 2 * MARGIN + 6)
        places = start - base + np.arange(count) / fine
        left, right = at_places(pair[:, 0], places), at_places(pair[:, 1], places)
        gain = 10 ** (self.gain_db / 20) * canvas.short * self.radius / 100 / 2
        angle = np.deg2rad(self.turn)
        across, up = (right - left) * gain, (left + right) * gain
        x = canvas.x(self.x) + across * np.cos(angle) + up * np.sin(angle)
        y = canvas.y(self.y) + across * np.sin(angle) - up * np.cos(angle)
        ages = (count - 1 - np.arange(count)) / (fine * RATE)
        return np.stack([x, y], axis=1), ages
