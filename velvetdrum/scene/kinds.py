"""Layer kinds: each is one class that declares its settings beside the code that draws it."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, TypeVar

from velvetdrum.kinds.declared import Declared


class Layer(Declared):
    """Base of all layer kinds."""

    kind: ClassVar[str] = ""


LAYER_KINDS: dict[str, type[Layer]] = {}
"""Every known kind by its name. Filled when `velvetdrum.picture.layers` is imported."""

Kind = TypeVar("Kind", bound=type[Layer])


def layer_kind(name: str, title: str) -> Callable[[Kind], Kind]:
    """Class decorator: makes the kind known under `name`."""

    def register(cls: Kind) -> Kind:
        cls.kind, cls.title = name, title
        LAYER_KINDS[name] = cls
        return cls

    return register
