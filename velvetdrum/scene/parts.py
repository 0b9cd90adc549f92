"""Parts of layers: what a layer has a row of, each of a kind with settings of its own, such as masks and effects.

A setting is addressed by its name where it is the layer's own, and as `SORT:ID:name` where it is that of a part:
`mask:3f2a:feather`, `effect:9c01:radius`.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar

from velvetdrum.declare.schema import Declared, Kind, known_as
from velvetdrum.declare.setting import quoted
from velvetdrum.declare.settings import Setting
from velvetdrum.scene.problems import Document, Problem

_KNOWN = {"id", "kind", "on", "settings"}


class Part(Declared):
    """Base of all kinds of parts. Some of their settings are handled on the picture."""

    points: ClassVar[tuple[tuple[str, str], ...]] = ()
    """Pairs of settings that are a place in the frame, in per cent across and down."""
    radii: ClassVar[tuple[str, ...]] = ()
    """Settings that are a distance from the first of its points, in per cent of the frame's short side."""
    sizes: ClassVar[tuple[str, ...]] = ()
    """Its width and its height about the first of its points, in per cent of the frame's short side."""
    turns: ClassVar[str] = ""
    """A setting that is an angle about the first of its points, 0 to the right."""
    corners: ClassVar[str] = ""
    """A setting with the points of an outline, as SVG path data; `size` is then its longer side."""
    follows: ClassVar[str] = ""
    """A setting that says whether it lies as the layer does, or as the frame."""

    def layers(self) -> list[str]:
        """Ids of the layers that it reads."""
        read = [getattr(self, name) for name, setting in self.settings.items() if setting.names_layer]
        return [ident for ident in read if ident]


@dataclass(frozen=True)
class PartSort:
    """A sort of parts: the word that its addresses begin with, where the document lists them, how one is called in a
    sentence, how many a layer has at the most, and the known kinds."""

    name: str
    listed: str
    called: str
    most: int
    help: str
    """What one is, in a line or two for who has none yet."""
    optional: bool = False
    """True when one that reads a layer is still something without it."""
    kinds: dict[str, type[Any]] = field(default_factory=dict)

    def kind(self, name: str, title: str) -> Callable[[Kind], Kind]:
        """Class decorator: makes a kind of this sort known under a name, with a title."""
        return known_as(self.kinds, name, title)


PART_SORTS: dict[str, PartSort] = {}
"""Every sort by its name."""


def part_sort(name: str, *, listed: str, called: str, most: int, help: str, optional: bool = False) -> PartSort:
    """Make a sort of parts known."""
    PART_SORTS[name] = PartSort(name, listed, called, most, help, optional)
    return PART_SORTS[name]


@dataclass(frozen=True)
class PlacedPart:
    """A part of a layer with its settings parsed; one that is not on counts as if it were not there."""

    id: str
    part: Any
    on: bool = True


Parts = Mapping[str, tuple[PlacedPart, ...]]
"""The parts of a layer in their order, by the name of their sort."""


def split(place: str) -> tuple[str, str, str]:
    """The sort and the id of the part (both empty for the layer itself) and the name of the setting that an address
    means."""
    sort, _, rest = place.partition(":")
    ident, _, name = rest.partition(":")
    return (sort, ident, name) if sort in PART_SORTS and rest else ("", "", place)


@dataclass(frozen=True)
class Places:
    """The settings that a layer and its parts have, by their addresses. `parts` are the kinds of its parts by sort and
    id."""

    kind: type[Declared]
    parts: Mapping[tuple[str, str], type[Declared]]

    @classmethod
    def of(cls, kind: type[Declared], parts: Parts) -> Places:
        """The settings of a layer of a kind with its parts."""
        return cls(kind, {(sort, item.id): type(item.part) for sort, row in parts.items() for item in row})

    @property
    def title(self) -> str:
        """What the setting at an address is called, for sentences."""
        return self.kind.title

    def at(self, place: str) -> Setting | None:
        """The declared setting at an address, or None."""
        sort, ident, name = split(place)
        owner = self.parts.get((sort, ident)) if sort else self.kind
        return owner.settings.get(name) if owner else None


def new_part(sort: PartSort, kind: str, **settings: Any) -> Document:
    """A part of a kind with its defaults, and the given settings in their stored form."""
    return {"id": secrets.token_hex(4), "kind": kind, "on": True, "settings": sort.kinds[kind].defaults() | settings}


def parse_parts(layer: Document, path: str, problems: list[Problem]) -> dict[str, tuple[PlacedPart, ...]]:
    """All parts of a layer of a document; adds to `problems` what is wrong."""
    return {
        name: _parse_row(sort, layer.get(sort.listed, []), f"{path}/{sort.listed}", problems)
        for name, sort in PART_SORTS.items()
    }


def _parse_row(sort: PartSort, given: Any, path: str, problems: list[Problem]) -> tuple[PlacedPart, ...]:
    if not isinstance(given, list) or len(given) > sort.most:
        problems.append(Problem(path, f"A layer has a list of up to {sort.most} {sort.listed}."))
        return ()
    out: list[PlacedPart] = []
    for index, item in enumerate(given):
        result = _parse_part(sort, item, {part.id for part in out}, f"{path}/{index}", problems)
        if result:
            out.append(result)
    return tuple(out)


def _parse_part(sort: PartSort, item: Any, taken: set[str], path: str, problems: list[Problem]) -> PlacedPart | None:
    kind = item.get("kind") if isinstance(item, dict) else None
    if not isinstance(kind, str) or kind not in sort.kinds:
        problems.append(Problem(f"{path}/kind", f"There is no {sort.name} kind called {quoted(kind)}."))
        return None
    problems += [
        Problem(f"{path}/{key}", f"{sort.called} has no part called {quoted(key)}.") for key in item.keys() - _KNOWN
    ]
    ident, on, values = item.get("id"), item.get("on", True), item.get("settings", {})
    if not isinstance(ident, str) or not 0 < len(ident) <= 64 or ":" in ident or ident in taken:
        problems.append(Problem(f"{path}/id", f"{sort.called} needs an id of its own."))
        return None
    if not isinstance(on, bool):
        problems.append(Problem(f"{path}/on", f"{sort.called} is on or off."))
        return None
    if not isinstance(values, dict):
        problems.append(Problem(f"{path}/settings", f"The settings of {sort.called.lower()} are an object."))
        return None
    part, result = sort.kinds[kind].checked(values)
    problems += [Problem(f"{path}/settings/{name}", sentence) for name, sentence in result]
    return PlacedPart(ident, part, on) if part else None


def part_schema(sort: PartSort) -> dict[str, Any]:
    """The parts of one sort that a layer has, as JSON Schema."""
    kinds = [
        {
            "type": "object",
            "required": ["id", "kind"],
            "additionalProperties": False,
            "properties": {
                "id": {"type": "string", "minLength": 1, "maxLength": 64},
                "kind": {"const": kind},
                "on": {"type": "boolean", "description": "What is off counts as if it were not there."},
                "settings": cls.schema(),
            },
        }
        for kind, cls in sorted(sort.kinds.items())
    ]
    return {"type": "array", "maxItems": sort.most, "items": {"oneOf": kinds}}
