"""Effects: what changes a layer's picture after it was drawn."""

from __future__ import annotations

from typing import Any

from velvetdrum.scene.parts import Part, new_part, part_sort
from velvetdrum.scene.problems import Document

EFFECTS = part_sort(
    "effect",
    listed="effects",
    called="An effect",
    most=16,
    help="An effect changes the layer's picture once it is drawn and in its place. Each works on what the one before "
    "it left, and masks come after all of them.",
)
EFFECT_KINDS: dict[str, type[Effect]] = EFFECTS.kinds
"""Every known kind by its name. Filled when `velvetdrum.picture.effects` is imported."""

effect_kind = EFFECTS.kind
"""Class decorator with a name and a title: makes an effect kind known."""


class Effect(Part):
    """Base of all effect kinds."""


def new_effect(kind: str, **settings: Any) -> Document:
    """An effect of a kind with its defaults, and the given settings in their stored form."""
    return new_part(EFFECTS, kind, **settings)
