"""Stretches of a recording that carry best by themselves: loud enough, eventful, whole at both ends."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.scene.document import Project
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatGrid
from velvetdrum.words.alignment.pieces import pauses, speech_samples

STEP_S = 0.1
"""Of the readings that stretches are judged by."""

MOST = 3
_OVERLAP = 0.35
_SHORTER = 0.27
"""By how much of its length a stretch may be shorter than asked for, to end well."""

_FLOOR_DB = -70.0
_WEIGHTS = {"energy": 1.0, "change": 0.8, "opening": 0.5}
Values = NDArray[np.float64]


@dataclass(frozen=True)
class Excerpt:
    """A stretch in seconds of the project, how well it carries compared with the others of its kind, and why."""

    start_s: float
    end_s: float
    score: float
    why: str


@dataclass(frozen=True, eq=False)
class Readings:
    """What is heard, every tenth of a second: level in dB (K-weighted), and how much its spectrum changes."""

    level: Values
    change: Values

    @classmethod
    def of(cls, use: AudioRange, length_s: float) -> Readings:
        """The readings of a project's recording. The change is the rise in dB of eight bands against half a second
        before, in the mean.

        Parameters
        ----------
        use
            The used part of the recording.
        length_s
            Length of the project in seconds.
        """
        count = max(int(length_s / STEP_S), 1)
        first = round(use.in_s / STEP_S)
        energies = use.recording.loudness_energies[first : first + count]
        level = np.full(count, _FLOOR_DB)
        level[: len(energies)] = np.maximum(10 * np.log10(np.maximum(energies, 1e-12)) - 0.691, _FLOOR_DB)
        begin = round(use.in_s * 60)
        power = use.recording.power("mix", begin, begin + count * 6).astype(np.float64)
        wide = np.stack([part.sum(axis=1) for part in np.array_split(power, 8, axis=1)], axis=1)
        each = 10 * np.log10(np.maximum(wide.reshape(count, 6, 8).mean(axis=1), 1e-9))
        rise = np.zeros_like(each)
        rise[5:] = np.clip(each[5:] - each[:-5], 0, 30)
        return cls(level, rise.mean(axis=1))


def excerpts(
    project: Project, use: AudioRange, length_s: float, grid: BeatGrid | None, *, count: int = MOST
) -> list[Excerpt]:
    """Up to `count` stretches of about a length, the best first, that hardly overlap. They begin on a bar line where
    there is a beat, else after a pause of the voice, and end so, too, up to a quarter earlier.

    Parameters
    ----------
    project
        The project.
    use
        The used stretch of a recording.
    length_s
        Length of the project, in seconds.
    grid
        Beats and bars; None where there are none.
    count
        How many.
    """
    whole = project.length_s
    if length_s >= whole - 0.5:
        return [Excerpt(0.0, whole, 0.0, "all of it")]
    heard = Readings.of(use, whole)
    starts, ends, word = _places(project, use, grid)
    scored = [result for start in starts if (result := _judged(heard, start, ends, length_s, whole)) is not None]
    if not scored:
        scored = [
            result
            for start in np.arange(0, whole - length_s, 0.5)
            if (result := _judged(heard, start, [], length_s, whole))
        ]
    scored.sort(key=lambda item: -item[2])
    chosen: list[tuple[float, float, float]] = []
    for start, end, score in scored:
        if all(min(end, b) - max(start, a) < _OVERLAP * length_s for a, b, _ in chosen):
            chosen.append((start, end, score))
        if len(chosen) == count:
            break
    # Two may have to lie over each other where there is no other room.
    for result in scored:
        if len(chosen) == count or len(chosen) * length_s > whole:
            break
        if all(abs(result[0] - start) > length_s / 4 for start, *_ in chosen):
            chosen.append(result)
    loudest = max(chosen, key=lambda item: _mean(heard.level, item[0], item[1]), default=None)
    return [Excerpt(a, b, c, _why(project, heard, a, b, word, (a, b, c) == loudest)) for a, b, c in chosen]


def _places(project: Project, use: AudioRange, grid: BeatGrid | None) -> tuple[list[float], list[float], str]:
    """Where a stretch may begin and end, and what such a place is called."""
    whole = project.length_s
    if grid is not None:
        bars = [time for time, bar in grid.between(0.0, whole) if bar and 0 <= time <= whole]
        return bars, [*bars, whole], "from a bar line"
    stop = min(use.in_s + whole, use.out_s)
    result = pauses(speech_samples(use.recording.pcm, use.in_s, stop), shortest_s=0.25)
    starts = [0.0] + [max(pause.end_s - 0.12, 0.0) for pause in result]
    return starts, [pause.start_s + 0.15 for pause in result] + [whole], "after a pause"


def _judged(
    heard: Readings, start: float, ends: Sequence[float], length_s: float, whole: float
) -> tuple[float, float, float] | None:
    """Start, end and score of a stretch; None where it does not fit."""
    fitting = [end for end in ends if (1 - _SHORTER) * length_s <= end - start <= length_s + 0.05]
    end = max(fitting, default=start + length_s)
    if start < 0 or end > whole + 1e-6 or (ends and not fitting):
        return None
    middle = np.percentile(heard.level, [10, 95])
    energy = (_mean(heard.level, start, end) - middle[0]) / max(middle[1] - middle[0], 1.0)
    change = _mean(heard.change, start, end) / max(float(np.percentile(heard.change, 90)), 0.1)
    opening = 0.2
    if start >= 1.0:
        rise = _mean(heard.level, start, start + 1.5) - _mean(heard.level, start - 1.0, start)
        opening = float(np.clip(rise / 12, -0.5, 1.0))
    score = _WEIGHTS["energy"] * energy + _WEIGHTS["change"] * change + _WEIGHTS["opening"] * opening
    # What begins in silence loses those who scroll past.
    if _mean(heard.level, start, start + 1.0) < heard.level.max() - 40:
        score -= 1.0
    return float(start), float(end), float(score)


def _mean(values: Values, start: float, end: float) -> float:
    part = values[max(int(start / STEP_S), 0) : max(int(end / STEP_S), int(start / STEP_S) + 1)]
    return float(part.mean()) if len(part) else _FLOOR_DB


def _why(project: Project, heard: Readings, start: float, end: float, word: str, loudest: bool) -> str:
    near = [marker.text for marker in project.markers if abs(marker.time_s - start) < 0.6 and marker.text]
    half = (start + end) / 2
    rise = _mean(heard.level, half, end) - _mean(heard.level, start, half)
    before = _mean(heard.level, start - 1.5, start) if start > 1.5 else None
    now = _mean(heard.level, start, start + 1.5)
    if near:
        what = near[0]
    elif loudest:
        what = "the loudest"
    elif rise > 3.0:
        what = "quiet, then louder"
    elif rise < -3.0:
        what = "loud, then quieter"
    elif before is not None and now - before > 5.0:
        what = "it comes in at once"
    else:
        what = "even, much happens"
    return f"{what}, {word}"
