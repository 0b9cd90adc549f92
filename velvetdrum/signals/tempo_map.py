"""A tempo map as times: tempos that change at bars, at once or gradually, meters, and a pick-up bar."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.types.tempo import TempoRow
from velvetdrum.signals.beat_bars import BeatBars

Numbers = NDArray[np.float64]
_AFTER = 9
"""Beats that are laid out after the last row: the tempo beyond is read from the last eight."""


def mapped_beats(rows: tuple[TempoRow, ...], pickup: float) -> tuple[Numbers, Numbers, BeatBars]:
    """Seconds after the first beat, numbers of those beats (0 begins bar 1), and the bars that they make.

    A tempo that goes linearly over beats from b to c, by k = (c - b) / n a beat, takes ∫ 60 / (b + k x) dx =
    60 / k · ln(1 + k x / b) seconds for x beats.

    Parameters
    ----------
    rows
        A tempo map.
    pickup
        Beats before the first whole bar.
    """
    begins = [0.0]
    for row, after in pairwise(rows):
        begins.append(begins[-1] + (after.bar - row.bar) * row.bar_beats + after.beat - row.beat)
    numbers = np.union1d(np.append(np.arange(-np.floor(pickup), begins[-1] + _AFTER + 1), -pickup), begins)
    times = np.empty(len(numbers))
    begun_s = 0.0
    for index, (row, begin) in enumerate(zip(rows, begins, strict=True)):
        following = rows[index + 1] if index + 1 < len(rows) else None
        length = begins[index + 1] - begin if following else np.inf
        rise = 0.0
        if row.gradual and following:
            # The next tempo, in notes of this row.
            rise = (following.tempo_bpm * float(following.note / row.note) - row.tempo_bpm) / length
        here = (numbers >= begin) if index else np.ones(len(numbers), bool)
        times[here] = begun_s + _seconds(numbers[here] - begin, row.tempo_bpm, rise)
        if following:
            begun_s += float(_seconds(np.array([length]), row.tempo_bpm, rise)[0])
    starts = [
        (begin, row)
        for (begin, row), before in zip(zip(begins, rows, strict=True), (None, *rows), strict=False)
        if before is None or (row.meter, row.note) != (before.meter, before.note)
    ]
    bars = BeatBars(
        np.array([begin for begin, _ in starts]),
        np.array([row.bar - 1.0 for _, row in starts]),
        np.array([float(row.bar_beats) for _, row in starts]),
    )
    return times - times[0], numbers, bars


def _seconds(beats: Numbers, tempo_bpm: float, rise: float) -> Numbers:
    """How long beats take from a tempo on that rises by so much a beat."""
    if abs(rise) < 1e-9:
        return beats * (60.0 / tempo_bpm)
    # Only beats of the row itself are asked beyond its first; those before go by its first tempo.
    inside = 1.0 + rise * np.maximum(beats, 0.0) / tempo_bpm
    return np.where(beats < 0, beats * (60.0 / tempo_bpm), 60.0 / rise * np.log(np.maximum(inside, 1e-9)))
