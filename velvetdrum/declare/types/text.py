"""Texts, files and layers: values that are a string."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any, ClassVar, TypeGuard

from velvetdrum.declare.setting import PanelGroup, Setting, SettingError, When, conditions

_KEY = re.compile(r"[0-9a-f]{64}")


@dataclass(frozen=True)
class Text(Setting):
    """A text of up to `hi` characters."""

    type: ClassVar[str] = "text"

    def parse(self, value: Any) -> str:
        if not isinstance(value, str) or len(value) > self.hi:
            raise SettingError(f"{self.label} is a text of up to {self.hi:g} characters.")
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"type": "string", "maxLength": int(self.hi)}

    def describe_values(self) -> str:
        return f"a text of up to {self.hi:g} characters"


@dataclass(frozen=True)
class PathText(Text):
    """A path in the notation of SVG, typed or taken from a file."""

    type: ClassVar[str] = "path"


@dataclass(frozen=True)
class BandText(Text):
    """Bands of frequency as people write them: 40-160, 160-2.5k."""

    type: ClassVar[str] = "bands"


@dataclass(frozen=True)
class MediaFile(Setting):
    """A file that was brought in, by the hash of its content; empty for none."""

    def parse(self, value: Any) -> str:
        if value != "" and not is_content_key(value):
            raise SettingError(f"{self.label} is the content hash of a {self.media}, or empty for none.")
        assert isinstance(value, str)
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"type": "string", "pattern": "^([0-9a-f]{64})?$"}

    def describe_values(self) -> str:
        return f"the content hash of a {self.media}, or empty"


@dataclass(frozen=True)
class PictureFile(MediaFile):
    """A picture."""

    type: ClassVar[str] = "picture"
    media: ClassVar[str] = "picture"


@dataclass(frozen=True)
class FootageFile(MediaFile):
    """A clip."""

    type: ClassVar[str] = "footage"
    media: ClassVar[str] = "footage"


@dataclass(frozen=True)
class TableFile(MediaFile):
    """A table of colours."""

    type: ClassVar[str] = "table"
    media: ClassVar[str] = "table"


@dataclass(frozen=True)
class OtherLayer(Setting):
    """Another layer of the project, by its id; empty for none."""

    type: ClassVar[str] = "layer"
    names_layer: ClassVar[bool] = True

    def parse(self, value: Any) -> str:
        if not isinstance(value, str) or len(value) > 64:
            raise SettingError(f"{self.label} is the id of a layer, or empty for none.")
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"type": "string", "maxLength": 64}

    def describe_values(self) -> str:
        return "the id of a layer, or empty"


@dataclass(frozen=True)
class HeardSound(Setting):
    """A sound of the project: empty for the sum, a track by its id, and a part of either after a slash."""

    type: ClassVar[str] = "heard-sound"
    names_sound: ClassVar[bool] = True

    def parse(self, value: Any) -> str:
        if not isinstance(value, str) or len(value) > 80:
            raise SettingError(f"{self.label} is the id of a track with a part after a slash, or empty for the sum.")
        return value

    def values_schema(self) -> dict[str, Any]:
        return {"type": "string", "maxLength": 80}

    def describe_values(self) -> str:
        return "empty for the sum, the id of a track, or either with `/percussive` or `/harmonic` after it"

    def describe_default(self) -> str:
        return "the sum"


def heard_sound(*, advanced: bool = True, when: When = ()) -> Any:
    """What is listened to: the sum, one track before its fader, or the percussive or the harmonic part of either."""
    about = "The sum of all tracks, one track before its fader, or a part of either."
    return HeardSound("", "", "Listens to", about, group="sound", advanced=advanced, when=conditions(when))


def text(
    default: str,
    *,
    most: int = 200,
    lines: int = 1,
    label: str = "",
    help: str = "",
    group: PanelGroup = "shape",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """A text of up to `most` characters."""
    return Text(default, "", label, help, group=group, hi=most, lines=lines, advanced=advanced, when=conditions(when))


def path_data(default: str, *, most: int, group: PanelGroup = "shape", when: When = ()) -> Any:
    """A path in the notation of SVG, of up to `most` characters."""
    about = 'SVG path data: what stands in d="…" of a path.'
    return PathText(default, "", "Path data", about, group=group, hi=most, lines=3, when=conditions(when))


def band_text(default: str, *, most: int, label: str, help: str, group: PanelGroup = "sound", when: When = ()) -> Any:
    """Bands of frequency, typed or dragged on the spectrum, as a text of up to `most` characters."""
    return BandText(default, "", label, help, group=group, hi=most, lines=2, when=conditions(when))


def picture(
    *, label: str = "", help: str = "", group: PanelGroup = "shape", advanced: bool = False, when: When = ()
) -> Any:
    """A picture that was brought in, by the hash of its content; empty for none."""
    return PictureFile("", "", label, help, group=group, advanced=advanced, when=conditions(when))


def footage(
    *, label: str = "", help: str = "", group: PanelGroup = "shape", advanced: bool = False, when: When = ()
) -> Any:
    """A clip that was brought in, by the hash of its content; empty for none."""
    return FootageFile("", "", label, help, group=group, advanced=advanced, when=conditions(when))


def lookup_table(*, label: str = "", help: str = "", group: PanelGroup = "effect", when: When = ()) -> Any:
    """A look-up table that was brought in, by the hash of its content; empty for none."""
    return TableFile("", "", label, help, group=group, when=conditions(when))


def layer(
    *, label: str = "", help: str = "", group: PanelGroup = "shape", advanced: bool = False, when: When = ()
) -> Any:
    """Another layer of the project, by its id; empty for none."""
    return OtherLayer("", "", label, help, group=group, advanced=advanced, when=conditions(when))


def is_content_key(value: Any) -> TypeGuard[str]:
    """True for the SHA-256 of a file's content in lower-case hexadecimal: the only form in which files are named."""
    return isinstance(value, str) and _KEY.fullmatch(value) is not None
