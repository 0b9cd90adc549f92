"""Colours and gradients: sRGB, mixed evenly to the eye."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import Rgb, from_oklab, opacity_ramp, parse_hex, parse_opacity, ramp, to_oklab
from velvetdrum.declare.setting import Setting, SettingError, When, conditions, shown
from velvetdrum.limits.cache import cached

Stop = tuple[float, str]
"""A gradient stop: place from 0 to 1, and a colour, #rrggbb or #rrggbbaa."""

MOST_STOPS = 256
_RAMP = 1024
_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")
_PATTERN = "^#[0-9a-fA-F]{6}$"
_CLEAR = re.compile(r"#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?")
_CLEAR_PATTERN = "^#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?$"


@dataclass(frozen=True)
class Colour(Setting):
    """A colour as #rrggbb."""

    type: ClassVar[str] = "colour"
    moves: ClassVar[bool] = True

    def parse(self, value: Any) -> str:
        return parse_colour(value, self.label)

    def values_schema(self) -> dict[str, Any]:
        return {"type": "string", "pattern": _PATTERN}

    def describe_values(self) -> str:
        return "a colour, `#rrggbb`"

    def mixed(self, before: Any, after: Any, share: float) -> str:
        return _hex(_mix(parse_hex(before), parse_hex(after), min(max(share, 0.0), 1.0)))

    def parse_end(self, value: Any, join: str, label: str) -> str:
        return parse_colour(value, label)

    def parse_along(self, value: Any, label: str) -> tuple[Stop, ...]:
        return parse_stops(value, label)

    def joined(self, base: Any, ends: tuple[Any, Any], along: Any, join: str, value: float) -> str:
        """Replace: even to the eye (Oklab). Add and multiply: channel by channel, as `plus-lighter` and `multiply` of
        W3C Compositing and Blending do with opaque colours."""
        part = min(max(value, 0.0), 1.0)
        if along:
            moved = ramp(along, _RAMP)[round(part * (_RAMP - 1))]
        else:
            moved = _mix(parse_hex(ends[0]), parse_hex(ends[1]), part)
        below = parse_hex(base)
        if join == "add":
            return _hex(np.clip(below + moved, 0.0, 1.0))
        return _hex(below * moved if join == "multiply" else moved)


@dataclass(frozen=True)
class Stops(Setting):
    """A gradient: places from 0 to 1 with colours, in order of place. Two stops at one place make a hard edge. Where it
    is `clear`, a stop's colour may be #rrggbbaa."""

    type: ClassVar[str] = "stops"
    moves: ClassVar[bool] = True

    def parse(self, value: Any) -> tuple[Stop, ...]:
        return parse_stops(value, self.label, clear=self.clear)

    def values_schema(self) -> dict[str, Any]:
        stop = {
            "type": "object",
            "required": ["at", "colour"],
            "additionalProperties": False,
            "properties": {
                "at": {"type": "number", "minimum": 0, "maximum": 1},
                "colour": {"type": "string", "pattern": _CLEAR_PATTERN if self.clear else _PATTERN},
            },
        }
        return {"type": "array", "minItems": 1, "maxItems": MOST_STOPS, "items": stop}

    def describe_values(self) -> str:
        clear = ", `#rrggbb` or with its opacity `#rrggbbaa`" if self.clear else ""
        return f"1 to {MOST_STOPS} stops, each a place from 0 to 1 and a colour{clear}"

    def describe_default(self) -> str:
        return ", ".join(f"{stop['colour']} at {stop['at']:g}" for stop in self.default)

    def mixed(self, before: Any, after: Any, share: float) -> tuple[Stop, ...]:
        return _mixed_stops(before, after, share)

    def parse_end(self, value: Any, join: str, label: str) -> tuple[Stop, ...]:
        return parse_stops(value, label, clear=self.clear)

    def joined(self, base: Any, ends: tuple[Any, Any], along: Any, join: str, value: float) -> tuple[Stop, ...]:
        return _mixed_stops(ends[0], ends[1], value)


def colour(default: str, *, label: str = "", help: str = "", advanced: bool = False, when: When = ()) -> Any:
    """A colour as #rrggbb (sRGB)."""
    return Colour(default, "", label, help, group="colour", advanced=advanced, when=conditions(when))


