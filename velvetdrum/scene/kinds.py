"""Layer kinds: each is one class that declares its settings beside the code that draws it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, ClassVar, TypeVar

from velvetdrum.scene.settings import Setting, SettingError


class Layer:
    """Base of all layer kinds. An instance carries its parsed settings as plain attributes."""

    kind: ClassVar[str] = ""
    title: ClassVar[str] = ""
    settings: ClassVar[dict[str, Setting]] = {}

    def __init__(self, values: dict[str, Any]) -> None:
        """Raises SettingError at the first value that does not fit; see `problems` for all of them."""
        for name, setting in self.settings.items():
            setattr(self, name, setting.parse(values.get(name, setting.default)))

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        """Sentences about values that belong together, as (setting, sentence). Kinds extend this."""
        return []

    @classmethod
    def problems(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        """All that is wrong with `values`, as (setting, sentence)."""
        found = [(name, f"{cls.title} has no setting called {name}.") for name in values if name not in cls.settings]
        for name, setting in cls.settings.items():
            try:
                setting.parse(values.get(name, setting.default))
            except SettingError as problem:
                found.append((name, str(problem)))
        return found or cls.check(cls.defaults() | values)

    @classmethod
    def defaults(cls) -> dict[str, Any]:
        return {name: setting.default for name, setting in cls.settings.items()}

    @classmethod
    def schema(cls) -> dict[str, Any]:
        """The settings object of this kind as JSON Schema."""
        return {
            "type": "object",
            "title": cls.title,
            "description": (cls.__doc__ or "").split("\n")[0],
            "additionalProperties": False,
            "properties": {name: setting.schema() for name, setting in cls.settings.items()},
        }


LAYER_KINDS: dict[str, type[Layer]] = {}
"""Every known kind by its name. Filled when `velvetdrum.picture.layers` is imported."""

Kind = TypeVar("Kind", bound=type[Layer])


def layer_kind(name: str, title: str) -> Callable[[Kind], Kind]:
    """Class decorator: collects the declared settings and makes the kind known under `name`."""

    def register(cls: Kind) -> Kind:
        declared: dict[str, Setting] = {}
        for base in reversed(cls.__mro__):
            for key, value in vars(base).items():
                if isinstance(value, Setting):
                    label = value.label or key.replace("_", " ").capitalize()
                    declared[key] = replace(value, name=key, label=label)
        cls.kind, cls.title, cls.settings = name, title, declared
        LAYER_KINDS[name] = cls
        return cls

    return register
