"""Settings: a name, a unit, a range, a default, a label and a line of help, declared where they are used.

A kind declares its settings as class attributes made with `number`, `whole`, `choice`, `flag`, `colour` and
`stops`; signals also with `points` and `signals`. Panels, validation, the JSON Schema and the reference page are
made from these declarations.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Any, Literal, TypeGuard

Group = Literal["shape", "sound", "colour", "motion", "layer", "mask", "effect"]
Condition = tuple[str, tuple[Any, ...]]
"""A setting's name and the values that it may have."""

When = Condition | tuple[Condition, ...] | tuple[()]
"""What a setting's `when` may be declared as: one condition, several that must all hold, or none."""

Stop = tuple[float, str]
"""A gradient stop: place from 0 to 1, and a colour."""

Point = tuple[float, float, str]
"""A point of a drawn curve: seconds, value, and the easing that leads to the next point."""

EASINGS = ("linear", "ease", "ease-in", "ease-out", "ease-in-out", "hold")
"""Easings of CSS Easing Functions, level 1; hold is its step at the end."""
MOST_POINTS = 50_000
MOST_INPUTS = 16

MOST_STOPS = 256
_KEY = re.compile(r"[0-9a-f]{64}")
_LARGEST = 10**15
"""A number of JSON has no bound of its own; one beyond this is no value of anything here."""

_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")


class SettingError(ValueError):
    """A value does not fit its setting. The text is a sentence for the person who typed it."""


@dataclass(frozen=True)
class Setting:
    """One declared setting. `name` is filled in by the kind that it belongs to."""

    type: Literal[
        "number", "whole", "choice", "flag", "colour", "stops", "points", "signals", "text", "picture", "footage",
        "layer",
    ]  # fmt: skip
    default: Any
    name: str = ""
    label: str = ""
    help: str = ""
    unit: str = ""
    group: Group = "shape"
    lo: float = 0.0
    hi: float = 0.0
    step: float = 0.0
    curve: Literal["linear", "log"] = "linear"
    choices: tuple[tuple[str, str], ...] = ()
    often: bool = True
    """False for settings that stand one step away, under "more"."""
    when: tuple[Condition, ...] = ()
    """Shown only while all of these hold."""
    lines: int = 1
    """Of a text: the height of its field."""

    def parse(self, value: Any) -> Any:
        """The value in the form that kinds use. Raises SettingError with a sentence."""
        match self.type:
            case "number" | "whole":
                return self._parse_number(value)
            case "choice":
                known = [key for key, _ in self.choices]
                if not isinstance(value, str) or value not in known:
                    raise SettingError(f"{self.label} can be {', '.join(known)}, not {_shown(value)}.")
                return value
            case "flag":
                if not isinstance(value, bool):
                    raise SettingError(f"{self.label} is on or off, not {_shown(value)}.")
                return value
            case "colour":
                return parse_colour(value, self.label)
            case "stops":
                return parse_stops(value, self.label)
            case "points":
                return parse_points(value, self.label)
            case "signals":
                return _parse_signals(value, self.label)
            case "picture" | "footage":
                if value != "" and not is_content_key(value):
                    raise SettingError(f"{self.label} is the content hash of a {self.type}, or empty for none.")
                return value
            case "layer":
                if not isinstance(value, str) or len(value) > 64:
                    raise SettingError(f"{self.label} is the id of a layer, or empty for none.")
                return value
            case "text":
                if not isinstance(value, str) or len(value) > self.hi:
                    raise SettingError(f"{self.label} is a text of up to {self.hi:g} characters.")
                return value

    def _parse_number(self, value: Any) -> float | int:
        if not is_number(value):
            raise SettingError(f"{self.label} needs a number, not {_shown(value)}.")
        if not self.lo <= value <= self.hi:
            unit = f" {self.unit}" if self.unit else ""
            raise SettingError(f"{self.label} goes from {self.lo:g} to {self.hi:g}{unit}; {value:g} is outside.")
        if self.type == "whole":
            if value != int(value):
                raise SettingError(f"{self.label} needs a whole number, not {value:g}.")
            return int(value)
        return float(value)

    def schema(self) -> dict[str, Any]:
        """This setting as JSON Schema (2020-12)."""
        out: dict[str, Any] = {"title": self.label, "description": self.help}
        match self.type:
            case "number" | "whole":
                out |= {"type": "integer" if self.type == "whole" else "number"}
                out |= {"minimum": self.lo, "maximum": self.hi}
                if self.unit:
                    out["x-unit"] = self.unit
            case "choice":
                out["enum"] = [key for key, _ in self.choices]
            case "flag":
                out["type"] = "boolean"
            case "colour":
                out |= {"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"}
            case "stops":
                stop = {
                    "type": "object",
                    "required": ["at", "colour"],
                    "additionalProperties": False,
                    "properties": {
                        "at": {"type": "number", "minimum": 0, "maximum": 1},
                        "colour": {"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"},
                    },
                }
                out |= {"type": "array", "minItems": 1, "maxItems": MOST_STOPS, "items": stop}
            case "points":
                point = {
                    "type": "object",
                    "required": ["time_s", "value"],
                    "additionalProperties": False,
                    "properties": {
                        "time_s": {"type": "number", "minimum": 0},
                        "value": {"type": "number", "minimum": -10, "maximum": 10},
                        "ease": {"enum": list(EASINGS)},
                    },
                }
                out |= {"type": "array", "minItems": 1, "maxItems": MOST_POINTS, "items": point}
            case "signals":
                out |= {"type": "array", "maxItems": MOST_INPUTS, "items": {"type": "string"}}
            case "picture" | "footage":
                out |= {"type": "string", "pattern": "^([0-9a-f]{64})?$"}
            case "layer":
                out |= {"type": "string", "maxLength": 64}
            case "text":
                out |= {"type": "string", "maxLength": int(self.hi)}
        return out | {"default": self.default}


