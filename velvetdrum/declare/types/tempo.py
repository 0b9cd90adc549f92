"""Maps of tempos, and beats that somebody has dragged to another second."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from typing import Any, ClassVar, NamedTuple

from velvetdrum.declare.setting import Setting, SettingError
from velvetdrum.declare.types.number import is_number

NOTES = {
    "1/2": "half",
    "3/8": "dotted quarter",
    "1/4": "quarter",
    "3/16": "dotted eighth",
    "1/8": "eighth",
    "1/16": "sixteenth",
}
"""The note values that a tempo counts, as shares of a whole note."""
SLOWEST_BPM, FASTEST_BPM = 10.0, 1000.0
MOST_ROWS = 4000
MOST_MOVED = 4000
MOST_BARS = 100_000
_LAST_S = 10_800.0
_METER = re.compile(r"([1-9]\d?)/(1|2|4|8|16|32)")
_ROW = {"bar", "beat", "tempo_bpm", "note", "meter", "gradual"}


class TempoRow(NamedTuple):
    """From a bar and a beat of it on (both counted from 1): tempo in beats a minute, the note value of a beat, the
    meter, and whether the tempo goes gradually to that of the next row."""

    bar: int
    beat: float
    tempo_bpm: float
    note: Fraction
    meter: Fraction
    gradual: bool

    @property
    def bar_beats(self) -> int:
        """Beats in a bar."""
        return int(self.meter / self.note)


@dataclass(frozen=True)
class TempoRows(Setting):
    """Rows of a tempo map, in order."""

    type: ClassVar[str] = "tempo-map"

    def parse(self, value: Any) -> tuple[TempoRow, ...]:
        if not isinstance(value, list) or not 1 <= len(value) <= MOST_ROWS:
            raise SettingError(f"{self.label} has 1 to {MOST_ROWS} rows.")
        rows = tuple(_row(item, number) for number, item in enumerate(value, 1))
        if rows[0].bar != 1 or rows[0].beat != 1:
            raise SettingError("Row 1 begins at bar 1, beat 1.")
        for number, (row, after) in enumerate(pairwise(rows), 2):
            if (after.bar, after.beat) <= (row.bar, row.beat):
                raise SettingError(f"Row {number} begins at bar {after.bar}, which is not after the row above it.")
            if after.beat != 1 and (after.meter, after.note) != (row.meter, row.note):
                raise SettingError(f"Row {number} changes the meter within bar {after.bar}: let it begin on beat 1.")
            if after.beat >= after.bar_beats + 1:
                raise SettingError(f"Row {number}: bar {after.bar} has {after.bar_beats} beats.")
        return rows

    def values_schema(self) -> dict[str, Any]:
        row = {
            "type": "object",
            "required": ["bar", "tempo_bpm"],
            "additionalProperties": False,
            "properties": {
                "bar": {"type": "integer", "minimum": 1, "maximum": MOST_BARS},
                "beat": {"type": "number", "minimum": 1, "maximum": 513},
                "tempo_bpm": {"type": "number", "minimum": SLOWEST_BPM, "maximum": FASTEST_BPM},
                "note": {"enum": list(NOTES)},
                "meter": {"type": "string", "pattern": f"^{_METER.pattern}$"},
                "gradual": {"type": "boolean"},
            },
        }
        return {"type": "array", "minItems": 1, "maxItems": MOST_ROWS, "items": row}

    def describe_values(self) -> str:
        return f"1 to {MOST_ROWS} rows, each `bar`, `beat`, `tempo_bpm`, `note`, `meter` and `gradual`"

    def describe_default(self) -> str:
        return ", ".join(f"{row['tempo_bpm']:g} bpm in {row['meter']} from bar {row['bar']}" for row in self.default)


@dataclass(frozen=True)
class MovedTimes(Setting):
    """Times that were moved, each to another second."""

    type: ClassVar[str] = "moved-times"

    def parse(self, value: Any) -> tuple[tuple[float, float], ...]:
        if not isinstance(value, list) or len(value) > MOST_MOVED:
            raise SettingError(f"{self.label} are up to {MOST_MOVED} pairs of seconds.")
        for item in value:
            if not isinstance(item, list) or len(item) != 2:
                raise SettingError(f"{self.label} are pairs: the second where a beat was, and where it is.")
            if not all(is_number(second) and -_LAST_S <= second <= _LAST_S for second in item):
                raise SettingError(f"{self.label} lie within three hours.")
        if any(after[0] <= one[0] or after[1] <= one[1] for one, after in pairwise(value)):
            raise SettingError("A beat can't be moved past the one beside it.")
        return tuple((float(was), float(at)) for was, at in value)

    def values_schema(self) -> dict[str, Any]:
        second = {"type": "number", "minimum": -_LAST_S, "maximum": _LAST_S}
        pair = {"type": "array", "minItems": 2, "maxItems": 2, "items": second}
        return {"type": "array", "maxItems": MOST_MOVED, "items": pair}

    def describe_values(self) -> str:
        return f"up to {MOST_MOVED} pairs of seconds: where a beat was, and where it is"

    def describe_default(self) -> str:
        return "none"


def tempo_rows(*, label: str, help: str) -> Any:
    """A tempo map; by default 120 beats a minute in 4/4."""
    first = {"bar": 1, "beat": 1, "tempo_bpm": 120, "note": "1/4", "meter": "4/4", "gradual": False}
    return TempoRows([first], "", label, help)


def moved_times(*, label: str, help: str) -> Any:
    """Times that were moved by hand; none by default."""
    return MovedTimes([], "", label, help)


def _row(item: Any, number: int) -> TempoRow:
    if not isinstance(item, dict) or not item.keys() <= _ROW:
        raise SettingError(f"Row {number} is no row of a tempo map: it has a bar, a tempo, its note and a meter.")
    bar, beat, tempo = item.get("bar"), item.get("beat", 1), item.get("tempo_bpm")
    if not isinstance(bar, int) or isinstance(bar, bool) or not 1 <= bar <= MOST_BARS:
        raise SettingError(f"Row {number}: bars are counted from 1 to {MOST_BARS}.")
    if not is_number(beat) or beat < 1:
        raise SettingError(f"Row {number}: the beats of a bar are counted from 1.")
    if not is_number(tempo) or not SLOWEST_BPM <= tempo <= FASTEST_BPM:
        raise SettingError(f"Row {number}: a tempo goes from {SLOWEST_BPM:g} to {FASTEST_BPM:g} bpm.")
    note, meter, gradual = item.get("note", "1/4"), item.get("meter", "4/4"), item.get("gradual", False)
    parts = _METER.fullmatch(meter) if isinstance(meter, str) else None
    if note not in NOTES or parts is None or not isinstance(gradual, bool):
        raise SettingError(f"Row {number}: a meter is written like 3/4 or 6/8, its tempo in quarters or eighths.")
    lasts = Fraction(int(parts[1]), int(parts[2]))
    if (lasts / Fraction(note)).denominator != 1:
        sentence = f"Row {number}: a bar of {meter} is no whole number of {NOTES[note]} notes; count in another note."
        raise SettingError(sentence)
    return TempoRow(bar, float(beat), float(tempo), Fraction(note), lasts, gradual)
