"""One of a few named values; on or off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from velvetdrum.declare.setting import PanelGroup, Setting, SettingError, When, conditions, shown


@dataclass(frozen=True)
class Choice(Setting):
    """One of a few named values."""

    type: ClassVar[str] = "choice"

    def parse(self, value: Any) -> str:
        known = [key for key, _ in self.choices]
        if not isinstance(value, str) or value not in known:
            raise SettingError(f"{self.label} can be {', '.join(known)}, not {shown(value)}.")
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"enum": [key for key, _ in self.choices]}

    def describe_values(self) -> str:
        return ", ".join(f"`{key}` ({label})" for key, label in self.choices)


@dataclass(frozen=True)
class Flag(Setting):
    """On or off."""

    type: ClassVar[str] = "flag"

    def parse(self, value: Any) -> bool:
        if not isinstance(value, bool):
            raise SettingError(f"{self.label} is on or off, not {shown(value)}.")
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"type": "boolean"}

    def describe_values(self) -> str:
        return "`true` or `false`"


def choice(
    default: str,
    choices: dict[str, str],
    *,
    label: str = "",
    help: str = "",
    group: PanelGroup = "shape",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """One of a few named values; `choices` maps the stored value to its label."""
    return Choice(
        default, "", label, help, group=group, choices=tuple(choices.items()), advanced=advanced, when=conditions(when)
    )


def flag(
    default: bool,
    *,
    label: str = "",
    help: str = "",
    group: PanelGroup = "shape",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """On or off."""
    return Flag(default, "", label, help, group=group, advanced=advanced, when=conditions(when))
