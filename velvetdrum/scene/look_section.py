"""What a document says of itself as a look: what it is for, which roles its signals have, and its open places; and the
colours of a project."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from velvetdrum.declare.settings import is_number
from velvetdrum.scene.problems import Document, Problem

USES = {"song": "Song", "voice": "Voice", "loop": "Loop"}
"""What a look is for."""

PACES = {"calm": "Calm", "lively": "Lively"}

ROLES = {
    "kick": "Kick",
    "bass": "Bass",
    "snare": "Snare",
    "voice": "Voice",
    "lead": "Lead",
    "shimmer": "Shimmer",
    "overall": "Overall",
    "beat": "Each beat",
    "bars": "Every few bars",
}
"""What of a sound a signal follows, by names that hold in any sound."""

PLACES = {
    "title": "Title",
    "artist": "Artist",
    "speaker": "Speaker",
    "cover": "Logo or cover",
    "film": "Footage or photo",
    "words": "Words",
}
"""Kinds of open places. The first three are tags, which texts show."""

MOST_DISTANCE = 200.0
MOST_COLOURS, LONGEST_NAME, LONGEST_ABOUT = 12, 40, 160
MOST_TAGS = 12
_HEX = re.compile(r"#[0-9a-fA-F]{6}")
_KNOWN = {"about", "uses", "pace", "family", "roles", "places", "distances", "tags"}


@dataclass(frozen=True)
class Place:
    """An open place of a look."""

    kind: str
    optional: bool = True
    """True where it may stay empty."""
    fills: Mapping[str, str] = field(default_factory=dict)
    """The setting that it goes into, by the layer's id: a picture, a clip."""
    instead: tuple[str, ...] = ()
    """Ids of layers that are there only while it is empty."""


@dataclass(frozen=True)
class LookSection:
    """A document as a look: one line of what it is, what it is for, and what it asks for."""

    about: str
    uses: tuple[str, ...]
    pace: str
    family: str
    roles: Mapping[str, str]
    """The role of a signal, by its id."""
    places: tuple[Place, ...]
    distances: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    """How far settings that are read from a sound lie from what fits, by the id of their layer or signal."""
    tags: tuple[str, ...] = ()
    """Words that it is found by."""
    gone: tuple[str, ...] = ()
    """What its places name that is not there any more, as sentences."""


def parse_colours(given: Any, problems: list[Problem]) -> dict[str, str]:
    """The colours of a project by their names, as #rrggbb; tells what is wrong with them."""
    right = (
        isinstance(given, dict)
        and len(given) <= MOST_COLOURS
        and all(
            0 < len(name) <= LONGEST_NAME and isinstance(value, str) and _HEX.fullmatch(value)
            for name, value in given.items()
        )
    )
    if not right:
        problems.append(
            Problem("/colours", f"A project has up to {MOST_COLOURS} colours, each a name and a colour like #e0ac55.")
        )
        return {}
    return dict(given)


def parse_look(document: Document, layers: set[str], signals: set[str], problems: list[Problem]) -> LookSection | None:
    """The look that a document is, None where it is none; `layers` and `signals` are the ids that there are."""
    given = document.get("look")
    if given is None:
        return None
    if not isinstance(given, dict) or given.keys() - _KNOWN:
        problems.append(Problem("/look", f"A look has {', '.join(sorted(_KNOWN))}."))
        return None
    before = len(problems)
    about, family = given.get("about", ""), given.get("family", "")
    if not all(isinstance(text, str) and len(text) <= LONGEST_ABOUT for text in (about, family)):
        problems.append(Problem("/look/about", f"A look says what it is in up to {LONGEST_ABOUT} characters."))
    uses, pace = given.get("uses", ["song"]), given.get("pace", "lively")
    if not isinstance(uses, list) or not uses or not all(isinstance(use, str) and use in USES for use in uses):
        problems.append(Problem("/look/uses", f"A look is for {', '.join(USES)}."))
    if not isinstance(pace, str) or pace not in PACES:
        problems.append(Problem("/look/pace", f"A look's pace is {' or '.join(PACES)}."))
    roles = given.get("roles", {})
    if not isinstance(roles, dict) or not all(isinstance(role, str) and role in ROLES for role in roles.values()):
        problems.append(Problem("/look/roles", f"Roles of signals are {', '.join(ROLES)}."))
        roles = {}
    distances = given.get("distances", {})
    right = isinstance(distances, dict) and all(
        isinstance(row, dict) and all(is_number(by) and abs(by) <= MOST_DISTANCE for by in row.values())
        for row in distances.values()
    )
    if not right:
        problems.append(Problem("/look/distances", f"Distances are numbers of up to {MOST_DISTANCE:g}."))
    tags = given.get("tags", [])
    if not (
        isinstance(tags, list)
        and len(tags) <= MOST_TAGS
        and all(isinstance(tag, str) and 0 < len(tag) <= LONGEST_NAME for tag in tags)
    ):
        problems.append(Problem("/look/tags", f"A look has up to {MOST_TAGS} tags of up to {LONGEST_NAME} characters."))
    gone: list[str] = []
    places = _places(given.get("places", []), layers, problems, gone)
    if len(problems) > before:
        return None
    kept = {ident: role for ident, role in roles.items() if ident in signals}
    return LookSection(about, tuple(uses), pace, family, kept, places, distances, tuple(tags), tuple(gone))


