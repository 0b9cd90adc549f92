"""How people work on a project, kept with it: units in which its numbers are shown, their own guides, a grid.

Nothing of it is drawn in a video."""

from __future__ import annotations

from typing import Any

from velvetdrum.declare.settings import is_number
from velvetdrum.scene.problems import Problem, report_unknown

UNITS: dict[str, dict[str, str]] = {
    "length": {"%": "per cent of the frame", "px": "pixels"},
    "time": {"s": "seconds", "f": "frames", "timecode": "timecode", "b": "beats"},
    "angle": {"°": "degrees", "turn": "turns"},
    "level": {"dB": "dB", "x": "factors"},
}
"""Units in which numbers of a sort are shown, by their names in documents; the first of each is the settings' own."""

MOST_GUIDES = 100
LOWEST_STEP, HIGHEST_STEP = 0.5, 50.0
"""How wide the grid is, in per cent of the frame's short side."""
_OUT = 50.0
"""How far outside of the frame a guide may lie, in per cent of the side."""


def check_workspace(given: Any, problems: list[Problem]) -> None:
    """Tell what is wrong with the part of a document that says how people work on it."""
    if not isinstance(given, dict):
        problems.append(Problem("/workspace", "A workspace has units, guides and a grid."))
        return
    report_unknown(given, {"units", "guides", "grid"}, "/workspace", "A workspace", problems)
    units = given.get("units", {})
    if not isinstance(units, dict) or any(units[sort] not in UNITS.get(sort, {}) for sort in units):
        said = "; ".join(f"{sort}: {', '.join(choices)}" for sort, choices in UNITS.items())
        problems.append(Problem("/workspace/units", f"Numbers are shown in one unit a sort. {said}."))
    guides = given.get("guides", [])
    if not isinstance(guides, list) or len(guides) > MOST_GUIDES or not all(map(_is_guide, guides)):
        sentence = (
            f"A workspace has up to {MOST_GUIDES} guides, each with an axis (x, y) and where it lies in per cent."
        )
        problems.append(Problem("/workspace/guides", sentence))
    step = given.get("grid", LOWEST_STEP)
    if step is not None and not (is_number(step) and LOWEST_STEP <= step <= HIGHEST_STEP):
        sentence = f"A grid's lines are {LOWEST_STEP} to {HIGHEST_STEP} per cent of the frame's short side apart."
        problems.append(Problem("/workspace/grid", sentence))


def workspace_schema() -> dict[str, Any]:
    """The workspace as JSON Schema."""
    guide = {
        "type": "object",
        "required": ["axis", "at"],
        "additionalProperties": False,
        "properties": {
            "axis": {"enum": ["x", "y"], "description": "x: a line down, y: one across."},
            "at": {"type": "number", "minimum": -_OUT, "maximum": 100 + _OUT, "description": "Per cent of the side."},
        },
    }
    return {
        "type": "object",
        "additionalProperties": False,
        "description": "How people work on the project; nothing of it is drawn in a video.",
        "properties": {
            "units": {
                "type": "object",
                "additionalProperties": False,
                "properties": {sort: {"enum": list(choices)} for sort, choices in UNITS.items()},
            },
            "guides": {"type": "array", "maxItems": MOST_GUIDES, "items": guide},
            "grid": {
                "oneOf": [{"type": "null"}, {"type": "number", "minimum": LOWEST_STEP, "maximum": HIGHEST_STEP}],
                "description": "Between its lines, in per cent of the frame's short side; null: no grid.",
            },
        },
    }


def _is_guide(guide: Any) -> bool:
    return (
        isinstance(guide, dict)
        and set(guide) == {"axis", "at"}
        and guide["axis"] in ("x", "y")
        and is_number(guide["at"])
        and -_OUT <= guide["at"] <= 100 + _OUT
    )
