"""Layer kinds: each is one class that declares its settings beside the code that draws it."""

from __future__ import annotations

from functools import partial

from velvetdrum.kinds.declared import Declared, known_as


class Layer(Declared):
    """Base of all layer kinds."""


LAYER_KINDS: dict[str, type[Layer]] = {}
"""Every known kind by its name. Filled when `velvetdrum.picture.layers` is imported."""

layer_kind = partial(known_as, LAYER_KINDS)
"""Class decorator with a name and a title: makes a layer kind known."""
