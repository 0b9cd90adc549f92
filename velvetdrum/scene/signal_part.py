"""The part of a document that holds signals and beats."""

from __future__ import annotations

import re
import secrets
from typing import Any

import velvetdrum.signals.sources  # noqa: F401  (makes the signal kinds known)
from velvetdrum.declare.setting import quoted
from velvetdrum.scene.problems import Document, Problem
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.signals.signal_set import NamedSignal, loop_in

COLOURS = ("#ff7a66", "#e0ac55", "#5fc4b4", "#a99bff", "#7cc0f2", "#a8cf6a")
"""Colours for signals: coral, brass, sea, iris, sky, leaf."""

MOST_SIGNALS = 64
_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")
_KNOWN = {"id", "kind", "name", "colour", "settings"}


def new_signal(kind: str, name: str | None = None, *, colour: str = COLOURS[0], **settings: Any) -> Document:
    """A signal of a kind with its defaults, and the given settings in their stored form."""
    cls = SIGNAL_KINDS[kind]
    return {
        "id": secrets.token_hex(4),
        "kind": kind,
        "name": name or cls.title,
        "colour": colour,
        "settings": cls.defaults() | settings,
    }


def parse_signals(
    given: Any, problems: list[Problem], like: tuple[list[Document], tuple[NamedSignal, ...]] | None = None
) -> tuple[NamedSignal, ...]:
    """The signals of a document; adds to `problems` what is wrong, a loop of references among it.

    `like` are signals, as they stand and parsed: one that both have, the very same object, is not parsed again.
    """
    if not isinstance(given, list) or len(given) > MOST_SIGNALS:
        problems.append(Problem("/signals", f"A project has a list of up to {MOST_SIGNALS} signals."))
        return ()
    if like and given is like[0]:
        return like[1]
    same = {id(item): named for item, named in zip(*like, strict=True)} if like else {}
    out: list[NamedSignal] = []
    taken: set[str] = set()
    for index, item in enumerate(given):
        named = same.get(id(item))
        if named is None or named.id in taken:
            named = _parse_signal(item, f"/signals/{index}", taken, problems)
        if named:
            out.append(named)
            taken.add(named.id)
    _check_references(out, given, problems)
    return tuple(out)


def _parse_signal(item: Any, path: str, taken: set[str], problems: list[Problem]) -> NamedSignal | None:
    kind = item.get("kind") if isinstance(item, dict) else None
    if not isinstance(kind, str) or kind not in SIGNAL_KINDS:
        problems.append(Problem(f"{path}/kind", f"There is no signal kind called {quoted(kind)}."))
        return None
    problems += [
        Problem(f"{path}/{key}", f"A signal has no part called {quoted(key)}.") for key in item.keys() - _KNOWN
    ]
    ident, name, colour, values = item.get("id"), item.get("name"), item.get("colour"), item.get("settings", {})
    if not isinstance(ident, str) or not 0 < len(ident) <= 64 or ident in taken:
        problems.append(Problem(f"{path}/id", "Every signal needs an id of its own."))
        return None
    if not isinstance(name, str) or not name.strip() or len(name) > 80:
        problems.append(Problem(f"{path}/name", "A signal needs a name of up to 80 characters."))
        name = ident
    if not isinstance(colour, str) or not _COLOUR.fullmatch(colour):
        problems.append(Problem(f"{path}/colour", "A signal's colour is written like #e0ac55."))
        colour = COLOURS[0]
    if not isinstance(values, dict):
        problems.append(Problem(f"{path}/settings", "A signal's settings are an object."))
        return None
    signal, result = SIGNAL_KINDS[kind].checked(values)
    problems += [Problem(f"{path}/settings/{part}", sentence) for part, sentence in result]
    return NamedSignal(ident, name.strip(), colour.lower(), signal) if signal else None


def _check_references(signals: list[NamedSignal], given: list[Any], problems: list[Problem]) -> None:
    names = {str(item.get("id")): str(item.get("name")) for item in given if isinstance(item, dict)}
    places = {str(item.get("id")): index for index, item in enumerate(given) if isinstance(item, dict)}
    for named in signals:
        if any(other not in names for other in named.signal.inputs()):
            path = f"/signals/{places[named.id]}/settings/of"
            problems.append(Problem(path, f"{named.name} reads a signal that is gone; choose another one for it."))
    loop = loop_in({named.id: named.signal.inputs() for named in signals})
    if loop:
        way = " reads ".join(names[ident] for ident in loop)
        path = f"/signals/{places[loop[0]]}/settings/of"
        problems.append(Problem(path, f"These signals go round in a loop: {way}. Take one out."))


def parse_beats(given: Any, problems: list[Problem]) -> BeatSettings:
    """The beat settings of a document."""
    if not isinstance(given, dict):
        problems.append(Problem("/beats", "Beats are an object of settings."))
        return BeatSettings({})
    result = BeatSettings.problems(given)
    problems += [Problem(f"/beats/{name}", sentence) for name, sentence in result]
    return BeatSettings({} if result else given)


def signal_schema() -> dict[str, Any]:
    """The list of signals as JSON Schema."""
    kinds = [
        {
            "type": "object",
            "required": ["id", "kind", "name", "colour"],
            "additionalProperties": False,
            "properties": {
                "id": {"type": "string", "minLength": 1, "maxLength": 64},
                "kind": {"const": kind},
                "name": {"type": "string", "minLength": 1, "maxLength": 80},
                "colour": {"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"},
                "settings": cls.schema(),
            },
        }
        for kind, cls in sorted(SIGNAL_KINDS.items())
    ]
    return {"type": "array", "maxItems": MOST_SIGNALS, "items": {"oneOf": kinds}}