def number(
    default: float,
    *,
    lo: float,
    hi: float,
    unit: str = "",
    step: float = 0.1,
    label: str = "",
    help: str = "",
    group: Group = "shape",
    curve: Literal["linear", "log"] = "linear",
    often: bool = True,
    when: When = (),
) -> Any:
    """A number with a unit and a range."""
    return Setting("number", default, "", label, help, unit, group, lo, hi, step, curve,
                   often=often, when=_conditions(when))  # fmt: skip


def whole(
    default: int,
    *,
    lo: int,
    hi: int,
    unit: str = "",
    label: str = "",
    help: str = "",
    group: Group = "shape",
    often: bool = True,
    when: When = (),
) -> Any:
    """A whole number."""
    return Setting("whole", default, "", label, help, unit, group, lo, hi, 1, often=often, when=_conditions(when))


def flag(
    default: bool, *, label: str = "", help: str = "", group: Group = "shape", often: bool = True, when: When = ()
) -> Any:
    """On or off."""
    return Setting("flag", default, "", label, help, group=group, often=often, when=_conditions(when))


def text(
    default: str,
    *,
    most: int = 200,
    lines: int = 1,
    label: str = "",
    help: str = "",
    group: Group = "shape",
    often: bool = True,
    when: When = (),
) -> Any:
    """A text of up to `most` characters."""
    return Setting("text", default, "", label, help, group=group, hi=most, lines=lines,
                   often=often, when=_conditions(when))  # fmt: skip


def choice(
    default: str,
    choices: dict[str, str],
    *,
    label: str = "",
    help: str = "",
    group: Group = "shape",
    often: bool = True,
    when: When = (),
) -> Any:
    """One of a few named values; `choices` maps the stored value to its label."""
    return Setting("choice", default, "", label, help, group=group, choices=tuple(choices.items()),
                   often=often, when=_conditions(when))  # fmt: skip


def colour(default: str, *, label: str = "", help: str = "", often: bool = True, when: When = ()) -> Any:
    """A colour as #rrggbb (sRGB)."""
    return Setting("colour", default, "", label, help, group="colour", often=often, when=_conditions(when))


def stops(default: list[Stop], *, label: str = "", help: str = "", often: bool = True, when: When = ()) -> Any:
    """A gradient: places from 0 to 1 with colours, in order of place. Two stops at one place make a hard edge."""
    listed = [{"at": at, "colour": value} for at, value in default]
    return Setting("stops", listed, "", label, help, group="colour", often=often, when=_conditions(when))


def points(default: list[tuple[float, float]], *, label: str = "", help: str = "", group: Group = "shape") -> Any:
    """Points of a curve over time, in order of time."""
    listed = [{"time_s": time, "value": value, "ease": "linear"} for time, value in default]
    return Setting("points", listed, "", label, help, group=group)


