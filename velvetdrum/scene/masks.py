"""Masks: what part of a layer shows."""

from __future__ import annotations

from typing import Any

from velvetdrum.declare.settings import choice, flag
from velvetdrum.declare.vocabulary import percent
from velvetdrum.scene.parts import Part, new_part, part_sort
from velvetdrum.scene.problems import Document

MASKS = part_sort(
    "mask",
    listed="masks",
    called="A mask",
    most=16,
    help="Without a mask all of the layer shows. A mask is a shape, or another layer: bars that uncover a picture, "
    "footage inside of letters.",
)
MASK_KINDS: dict[str, type[Mask]] = MASKS.kinds
"""Every known kind by its name. Filled when `velvetdrum.picture.masks` is imported."""

mask_kind = MASKS.kind
"""Class decorator with a name and a title: makes a mask kind known."""


class Mask(Part):
    """Base of all mask kinds: what every mask has."""

    join: str = choice(
        "add",
        {"add": "Adds", "subtract": "Subtracts", "intersect": "Intersects"},
        label="Operation",
        group="mask",
        help="What it does to the masks before it (CSS Masking: mask-composite).",
    )
    invert: bool = flag(False, label="Inverted", group="mask", help="Shows what lies outside of it.")
    strength: float = percent(
        100, step=1, group="mask", help="How much of it counts: 0 lets everything through.", advanced=True
    )


def new_mask(kind: str, **settings: Any) -> Document:
    """A mask of a kind with its defaults, and the given settings in their stored form."""
    return new_part(MASKS, kind, **settings)
