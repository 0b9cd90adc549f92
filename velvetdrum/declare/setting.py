"""What every setting is, whatever its type: a name, a unit, a range, a default, a label and a line of help."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar, Literal

PanelGroup = Literal["shape", "sound", "colour", "motion", "layer", "space", "mask", "effect"]
Condition = tuple[str, tuple[Any, ...]]
"""A setting's name and the values that it may have."""

When = Condition | tuple[Condition, ...] | tuple[()]
"""What a setting's `when` may be declared as: one condition, several that must all hold, or none."""

Join = Literal["replace", "add", "multiply"]


class SettingError(ValueError):
    """A value does not fit its setting. The text is a sentence for the person who typed it."""


@dataclass(frozen=True)
class Setting:
    """Base of all types, each one module of `velvetdrum.declare.types`. `name` is filled in by the kind that it belongs
    to; `group` is the part of the panel that it stands in."""

    type: ClassVar[str] = ""
    moves: ClassVar[bool] = False
    """True when it can take keyframes and patches; `mixed`, `parse_end` and `joined` say how."""
    numeric: ClassVar[bool] = False
    """True when it can be drawn as a curve."""
    per_time: ClassVar[bool] = False
    """True for a rate: a number a second, a minute, a beat or a bar, whose integral is what it moves."""
    media: ClassVar[str] = ""
    """Which sort of file its value names by content hash; empty for none."""
    names_signals: ClassVar[bool] = False
    """True when its value is a list of ids of signals."""
    is_curve: ClassVar[bool] = False
    """True when its value is a curve over time."""
    names_sound: ClassVar[bool] = False
    """True when its value names a sound of the project."""
    names_layer: ClassVar[bool] = False
    """True when its value is the id of a layer."""

    default: Any
    name: str = ""
    label: str = ""
    help: str = ""
    unit: str = ""
    group: PanelGroup = "shape"
    lo: float = 0.0
    hi: float = 0.0
    step: float = 0.0
    curve: Literal["linear", "log"] = "linear"
    choices: tuple[tuple[str, str], ...] = ()
    clear: bool = False
    """True for colours that may have an opacity."""
    advanced: bool = False
    """True for settings that stand one step away, under "more"."""
    when: tuple[Condition, ...] = ()
    """Shown only while all of these hold."""
    lines: int = 1
    """Of a text: the height of its field."""

    def parse(self, value: Any) -> Any:
        """The value in the form that kinds use. Raises SettingError with a sentence."""
        raise NotImplementedError

    def schema(self) -> dict[str, Any]:
        """This setting as JSON Schema (2020-12)."""
        return {"title": self.label, "description": self.help} | self.values_schema() | {"default": self.default}

    def values_schema(self) -> dict[str, Any]:
        """What its values are, as JSON Schema."""
        raise NotImplementedError

    def describe_values(self) -> str:
        """What its values are, in words."""
        raise NotImplementedError

    def describe_default(self) -> str:
        """Its default, in words."""
        return str(self.default)

    def mixed(self, before: Any, after: Any, share: float) -> Any:
        """A value between two, as far as `share` says; eased shares may lie a little below 0 or above 1."""
        raise NotImplementedError

    def parse_end(self, value: Any, join: str, label: str) -> Any:
        """What a patch moves it from or to, in the form that `joined` takes. Raises SettingError."""
        raise NotImplementedError

    def parse_along(self, value: Any, label: str) -> Any:
        """What a patch moves it along, in place of two ends. Types that have no such leave it out of account. Raises
        SettingError."""
        return ()

    def end_schema(self) -> dict[str, Any]:
        """The ends of a patch, as JSON Schema."""
        return self.values_schema()

    def joined(self, base: Any, ends: tuple[Any, Any], along: Any, join: str, value: float) -> Any:
        """The value that a patch makes of `base`, with its signal at `value`."""
        raise NotImplementedError


def conditions(when: When) -> tuple[Condition, ...]:
    """One condition, several, or none, as a list of them."""
    return (when,) if len(when) == 2 and isinstance(when[0], str) else when


def shown(value: Any) -> str:
    """A value as it is quoted in a sentence."""
    text = repr(value)
    return text if len(text) <= 40 else text[:37] + "..."


def quoted(name: Any) -> str:
    """The name of something in a document as a sentence says it, cut where it is longer than any: a text may be of any
    length, and what stands in the place of a name prints as long as it is."""
    text = name if isinstance(name, str) else repr(name)
    return text if len(text) <= 80 else f"{text[:79]}…"
