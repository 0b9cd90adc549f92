"""Classes that declare settings: layer kinds, signal kinds, and other parts of a project with settings."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any, ClassVar, Protocol, Self, TypeVar

from velvetdrum.declare.registry import make_known
from velvetdrum.declare.setting import quoted
from velvetdrum.declare.settings import Setting, SettingError


def _label_of(name: str) -> str:
    """The label of a setting that declares none, from its name: axes are written large."""
    return re.sub(r" ([xyz])$", lambda found: found[0].upper(), name.replace("_", " ").capitalize())


class Integral(Protocol):
    """What a rate that changes has come to."""

    def between(self, from_s: float, to_s: float) -> float:
        """The integral over a stretch of time, in seconds."""


class Declared:
    """Base of everything with declared settings. An instance carries the parsed values as plain attributes."""

    kind: ClassVar[str] = ""
    title: ClassVar[str] = ""
    settings: ClassVar[dict[str, Setting]] = {}
    begins: ClassVar[dict[str, Any]] = {}
    """Defaults, in their stored form, in place of those of the settings that a class inherits."""
    summary: ClassVar[str] = ""
    """What one of it is set to, in one line: names of settings in braces stand for their values, {name#} for how many
    there are. What stands between bars is left out where it would be empty."""
    first: ClassVar[tuple[str, ...]] = ()
    """Settings that stand before those that a class inherits."""
    integrals: Mapping[str, Integral] = MappingProxyType({})
    """Of an instance as it is at one time: the integrals of its rates that change over time, by their names."""

    def __init_subclass__(cls, **more: Any) -> None:
        super().__init_subclass__(**more)
        result: dict[str, Setting] = {}
        for base in reversed(cls.__mro__):
            for key, value in vars(base).items():
                if isinstance(value, Setting):
                    label = value.label or _label_of(key)
                    result[key] = replace(value, name=key, label=label)
                elif key in result:
                    # A plain value in place of an inherited setting settles it: there is nothing to set any more.
                    del result[key]
            for key, default in vars(base).get("begins", {}).items():
                result[key] = replace(result[key], default=default)
        leading = [name for name in cls.first if name in result]
        cls.settings = {name: result[name] for name in [*leading, *(name for name in result if name not in leading)]}

    def __init__(self, values: dict[str, Any]) -> None:
        """Raises SettingError at the first value that does not fit; see `problems` for all of them."""
        for name, setting in self.settings.items():
            setattr(self, name, setting.parse(values.get(name, setting.default)))

    def integral(self, name: str, to_s: float, from_s: float = 0.0) -> float:
        """What one of its rates has come to from one time to another, in seconds: as often as time goes on, where it
        stays as it is; else its integral, so that what it drives never jumps."""
        changing = self.integrals.get(name)
        return changing.between(from_s, to_s) if changing else getattr(self, name) * (to_s - from_s)

    def state(self) -> tuple[Any, ...]:
        """The values of all settings, in their order."""
        return tuple(getattr(self, name) for name in self.settings)

    @classmethod
    def media_settings(cls) -> list[str]:
        """Names of the settings that hold the content hash of a file."""
        return [name for name, setting in cls.settings.items() if setting.media]

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        """Sentences about values that belong together, as (setting, sentence). Kinds extend this."""
        return []

    @classmethod
    def problems(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        """All that is wrong with `values`, as (setting, sentence)."""
        return cls.checked(values)[1]

    @classmethod
    def checked(cls, values: dict[str, Any]) -> tuple[Self | None, list[tuple[str, str]]]:
        """One of these with `values`, each parsed once, or None and all that is wrong with them."""
        result = [
            (name, f"{cls.title} has no setting called {quoted(name)}.") for name in values if name not in cls.settings
        ]
        parsed: dict[str, Any] = {}
        for name, setting in cls.settings.items():
            try:
                parsed[name] = setting.parse(values.get(name, setting.default))
            except SettingError as problem:
                result.append((name, str(problem)))
        result = result or cls.check(cls.defaults() | values)
        if result:
            return None, result
        one = cls.__new__(cls)
        vars(one).update(parsed)
        return one, []

    @classmethod
    def defaults(cls) -> dict[str, Any]:
        """Every setting's value when nothing else is said, by its name in files."""
        return {name: setting.default for name, setting in cls.settings.items()}

    @classmethod
    def help(cls) -> str:
        """What it is, in one line."""
        return (cls.__doc__ or "").split("\n")[0]

    @classmethod
    def schema(cls) -> dict[str, Any]:
        """The settings object as JSON Schema."""
        return {
            "type": "object",
            "title": cls.title,
            "description": cls.help(),
            "additionalProperties": False,
            "properties": {name: setting.schema() for name, setting in cls.settings.items()},
        }


Kind = TypeVar("Kind", bound=type[Declared])


def known_as(known: dict[str, Any], name: str, title: str) -> Callable[[Kind], Kind]:
    """Class decorator: gives a kind its name and title, and puts it into `known` under that name. Raises ValueError
    where another kind has it."""

    def register(cls: Kind) -> Kind:
        cls.kind, cls.title = name, title
        make_known(known, name, cls)
        return cls

    return register
