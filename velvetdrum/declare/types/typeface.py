"""A type family: one that ships, or a file of the user's by the hash of its content."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from velvetdrum.declare.setting import PanelGroup, Setting, SettingError, When, conditions, shown
from velvetdrum.declare.types.text import is_content_key


@dataclass(frozen=True)
class FontFamily(Setting):
    """A type family by its id, or a typeface file that was brought in by the hash of its content."""

    type: ClassVar[str] = "typeface"
    media: ClassVar[str] = "typeface"

    def parse(self, value: Any) -> str:
        known = [key for key, _ in self.choices]
        if not isinstance(value, str) or not (value in known or is_content_key(value)):
            raise SettingError(f"{self.label} is one of {', '.join(known)}, or a typeface file, not {shown(value)}.")
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"anyOf": [{"enum": [key for key, _ in self.choices]}, {"type": "string", "pattern": "^[0-9a-f]{64}$"}]}

    def describe_values(self) -> str:
        named = ", ".join(f"`{key}` ({label})" for key, label in self.choices)
        return f"{named}, or the content hash of a typeface file"


@dataclass(frozen=True)
class CueTrackName(Setting):
    """A cue track of the project, by its id; empty for the first."""

    type: ClassVar[str] = "cue-track"

    def parse(self, value: Any) -> str:
        if not isinstance(value, str) or len(value) > 64:
            raise SettingError(f"{self.label} is the id of a cue track, or empty for the first.")
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"type": "string", "maxLength": 64}

    def describe_values(self) -> str:
        return "the id of a cue track, or empty for the first"


@dataclass(frozen=True)
class NoteRow(Setting):
    """A list of notes of the project, by its id; empty for the first."""

    type: ClassVar[str] = "note-row"

    def parse(self, value: Any) -> str:
        if not isinstance(value, str) or len(value) > 64:
            raise SettingError(f"{self.label} is the id of a list of notes, or empty for the first.")
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"type": "string", "maxLength": 64}

    def describe_values(self) -> str:
        return "the id of a list of notes, or empty for the first"


def note_row(*, label: str = "", help: str = "", group: PanelGroup = "shape") -> Any:
    """A list of notes of the project; empty for the first."""
    return NoteRow("", "", label, help, group=group)


def font_family(
    default: str,
    choices: dict[str, str],
    *,
    label: str = "",
    help: str = "",
    group: PanelGroup = "shape",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """A type family; `choices` maps the ids of those that ship to their names."""
    return FontFamily(
        default, "", label, help, group=group, choices=tuple(choices.items()), advanced=advanced, when=conditions(when)
    )


def cue_track(*, label: str = "", help: str = "", group: PanelGroup = "shape", advanced: bool = False) -> Any:
    """A cue track of the project; empty for the first."""
    return CueTrackName("", "", label, help, group=group, advanced=advanced)
