"""The part of a document that holds notes: lists under their ids, as they came from MIDI files."""

from __future__ import annotations

from typing import Any

from velvetdrum.declare.settings import SettingError, is_number, tempo_rows
from velvetdrum.scene.problems import Problem, report_unknown
from velvetdrum.signals.notes import MOST_NOTES, NoteList, NoteLists, note_list

MOST_LISTS = 8
_KNOWN = {"name", "rows", "tempo_bpm", "bar", "map"}
_MAP = tempo_rows(label="The tempo map of notes", help="")
_RANGES = ((0, 3 * 3600.0), (0, 3 * 3600.0), (0, 127), (1, 127), (1, 16))


def parse_notes(given: Any, problems: list[Problem]) -> NoteLists:
    """The notes of a document; tells what is wrong with each list.

    Parameters
    ----------
    given
        What stands under `notes`.
    problems
        What is wrong with it; what is found is added.
    """
    if not isinstance(given, dict) or len(given) > MOST_LISTS:
        problems.append(Problem("/notes", f"A project has up to {MOST_LISTS} lists of notes, each under its id."))
        return NoteLists()
    return NoteLists(tuple(filter(None, (_list(ident, item, problems) for ident, item in given.items()))))


def _list(ident: str, item: Any, problems: list[Problem]) -> NoteList | None:
    place = f"/notes/{ident[:64]}"
    rows = item.get("rows") if isinstance(item, dict) else None
    name = item.get("name") if isinstance(item, dict) else None
    if not isinstance(rows, list) or not isinstance(name, str) or len(name) > 200 or not 0 < len(ident) <= 64:
        problems.append(Problem(place, "A list of notes has a name of up to 200 characters and rows."))
        return None
    report_unknown(item, _KNOWN, place, "A list of notes", problems)
    if len(rows) > MOST_NOTES or not all(_is_note(row) for row in rows):
        sentence = f"Notes are up to {MOST_NOTES} rows: begin and length in seconds, pitch, velocity and channel."
        problems.append(Problem(place, sentence))
        return None
    tempo, bar = item.get("tempo_bpm"), item.get("bar", 4)
    if tempo is not None and (not is_number(tempo) or not 1 <= tempo <= 1000):
        problems.append(Problem(place, "The tempo of notes goes from 1 to 1000 beats a minute."))
        return None
    if not isinstance(bar, int) or not 1 <= bar <= 16:
        problems.append(Problem(place, "A bar has 1 to 16 beats."))
        return None
    try:
        _MAP.parse(item.get("map") or _MAP.default)
    except SettingError as problem:
        problems.append(Problem(place, str(problem)))
        return None
    return note_list(ident, name, rows, tempo_bpm=tempo, bar=bar)


def _is_note(row: Any) -> bool:
    return (
        isinstance(row, list)
        and len(row) == len(_RANGES)
        and all(is_number(value) and low <= value <= high for value, (low, high) in zip(row, _RANGES, strict=True))
    )


def notes_schema() -> dict[str, Any]:
    """The notes of a document as JSON Schema."""
    numbers = [{"type": "number", "minimum": low, "maximum": high} for low, high in _RANGES]
    row = {"type": "array", "prefixItems": numbers, "minItems": 5, "maxItems": 5}
    return {
        "type": "object",
        "maxProperties": MOST_LISTS,
        "description": "Notes by the ids of their lists: begin and length in seconds, pitch, velocity, channel.",
        "additionalProperties": {
            "type": "object",
            "required": ["name", "rows"],
            "additionalProperties": False,
            "properties": {
                "name": {"type": "string", "maxLength": 200},
                "rows": {"type": "array", "maxItems": MOST_NOTES, "items": row},
                "tempo_bpm": {"type": "number", "minimum": 1, "maximum": 1000},
                "bar": {"type": "integer", "minimum": 1, "maximum": 16},
                "map": _MAP.values_schema() | {"minItems": 0},
            },
        },
    }
