"""Tempos and time signatures of a Standard MIDI File as rows of a tempo map."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np

from velvetdrum.declare.types.tempo import FASTEST_BPM, MOST_ROWS, NOTES, SLOWEST_BPM

Events = list[tuple[int, float]]
Signatures = list[tuple[int, int, int]]
_MOST_BEATS = 40_000
_SAME = 1e-6


def tempo_rows_of(tempos: Events, signatures: Signatures, ticks: int, last: int) -> list[dict[str, Any]]:
    """Rows of a map whose beats lie where the file has them. A tempo that changes between two beats becomes that of the
    whole beat.

    Parameters
    ----------
    tempos
        Ticks and microseconds a quarter note from there on, ascending, the first at tick 0.
    signatures
        Ticks, numerators and denominators of time signatures, ascending, the first at tick 0.
    ticks
        Ticks a quarter note.
    last
        The last tick of the file.
    """
    at = np.array([tick for tick, _ in tempos], float)
    pace = np.array([us / 1e6 / ticks for _, us in tempos])
    begun = np.concatenate([[0.0], np.cumsum(np.diff(at) * pace[:-1])])

    def second(tick: float) -> float:
        index = max(int(np.searchsorted(at, tick, "right")) - 1, 0)
        return float(begun[index] + (tick - at[index]) * pace[index])

    rows: list[dict[str, Any]] = []
    bar, tick, beats = 1, 0.0, 0
    waiting = list(signatures)
    note, meter = Fraction(1, 4), "4/4"
    while tick <= last and beats < _MOST_BEATS and len(rows) < MOST_ROWS:
        changed = not rows
        while waiting and waiting[0][0] <= tick + 0.5:
            _, above, below = waiting.pop(0)
            note, meter, changed = _counted(above, below), f"{above}/{below}", True
        long = float(note * 4 * ticks)
        for beat in range(1, int(Fraction(meter) / note) + 1):
            lasts = second(tick + long) - second(tick)
            tempo = min(max(60.0 / max(lasts, 1e-6), SLOWEST_BPM), FASTEST_BPM)
            if changed or abs(tempo / rows[-1]["tempo_bpm"] - 1) > _SAME:
                where = {"bar": bar, "beat": beat, "tempo_bpm": round(tempo, 6)}
                rows.append(where | {"note": str(note), "meter": meter, "gradual": False})
            changed = False
            tick += long
            beats += 1
        bar += 1
    return rows[:MOST_ROWS]


def _counted(above: int, below: int) -> Fraction:
    """The note that a meter is counted in: dotted in 6/8, 9/8, 12/8, else that of its denominator, where it is one."""
    lasts = Fraction(above, below)
    compound = Fraction(3, below)
    if above > 3 and above % 3 == 0 and below >= 8 and str(compound) in NOTES:
        return compound
    for note in (Fraction(1, below), Fraction(1, 4), Fraction(1, 16)):
        if str(note) in NOTES and (lasts / note).denominator == 1:
            return note
    return Fraction(1, 16)


def is_meter(above: int, below: int) -> bool:
    """Whether a time signature can be a row of a map.

    Parameters
    ----------
    above
        Its numerator.
    below
        Its denominator.
    """
    return (
        1 <= above <= 64 and below in (1, 2, 4, 8, 16) and (Fraction(above, below) / Fraction(1, 16)).denominator == 1
    )