def _places(given: Any, layers: set[str], problems: list[Problem], gone: list[str]) -> tuple[Place, ...]:
    """The open places; what they name that is not there any more is left out, and said in `gone`."""
    if not isinstance(given, list) or len(given) > len(PLACES):
        problems.append(Problem("/look/places", f"A look has up to {len(PLACES)} places."))
        return ()
    result = []
    for number, item in enumerate(given):
        path = f"/look/places/{number}"
        right = (
            isinstance(item, dict)
            and not item.keys() - {"kind", "optional", "fills", "instead"}
            and item.get("kind") in PLACES
            and isinstance(item.get("optional", True), bool)
            and isinstance(item.get("fills", {}), dict)
            and all(isinstance(name, str) for name in item.get("fills", {}).values())
            and isinstance(item.get("instead", []), list)
        )
        if not right:
            problems.append(Problem(path, f"A place is one of {', '.join(PLACES)}, with what it fills."))
            continue
        fills = {ident: name for ident, name in item.get("fills", {}).items() if ident in layers}
        instead = tuple(ident for ident in item.get("instead", []) if ident in layers)
        if len(fills) < len(item.get("fills", {})):
            gone.append(f"The place {PLACES[item['kind']]} names a layer that is gone; it is left out.")
        result.append(Place(item["kind"], item.get("optional", True), fills, instead))
    return tuple(result)


def colours_schema() -> dict[str, Any]:
    """The colours of a project as JSON Schema."""
    return {
        "type": "object",
        "maxProperties": MOST_COLOURS,
        "propertyNames": {"minLength": 1, "maxLength": LONGEST_NAME},
        "additionalProperties": {"type": "string", "pattern": f"^{_HEX.pattern}$"},
        "description": "Colours by name, which layers are recoloured from together.",
    }


def look_schema() -> dict[str, Any]:
    """The part that makes a document a look, as JSON Schema."""
    text = {"type": "string", "maxLength": LONGEST_ABOUT}
    place = {
        "type": "object",
        "required": ["kind"],
        "additionalProperties": False,
        "properties": {
            "kind": {"enum": list(PLACES)},
            "optional": {"type": "boolean"},
            "fills": {"type": "object", "additionalProperties": {"type": "string"}},
            "instead": {"type": "array", "items": {"type": "string"}},
        },
    }
    return {
        "type": "object",
        "additionalProperties": False,
        "properties": {
            "about": text,
            "family": text,
            "uses": {"type": "array", "minItems": 1, "items": {"enum": list(USES)}},
            "pace": {"enum": list(PACES)},
            "roles": {"type": "object", "additionalProperties": {"enum": list(ROLES)}},
            "distances": {
                "type": "object",
                "additionalProperties": {
                    "type": "object",
                    "additionalProperties": {"type": "number", "minimum": -MOST_DISTANCE, "maximum": MOST_DISTANCE},
                },
                "description": "How far settings lie from what fits, by the id of their layer or signal.",
            },
            "places": {"type": "array", "maxItems": len(PLACES), "items": place},
            "tags": {
                "type": "array",
                "maxItems": MOST_TAGS,
                "items": {"type": "string", "minLength": 1, "maxLength": LONGEST_NAME},
            },
        },
    }
