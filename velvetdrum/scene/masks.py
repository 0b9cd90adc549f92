"""Masks: what part of a layer shows. Each kind is one class that declares its settings beside what draws it."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from functools import partial
from typing import Any

from velvetdrum.declare.declared import Declared, known_as
from velvetdrum.declare.settings import choice, flag, number
from velvetdrum.scene.problems import Document, Problem

MOST_MASKS = 16
_KNOWN = {"id", "kind", "settings"}


class Mask(Declared):
    """Base of all mask kinds: what every mask has."""

    join: str = choice(
        "add",
        {"add": "Adds", "subtract": "Subtracts", "intersect": "Intersects"},
        label="Joins",
        group="mask",
        help="What it does to the masks before it (CSS Masking: mask-composite).",
    )
    invert: bool = flag(False, label="Inverted", group="mask", help="Shows what lies outside of it.")
    strength: float = number(100, lo=0, hi=100, unit="%", step=1, group="mask",
                             help="How much of it counts: 0 lets everything through.", often=False)  # fmt: skip

    def layers(self) -> list[str]:
        """Ids of layers that it reads."""
        return []


MASK_KINDS: dict[str, type[Mask]] = {}
"""Every known kind by its name. Filled when `velvetdrum.picture.masks` is imported."""

mask_kind = partial(known_as, MASK_KINDS)
"""Class decorator with a name and a title: makes a mask kind known."""


@dataclass(frozen=True)
class PlacedMask:
    """A mask of a layer with its settings parsed."""

    id: str
    mask: Mask


def new_mask(kind: str, **settings: Any) -> Document:
    """A mask of a kind with its defaults, and the given settings in their stored form."""
    return {"id": secrets.token_hex(4), "kind": kind, "settings": MASK_KINDS[kind].defaults() | settings}


def parse_masks(given: Any, path: str, problems: list[Problem]) -> tuple[PlacedMask, ...]:
    """The masks of a layer, in their order; adds to `problems` what is wrong."""
    if not isinstance(given, list) or len(given) > MOST_MASKS:
        problems.append(Problem(path, f"A layer has a list of up to {MOST_MASKS} masks."))
        return ()
    out: list[PlacedMask] = []
    for index, item in enumerate(given):
        here = f"{path}/{index}"
        kind = item.get("kind") if isinstance(item, dict) else None
        if not isinstance(kind, str) or kind not in MASK_KINDS:
            problems.append(Problem(f"{here}/kind", f"There is no mask kind called {kind!r}."))
            continue
        problems += [Problem(f"{here}/{key}", f"A mask has no part called {key}.") for key in item.keys() - _KNOWN]
        ident, values = item.get("id"), item.get("settings", {})
        if not isinstance(ident, str) or not ident or ":" in ident or ident in {mask.id for mask in out}:
            problems.append(Problem(f"{here}/id", "Every mask needs an id of its own."))
            continue
        if not isinstance(values, dict):
            problems.append(Problem(f"{here}/settings", "A mask's settings are an object."))
            continue
        found = MASK_KINDS[kind].problems(values)
        problems += [Problem(f"{here}/settings/{name}", sentence) for name, sentence in found]
        if not found:
            out.append(PlacedMask(ident, MASK_KINDS[kind](values)))
    return tuple(out)


def mask_schema() -> dict[str, Any]:
    """The masks of a layer as JSON Schema."""
    kinds = [
        {
            "type": "object",
            "required": ["id", "kind"],
            "additionalProperties": False,
            "properties": {
                "id": {"type": "string", "minLength": 1, "maxLength": 64},
                "kind": {"const": kind},
                "settings": cls.schema(),
            },
        }
        for kind, cls in sorted(MASK_KINDS.items())
    ]
    return {"type": "array", "maxItems": MOST_MASKS, "items": {"oneOf": kinds}}