def signals(*, label: str = "", help: str = "", group: Group = "shape") -> Any:
    """A list of other signals, by their ids."""
    return Setting("signals", [], "", label, help, group=group)


def picture(*, label: str = "", help: str = "", group: Group = "shape", often: bool = True, when: When = ()) -> Any:
    """A picture that was brought in, by the hash of its content; empty for none."""
    return Setting("picture", "", "", label, help, group=group, often=often, when=_conditions(when))


def footage(*, label: str = "", help: str = "", group: Group = "shape", often: bool = True, when: When = ()) -> Any:
    """A clip that was brought in, by the hash of its content; empty for none."""
    return Setting("footage", "", "", label, help, group=group, often=often, when=_conditions(when))


def layer(*, label: str = "", help: str = "", group: Group = "shape", often: bool = True, when: When = ()) -> Any:
    """Another layer of the project, by its id; empty for none."""
    return Setting("layer", "", "", label, help, group=group, often=often, when=_conditions(when))


def _conditions(when: When) -> tuple[Condition, ...]:
    """One condition, several, or none, as a list of them."""
    return (when,) if len(when) == 2 and isinstance(when[0], str) else when


def parse_colour(value: Any, label: str) -> str:
    if not isinstance(value, str) or not _COLOUR.fullmatch(value):
        raise SettingError(f"{label} needs a colour like #e0ac55, not {_shown(value)}.")
    return value.lower()


def parse_stops(value: Any, label: str) -> tuple[Stop, ...]:
    if not isinstance(value, list) or not 1 <= len(value) <= MOST_STOPS:
        raise SettingError(f"{label} needs between 1 and {MOST_STOPS} colour stops.")
    out: list[Stop] = []
    for stop in value:
        place = stop.get("at") if isinstance(stop, dict) else None
        if isinstance(place, bool) or not isinstance(place, int | float) or not 0 <= place <= 1:
            raise SettingError(f"{label}: every stop needs a place from 0 to 1.")
        out.append((float(place), parse_colour(stop.get("colour"), label)))
    # Python's sort is stable: stops at one place keep their order, which makes the hard edge.
    return tuple(sorted(out, key=lambda stop: stop[0]))


def parse_points(value: Any, label: str) -> tuple[Point, ...]:
    """Points from their stored form. Raises SettingError when one is no number, or when times do not rise."""
    if not isinstance(value, list) or not 1 <= len(value) <= MOST_POINTS:
        raise SettingError(f"{label} needs between 1 and {MOST_POINTS} points.")
    out: list[Point] = []
    for number, point in enumerate(value, 1):
        given = point if isinstance(point, dict) else {}
        time, height, ease = given.get("time_s"), given.get("value"), given.get("ease", "linear")
        if not is_number(time) or not is_number(height) or not time >= 0 or abs(height) > 10:
            raise SettingError(f"{label}: point {number} needs a time from 0 s on and a value between -10 and 10.")
        if not isinstance(ease, str) or ease not in EASINGS:
            raise SettingError(f"{label}: point {number} eases as one of {', '.join(EASINGS)}.")
        if out and time <= out[-1][0]:
            raise SettingError(f"{label}: point {number} must lie after the one before it ({out[-1][0]:g} s).")
        out.append((float(time), float(height), ease))
    return tuple(out)


def _parse_signals(value: Any, label: str) -> tuple[str, ...]:
    if not isinstance(value, list) or not all(isinstance(item, str) for item in value) or len(value) > MOST_INPUTS:
        raise SettingError(f"{label} is a list of up to {MOST_INPUTS} signals.")
    return tuple(value)


def is_number(value: Any) -> TypeGuard[float]:
    """True for a finite number of JSON; true and false are none."""
    if isinstance(value, int):
        return not isinstance(value, bool) and abs(value) <= _LARGEST
    return isinstance(value, float) and math.isfinite(value)


def is_content_key(value: Any) -> TypeGuard[str]:
    """True for the SHA-256 of a file's content in lower-case hexadecimal: the only form in which files are named."""
    return isinstance(value, str) and _KEY.fullmatch(value) is not None


def _shown(value: Any) -> str:
    text = repr(value)
    return text if len(text) <= 40 else text[:37] + "..."
