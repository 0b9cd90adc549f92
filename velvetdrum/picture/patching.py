"""Patched settings at a time: what signals make of a layer's values."""

from __future__ import annotations

from copy import copy
from fractions import Fraction
from typing import Any

import numpy as np

from velvetdrum.kinds.settings import Setting, Stop
from velvetdrum.picture.colour import Rgb, from_oklab, parse_hex, ramp, to_oklab
from velvetdrum.scene.document import PlacedLayer
from velvetdrum.scene.kinds import Layer
from velvetdrum.scene.patches import Patch
from velvetdrum.signals.signal_set import SignalSet

_RAMP = 1024


def patched(placed: PlacedLayer, signals: SignalSet, time: Fraction) -> Layer:
    """The layer as its patches set it at `time`, in seconds of the project.

    Patches on one setting apply in their order, each to what the one before it made. Numbers stay within the
    range of their setting.
    """
    active = [patch for patch in placed.patches if patch.on]
    if not active:
        return placed.layer
    layer = copy(placed.layer)
    for patch in active:
        setting = layer.settings[patch.setting]
        value = signals.value(patch.signal, float(time) - patch.lag_ms / 1000.0)
        setattr(layer, patch.setting, _joined(setting, getattr(layer, patch.setting), patch, value))
    return layer


def _joined(setting: Setting, base: Any, patch: Patch, value: float) -> Any:
    match setting.type:
        case "colour":
            return _hex(_joined_colour(parse_hex(base), patch, value))
        case "stops":
            assert isinstance(patch.low, tuple) and isinstance(patch.high, tuple)
            return _mixed_stops(patch.low, patch.high, value)
        case _:
            assert isinstance(patch.low, float) and isinstance(patch.high, float)
            moved = patch.low + (patch.high - patch.low) * value
            result = {"replace": moved, "add": base + moved, "multiply": base * moved}[patch.join]
            result = min(max(result, setting.lo), setting.hi)
            return round(result) if setting.type == "whole" else result


def _joined_colour(base: Rgb, patch: Patch, value: float) -> Rgb:
    """Replace: even to the eye (Oklab). Add and multiply: channel by channel, as `plus-lighter` and `multiply` of
    W3C Compositing and Blending do with opaque colours."""
    part = min(max(value, 0.0), 1.0)
    if patch.along:
        moved = ramp(patch.along, _RAMP)[round(part * (_RAMP - 1))]
    else:
        assert isinstance(patch.low, str) and isinstance(patch.high, str)
        moved = _mix(parse_hex(patch.low), parse_hex(patch.high), part)
    if patch.join == "add":
        return np.clip(base + moved, 0.0, 1.0)
    return base * moved if patch.join == "multiply" else moved


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
        return tuple(
            (a + (b - a) * part, _hex(_mix(parse_hex(first), parse_hex(second), part)))
            for (a, first), (b, second) in zip(low, high, strict=True)
        )
    places = sorted({place for place, _ in low} | {place for place, _ in high})
    tables = ramp(low, _RAMP), ramp(high, _RAMP)
    found = [[table[round(place * (_RAMP - 1))] for table in tables] for place in places]
    return tuple((place, _hex(_mix(first, second, part))) for place, (first, second) in zip(places, found, strict=True))


def _hex(rgb: Rgb) -> str:
    red, green, blue = np.rint(np.clip(rgb, 0, 1) * 255).astype(int)
    return f"#{red:02x}{green:02x}{blue:02x}"
