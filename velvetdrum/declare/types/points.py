"""Points of a curve over time, and lists of signals."""

from __future__ import annotations

from dataclasses import dataclass
from operator import lt
from typing import Any, ClassVar

from velvetdrum.declare.setting import PanelGroup, Setting, SettingError
from velvetdrum.declare.types.number import is_number

Point = tuple[float, float, str]
"""A point of a drawn curve: seconds, value, and the easing that leads to the next point."""

EASINGS = ("linear", "ease", "ease-in", "ease-out", "ease-in-out", "hold")
"""Easings of CSS Easing Functions, level 1; hold is its step at the end."""
MOST_POINTS = 50_000
MOST_INPUTS = 16


@dataclass(frozen=True)
class CurvePoints(Setting):
    """Points of a curve, in order of time."""

    type: ClassVar[str] = "points"
    is_curve: ClassVar[bool] = True

    def parse(self, value: Any) -> tuple[Point, ...]:
        return parse_points(value, self.label)

    def values_schema(self) -> dict[str, Any]:
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
        return {"type": "array", "minItems": 1, "maxItems": MOST_POINTS, "items": point}

    def describe_values(self) -> str:
        return f"1 to {MOST_POINTS} points, each `time_s`, `value` and `ease`"

    def describe_default(self) -> str:
        return ", ".join(f"{point['value']:g} at {point['time_s']:g} s" for point in self.default)


@dataclass(frozen=True)
class Signals(Setting):
    """A list of other signals, by their ids."""

    type: ClassVar[str] = "signals"
    names_signals: ClassVar[bool] = True

    def parse(self, value: Any) -> tuple[str, ...]:
        if not isinstance(value, list) or not all(isinstance(item, str) for item in value) or len(value) > self.hi:
            raise SettingError(f"{self.label} is a list of up to {self.hi:g} signals.")
        return tuple(value)

    def values_schema(self) -> dict[str, Any]:
        return {"type": "array", "maxItems": int(self.hi), "items": {"type": "string"}}

    def describe_values(self) -> str:
        return f"up to {self.hi:g} ids of signals" if self.hi > 1 else "the id of a signal, in a list"

    def describe_default(self) -> str:
        return "none"


def points(default: list[tuple[float, float]], *, label: str = "", help: str = "", group: PanelGroup = "shape") -> Any:
    """Points of a curve over time, in order of time."""
    listed = [{"time_s": time, "value": value, "ease": "linear"} for time, value in default]
    return CurvePoints(listed, "", label, help, group=group)


def signals(*, most: int = MOST_INPUTS, label: str = "", help: str = "", group: PanelGroup = "shape") -> Any:
    """A list of up to `most` other signals, by their ids."""
    return Signals([], "", label, help, group=group, hi=most)


def parse_points(value: Any, label: str) -> tuple[Point, ...]:
    """Points from their stored form. Raises SettingError when one is no number, or when times do not rise."""
    if not isinstance(value, list) or not 1 <= len(value) <= MOST_POINTS:
        raise SettingError(f"{label} needs between 1 and {MOST_POINTS} points.")
    return _well_formed(value) or _checked(value, label)


def _well_formed(value: list[Any]) -> tuple[Point, ...] | None:
    """The points where all of them are as they should be, which a long curve is asked at every edit of it."""
    try:
        times = [point["time_s"] for point in value]
        heights = [point["value"] for point in value]
        eases = [point.get("ease", "linear") for point in value]
    except (TypeError, KeyError, AttributeError):
        return None
    if not set(map(type, times)) | set(map(type, heights)) <= {int, float} or set(map(type, eases)) != {str}:
        return None
    rising = times[0] >= 0 and all(map(lt, times, times[1:])) and is_number(times[-1])
    # Comparisons of floats, which are false for what is no number.
    within = all(map((-10.0).__le__, heights)) and all(map((10.0).__ge__, heights))
    if not rising or not within or not set(eases) <= set(EASINGS):
        return None
    return tuple(zip(map(float, times), map(float, heights), eases, strict=True))


def _checked(value: list[Any], label: str) -> tuple[Point, ...]:
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
