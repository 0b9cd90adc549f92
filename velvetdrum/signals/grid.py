"""The beat grid of a project: the measured beats with the corrections that people make, a typed tempo, a map of tempos,
or a click track."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.clicks import click_track
from velvetdrum.declare.schema import Declared
from velvetdrum.declare.settings import TempoRow, choice, heard_sound, moved_times, number, tempo_rows, whole
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.beat_bars import BeatBars
from velvetdrum.signals.tempo_map import mapped_beats

Times = NDArray[np.float64]


class BeatSettings(Declared):
    """Where the beats are: as measured, with corrections, at a typed or tapped tempo, by a map, or as clicked."""

    title = "Beats"

    source: str = choice(
        "measured",
        {"measured": "Measured", "typed": "Typed tempo", "map": "Tempo map", "clicks": "Click track"},
        help="The beats found in the recording, an even grid, a map of tempos and meters, or the clicks of a track.",
    )
    listens: str = heard_sound()
    reading: str = choice(
        "1",
        {"1": "The likeliest", "2": "The second", "3": "The third"},
        help="Which of the tempos found in the recording: a triplet's third, or its beat.",
    )
    factor: str = choice(
        "1",
        {"1/4": "Quarter", "1/2": "Half", "1": "As measured", "2": "Double", "4": "Four times"},
        help="When the measured tempo is the half or the double of the one that you tap.",
    )
    shift: float = number(0, lo=-16, hi=16, unit="beats", step=0.25, help="Moves all beats on, or back.")
    tempo_bpm: float = number(
        120, lo=20, hi=400, unit="bpm", step=0.01, label="Tempo", help="Beats per minute of the even grid."
    )
    anchor_s: float = number(
        0,
        lo=0,
        hi=10_800,
        unit="s",
        step=0.001,
        label="First beat",
        help="A beat of the even grid, or the first one of the map, in seconds of the recording.",
    )
    bar: int = whole(4, lo=1, hi=16, unit="beats", label="Bar", help="Beats in a bar.")
    first_bar_s: float = number(
        0,
        lo=0,
        hi=10_800,
        unit="s",
        step=0.001,
        label="First bar",
        help="A bar begins on the beat nearest to this second of the recording.",
    )
    tempos: tuple[TempoRow, ...] = tempo_rows(
        label="Tempo map", help="From which bar on which tempo and which meter holds; at once, or gradually."
    )
    pickup: float = number(
        0, lo=0, hi=32, unit="beats", step=0.5, label="Pick-up", help="Beats before the first whole bar of the map."
    )
    moved: tuple[tuple[float, float], ...] = moved_times(
        label="Moved beats",
        help="Beats that were dragged: the second where each was, and where it is; those between go along.",
    )


FACTORS = {"1/4": 0.25, "1/2": 0.5, "1": 1.0, "2": 2.0, "4": 4.0}


@dataclass(frozen=True)
class BeatGrid:
    """Beats in seconds of the project. Beat 0 begins a bar; between beats, and beyond them, the tempo of the
    neighbours goes on. `was` and `at` are beats that were moved: where they would be, and where they are."""

    times: Times
    numbers: Times
    bars: BeatBars
    was: Times = field(default_factory=lambda: np.zeros(0))
    at: Times = field(default_factory=lambda: np.zeros(0))

    @classmethod
    def of(cls, settings: BeatSettings, use: AudioRange | None) -> BeatGrid | None:
        """The grid of a project, or None where there is no steady beat.

        Parameters
        ----------
        settings
            What the project says of its beats.
        use
            The used part of the recording.
        """
        in_s = use.in_s if use else 0.0
        if use is not None:
            # Where what they are found in is not here yet, there are none.
            use = use.heard(settings.listens)
        times, numbers, bars = _laid_out(settings, use)
        if len(times) < 2:
            return None
        even = bars or BeatBars.even(settings.bar)
        grid = cls(times - in_s, numbers, even, *(np.array(settings.moved).reshape(-1, 2).T - in_s))
        if settings.shift:
            grid = replace(grid, times=grid._laid(numbers + settings.shift))
        if bars is not None:
            return grid
        first = np.rint(grid.beat_at(np.array([settings.first_bar_s - in_s])))[0]
        return replace(grid, numbers=numbers - first)

    @property
    def tempo_bpm(self) -> float:
        """Beats per minute: the median."""
        return float(60.0 / np.median(np.diff(self.time_of(self.numbers)) / np.diff(self.numbers)))

    def beat_at(self, times: Times) -> Times:
        """Number of the beat, with its fraction, at times in seconds of the project.

        Parameters
        ----------
        times
            Times in seconds of the project.
        """
        times = np.asarray(times, float)
        if len(self.at):
            times = times + np.interp(times, self.at, self.was - self.at)
        return _through(self.times, self.numbers, times)

    def time_of(self, beats: Times) -> Times:
        """Seconds of the project at which beats begin.

        Parameters
        ----------
        beats
            Numbers of beats, with fractions.
        """
        times = self._laid(beats)
        return times + np.interp(times, self.was, self.at - self.was) if len(self.was) else times

    def unmoved(self, times: Times) -> Times:
        """Where beats would be that nobody had dragged, in seconds of the project.

        Parameters
        ----------
        times
            Where they are, in seconds of the project.
        """
        return self._laid(self.beat_at(times))

    def bar_at(self, times: Times) -> Times:
        """Number of the bar from 0 on, with its fraction, at times in seconds of the project.

        Parameters
        ----------
        times
            Times in seconds of the project.
        """
        return self.bars.bar_at(self.beat_at(times))

    def time_of_bar(self, bars: Times) -> Times:
        """Seconds of the project at which bars begin.

        Parameters
        ----------
        bars
            Numbers of bars from 0 on, with fractions.
        """
        return self.time_of(self.bars.beat_of(bars))

    def _laid(self, beats: Times) -> Times:
        return _through(self.numbers, self.times, beats)

    def between(self, start_s: float, stop_s: float) -> list[tuple[float, bool]]:
        """Beats from start to stop as (seconds, begins a bar).

        Parameters
        ----------
        start_s
            Where it begins, in seconds.
        stop_s
            Where it ends, in seconds.
        """
        first, last = np.ceil(self.beat_at(np.array([start_s])) - 1e-6)[0], self.beat_at(np.array([stop_s]))[0]
        beats = np.arange(first, last + 1e-6)
        begins = self.bars.begins(beats)
        return [(float(time), bool(first)) for time, first in zip(self.time_of(beats), begins, strict=True)]


def _laid_out(settings: BeatSettings, use: AudioRange | None) -> tuple[Times, Times, BeatBars | None]:
    """Beats as their source has them, in seconds of the recording, their numbers, and bars that the source knows."""
    bars = None
    match settings.source:
        case "typed":
            times = settings.anchor_s + np.array([0.0, 60.0 / settings.tempo_bpm])
        case "map":
            times, numbers, bars = mapped_beats(settings.tempos, settings.pickup)
            return times + settings.anchor_s, numbers, bars
        case "clicks":
            clicks = click_track(use.recording) if use is not None else None
            times = clicks.times_s if clicks else np.zeros(0)
            if clicks and len(clicks.accents) > 1:
                bars = BeatBars.begun_at(list(clicks.accents))
        case _:
            times = np.array(_measured(use, int(settings.reading)), float)
    if settings.source != "typed" and settings.factor != "1":
        times, bars = _scaled(times, FACTORS[settings.factor]), None
    return times, np.arange(len(times), dtype=float), bars


def _measured(use: AudioRange | None, reading: int) -> list[float]:
    """The measured beats at the first, second or third likeliest tempo; the likeliest where there is no such one."""
    if use is None:
        return []
    facts = use.recording.facts
    others = facts.other_tempos
    return others[reading - 2]["beats_s"] if 1 < reading <= len(others) + 1 else facts.beats_s


def _scaled(times: Times, factor: float) -> Times:
    """Beats at another multiple of the tempo."""
    if factor == 1.0 or len(times) < 2:
        return times
    if factor < 1:
        return times[:: round(1 / factor)]
    numbers = np.arange((len(times) - 1) * factor + 1) / factor
    return np.interp(numbers, np.arange(len(times)), times)


def _through(x: Times, y: Times, at: Times) -> Times:
    """Linear between the points, and on beyond them in the direction of the outer eight."""
    at = np.asarray(at, float)
    out = np.interp(at, x, y)
    reach = min(8, len(x) - 1)
    head, tail = (y[reach] - y[0]) / (x[reach] - x[0]), (y[-1] - y[-1 - reach]) / (x[-1] - x[-1 - reach])
    out = np.where(at < x[0], y[0] + (at - x[0]) * head, out)
    return np.where(at > x[-1], y[-1] + (at - x[-1]) * tail, out)


def tapped(taps_s: list[float]) -> dict[str, Any]:
    """Settings of an even grid from the seconds of the recording at which somebody tapped.

    The line through the taps, by least squares.

    Parameters
    ----------
    taps_s
        When was tapped, in seconds, ascending.

    Raises
    ------
    ValueError
        With a sentence for fewer than 4 taps.
    """
    times = np.array(sorted(taps_s), float)
    if len(times) < 4 or np.min(np.diff(times)) <= 0.1:
        raise ValueError("Tap at least four times, on each beat.")
    steps = np.rint(np.diff(times) / np.median(np.diff(times)))
    numbers = np.concatenate([[0.0], np.cumsum(np.maximum(steps, 1))])
    slope, base = np.polyfit(numbers, times, 1)
    tempo = 60.0 / slope
    if not 20 <= tempo <= 400:
        raise ValueError("The taps make no tempo between 20 and 400 bpm. Tap on each beat.")
    anchor = base if base >= 0 else base + slope * np.ceil(-base / slope)
    return {"source": "typed", "tempo_bpm": round(float(tempo), 2), "anchor_s": round(float(anchor), 3), "shift": 0.0}
