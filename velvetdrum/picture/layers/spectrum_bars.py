"""Spectrum bars: a row of bars, one a frequency band, as tall as the sound is loud there."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np

from velvetdrum.kinds.settings import Stop, choice, number, stops, whole
from velvetdrum.picture.canvas import Box, Canvas, Pixels, Turn
from velvetdrum.picture.colour import dithered, packed_ramp, ramp
from velvetdrum.picture.drawing import DrawnLayer, Moment
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.bars import BarSettings, bar_heights


@layer_kind("spectrum-bars", "Spectrum bars")
class SpectrumBars(DrawnLayer):
    """A row of bars, one a frequency band, as tall as the sound is loud there."""

    bars: int = whole(64, lo=4, hi=256, help="How many bands the spectrum is cut into.")
    x: float = number(50, lo=-50, hi=150, unit="%", label="Across", help="Middle of the row, across the frame.")
    y: float = number(50, lo=-50, hi=150, unit="%", label="Down", help="The line that the bars grow from.")
    width: float = number(76, lo=1, hi=200, unit="%", help="Width of the row, of the frame's width.")
    height: float = number(52, lo=1, hi=200, unit="%", help="Length of a full bar, of the frame's height.")
    grow: str = choice(
        "both",
        {"up": "Up", "down": "Down", "both": "Both"},
        help="Where the bars grow from their line.",
    )
    turn: float = number(0, lo=-360, hi=360, unit="°", step=1, help="Turns the row about its middle, clockwise.")
    gap: float = number(38, lo=0, hi=95, unit="%", help="Empty part of each bar's place.")
    corner: float = number(100, lo=0, hi=100, unit="%", label="Roundness",
                           help="Corner radius, of half the bar's thickness.")  # fmt: skip
    least: float = number(0.6, lo=0, hi=20, unit="%", label="Least length",
                          help="Length of a silent bar, of the frame's short side.", often=False)  # fmt: skip

    quiet_db: float = number(-58, lo=-120, hi=20, unit="dB", step=1, label="Quiet", group="sound",
                             help="Level at which a bar begins to stand.")  # fmt: skip
    loud_db: float = number(-16, lo=-110, hi=30, unit="dB", step=1, label="Loud", group="sound",
                            help="Level at which a bar has its full length.")  # fmt: skip
    low_hz: float = number(40, lo=15, hi=20_000, unit="Hz", step=1, label="Lowest", group="sound", curve="log",
                           help="Where the first band begins.")  # fmt: skip
    high_hz: float = number(14_000, lo=30, hi=22_000, unit="Hz", step=10, label="Highest", group="sound",
                            curve="log", help="Where the last band ends.")  # fmt: skip
    tilt_db: float = number(3, lo=-6, hi=12, unit="dB/octave", label="Tilt", group="sound",
                            help="Lifts bands above 1 kHz and lowers others; music falls with pitch.")  # fmt: skip
    channel: str = choice(
        "mix",
        {"mix": "Mix", "left": "Left", "right": "Right", "mid": "Mid", "side": "Side"},
        group="sound",
        help="The part of the stereo sound that is read.",
        often=False,
    )
    spacing: str = choice(
        "log",
        {"log": "Equal in octaves", "linear": "Equal in Hz"},
        group="sound",
        help="How the bands share the range.",
        often=False,
    )

    attack_ms: float = number(12, lo=0, hi=2000, unit="ms", step=1, label="Attack", group="motion", curve="log",
                              help="Time in which a bar covers 63 % of a rise.")  # fmt: skip
    release_ms: float = number(170, lo=0, hi=5000, unit="ms", step=1, label="Release", group="motion", curve="log",
                               help="Time in which a bar covers 63 % of a fall.")  # fmt: skip

    colour_by: str = choice(
        "frequency",
        {"frequency": "Low to high", "level": "Quiet to loud"},
        label="Colours run",
        group="colour",
        help="From the lowest band to the highest, or from a bar's foot to its full length.",
    )
    colours: tuple[Stop, ...] = stops(
        [(0.0, "#ff7a66"), (0.34, "#e0ac55"), (0.67, "#5fc4b4"), (1.0, "#a99bff")],
        label="Gradient",
        help="Colours of the bars.",
    )
    opacity: float = number(100, lo=0, hi=100, unit="%", step=1, group="colour", help="How solid the bars are.")

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        found = []
        if values["high_hz"] < values["low_hz"] * 1.05:
            found.append(("high_hz", "Highest must lie above Lowest: raise it, or lower the other."))
        if values["loud_db"] < values["quiet_db"] + 1:
            found.append(("loud_db", "Loud must lie at least 1 dB above Quiet."))
        return found

    @property
    def reads(self) -> BarSettings:
        return BarSettings(
            count=self.bars,
            low_hz=self.low_hz,
            # Patches can move the two past each other.
            high_hz=max(self.high_hz, self.low_hz * 1.05),
            spacing="linear" if self.spacing == "linear" else "log",
            channel=self.channel,
            quiet_db=self.quiet_db,
            loud_db=self.loud_db,
            tilt_db=self.tilt_db,
            attack_ms=self.attack_ms,
            release_ms=self.release_ms,
        )

    def draw(self, canvas: Canvas, at: Moment) -> None:
        heights = bar_heights(at.use, self.reads, at.time) if at.use else np.zeros(self.bars, np.float32)
        full = canvas.height * self.height / 100
        least = min(canvas.short * self.least / 100, full)
        place = canvas.width * self.width / 100 / self.bars
        thickness = max(place * (1 - self.gap / 100), 0.25)
        left = canvas.x(self.x) - place * self.bars / 2 + (place - thickness) / 2
        line = canvas.y(self.y)
        up, down = {"up": (1.0, 0.0), "down": (0.0, 1.0), "both": (0.5, 0.5)}[self.grow]
        lengths = np.maximum(heights.astype(np.float64) * full, least)
        boxes, radii, shown = [], [], []
        for index, length in enumerate(lengths):
            if length <= 0:
                continue
            x = left + index * place
            boxes.append(Box(x, line - up * length, x + thickness, line + down * length))
            radii.append(min(thickness, length) / 2 * self.corner / 100)
            shown.append(index)
        opacity = self.opacity / 100
        turn = Turn(self.turn, canvas.x(self.x), line)
        if self.colour_by == "frequency":
            colours = _hex_ramp(self.colours, self.bars)
            canvas.rounded_boxes(boxes, radii, [colours[index] for index in shown], opacity, turn)
            return
        area = Box(left - 1, line - up * full - 1, left + place * self.bars + 1, line + down * full + 1)
        area = turn.bounds(area)
        columns = area.grown_to_pixels(canvas.width, canvas.height)
        if columns[2] > columns[0] and columns[3] > columns[1]:
            field = _level_field(self.colours, columns, turn, up * full, down * full)
            canvas.reveal(boxes, radii, field, area, opacity, turn)


@lru_cache(maxsize=32)
def _hex_ramp(colours: tuple[Stop, ...], count: int) -> tuple[str, ...]:
    table = np.rint(ramp(colours, count) * 255).astype(int)
    return tuple(f"#{red:02x}{green:02x}{blue:02x}" for red, green, blue in table)


@lru_cache(maxsize=8)
def _level_field(
    colours: tuple[Stop, ...], area: tuple[int, int, int, int], turn: Turn, up: float, down: float
) -> Pixels:
    """Colours from the bars' line outward, for the pixels of `area` (left, top, right, bottom)."""
    left, top, right, bottom = area
    y = (np.arange(top, bottom) + 0.5 - turn.y)[:, None]
    if turn.degrees:
        angle = np.deg2rad(turn.degrees)
        x = (np.arange(left, right) + 0.5 - turn.x)[None, :]
        above = x * np.sin(angle) - y * np.cos(angle)
    else:
        above = np.broadcast_to(-y, (bottom - top, 1))
    reach = np.where(above > 0, above / max(up, 1e-6), -above / max(down, 1e-6))
    words = packed_ramp(ramp(colours, 1024))[np.rint(np.clip(reach, 0, 1) * 1023).astype(np.intp)]
    if words.shape[1] == 1:
        words = np.repeat(words, right - left, axis=1)
    return np.ascontiguousarray(dithered(words))
