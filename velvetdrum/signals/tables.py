"""Curves as CSV and JSON, out and in."""

from __future__ import annotations

import csv
import io
import json
import math
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

import numpy as np

from velvetdrum.declare.settings import MOST_POINTS
from velvetdrum.limits import openers
from velvetdrum.signals.signal_set import SignalSet

LONGEST_LINE = 10_000
LONGEST_S = 24 * 3600.0
"""Characters in a line of a table that is read."""


class TableError(ValueError):
    """A table of a curve can't be used; the text says in which line and why."""


def sample_times(length_s: float, rate: Fraction) -> np.ndarray:
    """Times of all frames of a project, in seconds.

    Parameters
    ----------
    length_s
        Length of the project, in seconds.
    rate
        Frames or samples a second.
    """
    count = max(1, math.ceil(Fraction(length_s).limit_denominator(48_000) * rate))
    return np.array([float(frame / rate) for frame in range(count)])


def curves_csv(signals: SignalSet, idents: list[str], rate: Fraction) -> str:
    """Columns `time_s` and one a signal by its name, one line a frame.

    Parameters
    ----------
    signals
        The project's signals.
    idents
        Ids of signals, in the order of the columns.
    rate
        Frames or samples a second.
    """
    times = sample_times(signals.length_s, rate)
    columns = [signals.values(ident, times) for ident in idents]
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["time_s", *(signals.signals[ident].name for ident in idents)])
    for index, time in enumerate(times):
        table.writerow([f"{time:.6f}", *(f"{column[index]:.6f}" for column in columns)])
    return out.getvalue()


def curves_json(signals: SignalSet, idents: list[str], rate: Fraction) -> str:
    """`{"rate", "start_s", "signals": [{"name", "kind", "colour", "values"}]}`: frame n is at n / rate seconds.

    Parameters
    ----------
    signals
        The project's signals.
    idents
        Ids of signals, in the order of the columns.
    rate
        Frames or samples a second.
    """
    times = sample_times(signals.length_s, rate)
    listed: list[dict[str, Any]] = []
    for ident in idents:
        named = signals.signals[ident]
        values = [round(float(value), 6) for value in signals.values(ident, times)]
        listed.append({"name": named.name, "kind": named.signal.kind, "colour": named.colour, "values": values})
    return json.dumps({"rate": str(rate), "start_s": 0, "signals": listed})


def points_from_csv(text: str) -> list[dict[str, Any]]:
    """Points of a drawn curve from CSV with time and value in the first two columns; a heading may come first.

    Commas, semicolons and tabs part the columns.

    Parameters
    ----------
    text
        The text.

    Raises
    ------
    TableError
        With the line that can't be used.
    """
    points: list[dict[str, Any]] = []
    if any(len(line) > LONGEST_LINE for line in text.splitlines()):
        raise TableError(f"A line of this table is longer than {LONGEST_LINE} characters; is it a CSV table?")
    lines = text.lstrip("\ufeff").splitlines()
    parted = next((mark for mark in (";", "\t", ",") if any(mark in line for line in lines[:5])), ",")
    for number, row in enumerate(_rows(lines, parted), 1):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) < 2 or not row[0].strip() or not row[1].strip():
            raise TableError(f"Line {number} has a gap: each line needs a time and a value.")
        time, value = _number(row[0], parted), _number(row[1], parted)
        if time is None or value is None:
            if not points and number == 1:
                continue
            text_found = row[0] if time is None else row[1]
            raise TableError(f"Line {number} has “{text_found.strip()[:30]}” where a number is needed.")
        if not 0 <= time <= LONGEST_S or abs(value) > 10:
            raise TableError(f"Line {number}: times lie between 0 s and a day, and values between -10 and 10.")
        if points and time == points[-1]["time_s"]:
            raise TableError(f"Line {number} repeats the time {time:g} s. Keep one value for each time.")
        if points and time < points[-1]["time_s"]:
            raise TableError(
                f"Line {number} goes back in time, from {points[-1]['time_s']:g} to {time:g} s. Sort the lines by time."
            )
        points.append({"time_s": time, "value": value, "ease": "linear"})
    if not points:
        raise TableError("The table has no line with a time and a value.")
    if len(points) > MOST_POINTS:
        raise TableError(f"The table has {len(points)} lines; up to {MOST_POINTS} are taken. Use a lower rate.")
    return points


def _rows(lines: list[str], parted: str) -> Iterator[list[str]]:
    try:
        yield from openers.table(lines, parted)
    except csv.Error as problem:
        raise TableError("A line of this table can't be read: a quoted cell in it does not end.") from problem


def _number(cell: str, parted: str) -> float | None:
    try:
        value = float(cell.strip().replace(",", ".") if parted != "," else cell.strip())
    except ValueError:
        return None
    return value if math.isfinite(value) else None