def stops(
    default: list[Stop],
    *,
    label: str = "",
    help: str = "",
    advanced: bool = False,
    clear: bool = False,
    when: When = (),
) -> Any:
    """A gradient of stops; `clear` where each may have an opacity."""
    listed = [{"at": at, "colour": value} for at, value in default]
    return Stops(listed, "", label, help, group="colour", advanced=advanced, clear=clear, when=conditions(when))


def parse_colour(value: Any, label: str, *, clear: bool = False) -> str:
    """A colour from its stored form, in small letters; with its opacity only where it is below 1. Raises
    SettingError."""
    if not isinstance(value, str) or not (_CLEAR if clear else _COLOUR).fullmatch(value):
        raise SettingError(f"{label} needs a colour like #e0ac55, not {shown(value)}.")
    return value.lower().removesuffix("ff") if len(value) == 9 else value.lower()


def parse_stops(value: Any, label: str, *, clear: bool = False) -> tuple[Stop, ...]:
    """Stops from their stored form. Raises SettingError."""
    if not isinstance(value, list) or not 1 <= len(value) <= MOST_STOPS:
        raise SettingError(f"{label} needs between 1 and {MOST_STOPS} colour stops.")
    out: list[Stop] = []
    for stop in value:
        place = stop.get("at") if isinstance(stop, dict) else None
        if isinstance(place, bool) or not isinstance(place, int | float) or not 0 <= place <= 1:
            raise SettingError(f"{label}: every stop needs a place from 0 to 1.")
        out.append((float(place), parse_colour(stop.get("colour"), label, clear=clear)))
    # Python's sort is stable: stops at one place keep their order, which makes the hard edge.
    return tuple(sorted(out, key=lambda stop: stop[0]))


def _mix(first: Rgb, second: Rgb, part: float) -> Rgb:
    if part in (0.0, 1.0):
        return second if part else first
    return from_oklab(to_oklab(first) * (1 - part) + to_oklab(second) * part)


def _mixed_stops(low: tuple[Stop, ...], high: tuple[Stop, ...], value: float) -> tuple[Stop, ...]:
    """A gradient between two: stop by stop when they have equally many, else at the places of both."""
    part = min(max(value, 0.0), 1.0)
    if part in (0.0, 1.0):
        return high if part else low
    if len(low) == len(high):
        (before, first), (after, second) = _laid_out(low), _laid_out(high)
        places = before + (after - before) * part
        colours = _hexes(from_oklab(first * (1 - part) + second * part))
        opacities = [
            parse_opacity(one) * (1 - part) + parse_opacity(other) * part
            for (_, one), (_, other) in zip(low, high, strict=True)
        ]
        return tuple(zip(places.tolist(), map(_with_opacity, colours, opacities), strict=True))
    places_ = sorted({place for place, _ in low} | {place for place, _ in high})
    tables = ramp(low, _RAMP), ramp(high, _RAMP)
    result = [[table[round(place * (_RAMP - 1))] for table in tables] for place in places_]
    solid_tables = [opacity_ramp(stops, _RAMP) for stops in (low, high)]
    ends = [np.ones(_RAMP) if table is None else table for table in solid_tables]
    solid = (ends[0] * (1 - part) + ends[1] * part)[[round(place * (_RAMP - 1)) for place in places_]]
    return tuple(
        (place, _with_opacity(_hex(_mix(one, two, part)), share))
        for place, (one, two), share in zip(places_, result, solid.tolist(), strict=True)
    )


@cached
def _laid_out(stops: tuple[Stop, ...]) -> tuple[NDArray[np.float64], Rgb]:
    """Places and colours in Oklab of a gradient's stops."""
    return np.array([place for place, _ in stops]), to_oklab(np.array([parse_hex(value) for _, value in stops]))


def _with_opacity(colour: str, opacity: float) -> str:
    """A colour as #rrggbbaa, #rrggbb where it is solid."""
    byte = round(opacity * 255)
    return colour if byte == 255 else f"{colour}{byte:02x}"


def _hex(rgb: Rgb) -> str:
    return _hexes(rgb[None])[0]


def _hexes(rgb: Rgb) -> list[str]:
    """Colours, shape (n, 3), as #rrggbb."""
    words = np.rint(np.clip(rgb, 0, 1) * 255).astype(np.int64) @ (65536, 256, 1)
    return [f"#{word:06x}" for word in words.tolist()]
