"""Layers as the document has them: parsed, with their parts, patches, keyframes and overrides."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from threading import Lock
from typing import Any

from cachetools import LRUCache

import velvetdrum.scene.effects
import velvetdrum.scene.masks  # noqa: F401  (makes both sorts of parts known)
from velvetdrum.declare.setting import quoted
from velvetdrum.declare.settings import Setting
from velvetdrum.scene.keyframes import Keyframe, parse_keyframes
from velvetdrum.scene.kinds import COMPOSITE_SETTINGS, LAYER_KINDS, Layer
from velvetdrum.scene.overrides import Overrides, override_schema, parse_overrides
from velvetdrum.scene.parts import PART_SORTS, Parts, PlacedPart, Places, parse_parts, split
from velvetdrum.scene.patches import Patch, parse_patches
from velvetdrum.scene.problems import Document, Problem, report_unknown
from velvetdrum.scene.tree import check_tree

MOST_LAYERS = 200
LONGEST_NAME = 300
_LAYER = {"id", "kind", "name", "visible", "solo", "locked", "settings", "patches", "group", "keyframes", "frames"}

_PARSED: LRUCache[bytes, tuple[PlacedLayer, int]] = LRUCache(64_000_000, getsizeof=lambda item: item[1])
_LOCK = Lock()
_PARSED_TO_TEXT = 4
"""How many bytes a parsed layer holds for each of its text, about."""


@dataclass(frozen=True)
class PlacedLayer:
    """A layer of the document with its settings parsed."""

    id: str
    name: str
    visible: bool
    layer: Layer
    patches: tuple[Patch, ...] = ()
    solo: bool = False
    group: str = ""
    """Id of the group that it is in; empty for none."""
    parts: Parts = field(default_factory=dict)
    """Its masks and its effects, see `scene.parts`."""
    keyframes: Mapping[str, tuple[Keyframe, ...]] = field(default_factory=dict)
    """By the address of their setting, see `scene.parts`."""
    overrides: Overrides = field(default_factory=dict)

    @cached_property
    def moving(self) -> frozenset[str]:
        """Addresses of the settings that change over time."""
        return frozenset(self.keyframes) | {patch.setting for patch in self.patches if patch.on}

    @property
    def moves(self) -> bool:
        """True when its settings change over time."""
        return bool(self.moving)

    def setting_at(self, place: str) -> Setting | None:
        """The setting at an address, of the layer or of one of its parts; None where there is none."""
        sort, ident, name = split(place)
        if not sort:
            return self.layer.settings.get(name)
        parts = (item.part for item in self.parts.get(sort, ()) if item.id == ident)
        return next((part.settings.get(name) for part in parts), None)

    @property
    def masks(self) -> tuple[PlacedPart, ...]:
        """The masks that it has, in order."""
        return self.parts.get("mask", ())

    @cached_property
    def picture_moves(self) -> bool:
        """True when settings change that its picture is made from."""
        return any(place not in COMPOSITE_SETTINGS and not split(place)[0] for place in self.moving) or self.parts_move(
            "effect"
        )

    def parts_move(self, sort: str) -> bool:
        """True when settings of its parts of a sort change."""
        return any(split(place)[0] == sort for place in self.moving)


def parse_layers(
    document: Document, problems: list[Problem], like: tuple[Document, tuple[PlacedLayer, ...]] | None = None
) -> tuple[PlacedLayer, ...]:
    """The layers of a document; what is wrong with them is added to `problems`.

    Most edits change one layer: those that were parsed before, as they are now, are not parsed again. `like` is a
    document with its layers, whose signals are those of this one.
    """
    given = document.get("layers")
    if not isinstance(given, list) or len(given) > MOST_LAYERS:
        problems.append(Problem("/layers", f"A project has a list of up to {MOST_LAYERS} layers."))
        return ()
    listed = document.get("signals", [])
    names = {item["id"]: str(item.get("name")) for item in listed if _has_id(item)} if isinstance(listed, list) else {}
    out: list[PlacedLayer] = []
    taken: set[str] = set()
    same = {id(item): placed for item, placed in zip(like[0]["layers"], like[1], strict=True)} if like else {}
    for index, item in enumerate(given):
        path = f"/layers/{index}"
        ident = item.get("id") if isinstance(item, dict) else None
        if not isinstance(ident, str) or not 0 < len(ident) <= 64 or ident in taken:
            problems.append(Problem(f"{path}/id", "Every layer needs an id of its own, of up to 64 characters."))
            continue
        taken.add(ident)
        placed = same.get(id(item)) or _known_layer(item, ident, names, path, problems)
        if placed:
            out.append(placed)
    if not problems:
        problems += check_tree(out)
    return tuple(out)


def _known_layer(
    item: Document, ident: str, signals: dict[str, str], path: str, problems: list[Problem]
) -> PlacedLayer | None:
    kinds = [id(LAYER_KINDS.get(str(item.get("kind")))), *(len(sort.kinds) for sort in PART_SORTS.values())]
    text = json.dumps([item, signals, kinds])
    name = hashlib.sha256(text.encode()).digest()
    with _LOCK:
        known = _PARSED.get(name)
    if known is not None:
        return known[0]
    before = len(problems)
    placed = _layer(item, ident, signals, path, problems)
    size = len(text) * _PARSED_TO_TEXT
    if placed is not None and len(problems) == before and size <= _PARSED.maxsize:
        with _LOCK:
            _PARSED[name] = placed, size
    return placed


def _layer(
    item: Document, ident: str, signals: dict[str, str], path: str, problems: list[Problem]
) -> PlacedLayer | None:
    kind, values, group = item.get("kind"), item.get("settings", {}), item.get("group", "")
    if not isinstance(kind, str) or kind not in LAYER_KINDS:
        problems.append(Problem(f"{path}/kind", f"There is no layer kind called {quoted(kind)}."))
        return None
    if not isinstance(values, dict):
        problems.append(Problem(f"{path}/settings", "A layer's settings are an object."))
        return None
    if not isinstance(group, str):
        problems.append(Problem(f"{path}/group", "A layer's group is the id of a group, or empty."))
        return None
    report_unknown(item, _LAYER | {sort.listed for sort in PART_SORTS.values()}, path, "A layer", problems)
    name = item.get("name", "")
    if not isinstance(name, str) or len(name) > LONGEST_NAME:
        problems.append(Problem(f"{path}/name", f"A layer's name is a text of up to {LONGEST_NAME} characters."))
    for part in ("visible", "solo", "locked"):
        if not isinstance(item.get(part, False), bool):
            problems.append(Problem(f"{path}/{part}", f"Whether a layer is {part} is true or false."))
    cls = LAYER_KINDS[kind]
    layer, result = cls.checked(values)
    problems += [Problem(f"{path}/settings/{name}", sentence) for name, sentence in result]
    parts = parse_parts(item, path, problems)
    places = Places.of(cls, parts)
    patches = parse_patches(item.get("patches", []), places, signals, f"{path}/patches", problems)
    keyframes = parse_keyframes(item.get("keyframes", {}), places, f"{path}/keyframes", problems)
    overrides = parse_overrides(item.get("frames", {}), places, f"{path}/frames", problems)
    if layer is None:
        return None
    return PlacedLayer(
        ident,
        str(item.get("name") or cls.title),
        item.get("visible", True) is True,
        layer,
        patches,
        item.get("solo", False) is True,
        group,
        parts,
        keyframes,
        overrides,
    )


def _has_id(item: Any) -> bool:
    return isinstance(item, dict) and isinstance(item.get("id"), str)


def layer_schemas() -> list[dict[str, Any]]:
    """What the published JSON Schema says of a layer of each kind."""
    layers = []
    for kind, cls in sorted(LAYER_KINDS.items()):
        properties = {
            "id": {"type": "string", "minLength": 1, "maxLength": 64},
            "kind": {"const": kind},
            "name": {"type": "string", "maxLength": LONGEST_NAME},
            "visible": {"type": "boolean"},
            "solo": {"type": "boolean", "description": "While any layer is solo, only solo layers are drawn."},
            "locked": {"type": "boolean", "description": "The studio refuses to change a locked layer."},
            "settings": cls.schema(),
            "patches": {"$ref": "#/$defs/patches"},
            "group": {"type": "string", "maxLength": 64, "description": "Id of the group that it is in, or empty."},
            **{sort.listed: {"$ref": f"#/$defs/{sort.listed}"} for sort in PART_SORTS.values()},
            "keyframes": {"$ref": "#/$defs/keyframes"},
            "frames": override_schema(cls),
        }
        layers.append(
            {"type": "object", "required": ["id", "kind"], "additionalProperties": False, "properties": properties}
        )
    return layers
