"""A layer's settings at a time: overrides of the frame's shape, then keyframes, then what signals make of them."""

from __future__ import annotations

from copy import copy
from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np

from velvetdrum.declare.declared import Declared
from velvetdrum.declare.settings import Setting, Stop
from velvetdrum.limits.keeping import kept
from velvetdrum.picture.raster.colour import Rgb, from_oklab, parse_hex, ramp, to_oklab
from velvetdrum.scene.document import PlacedLayer
from velvetdrum.scene.keyframes import Keyframe, stretch
from velvetdrum.scene.kinds import Layer
from velvetdrum.scene.parts import Parts, split
from velvetdrum.scene.patches import Patch
from velvetdrum.signals.easing import ease
from velvetdrum.signals.signal_set import SignalSet

_RAMP = 1024


class _Settling:
    """A layer and its parts while their settings are being changed; the originals stay as they are."""

    def __init__(self, placed: PlacedLayer) -> None:
        self.layer: Layer = copy(placed.layer)
        self._placed = placed
        self._own: dict[tuple[str, str], Declared] = {}

    def owner(self, place: str) -> tuple[Declared, str]:
        """What has the setting at an address, and the setting's name."""
        sort, ident, name = split(place)
        if not sort:
            return self.layer, name
        if (sort, ident) not in self._own:
            given = next(item.part for item in self._placed.parts[sort] if item.id == ident)
            self._own[sort, ident] = copy(given)
        return self._own[sort, ident], name

    @property
    def parts(self) -> Parts:
        """The parts as they are now."""
        if not self._own:
            return self._placed.parts
        return {
            sort: tuple(replace(item, part=self._own.get((sort, item.id), item.part)) for item in row)
            for sort, row in self._placed.parts.items()
        }

    def put(self, place: str, value: Any) -> None:
        owner, name = self.owner(place)
        setattr(owner, name, value)


def settled(placed: PlacedLayer, signals: SignalSet, time: Fraction, shape: str) -> tuple[Layer, Parts]:
    """The layer and its parts as they are at `time`, in seconds of the project, in a frame of a shape.

    First the overrides for the shape; then keyframes, but of overridden settings; then patches in their order, each on
    what the one before it made. Numbers stay within the range of their setting.
    """
    overrides = placed.overrides.get(shape, {})
    if not overrides and not placed.moves:
        return placed.layer, placed.parts
    work = _Settling(placed)
    for place, value in overrides.items():
        work.put(place, value)
    seconds = float(time)
    for place, frames in placed.keyframes.items():
        if place not in overrides:
            owner, name = work.owner(place)
            setattr(owner, name, keyed_value(owner.settings[name], frames, seconds))
    for patch in placed.patches:
        if patch.on:
            owner, name = work.owner(patch.setting)
            setting, base = owner.settings[name], getattr(owner, name)
            value = signals.value(patch.signal, seconds - patch.lag_ms / 1000.0)
            if patch.join == "poses":
                frames = () if patch.setting in overrides else placed.keyframes.get(patch.setting, ())
                setattr(owner, name, _posed(setting, frames, base, value))
            else:
                setattr(owner, name, _joined(setting, base, patch, value))
    return work.layer, work.parts


def keyed_value(setting: Setting, frames: tuple[Keyframe, ...], time_s: float) -> Any:
    """The value of a keyframed setting at a time: between keyframes as the easing of the earlier one says, colours and
    gradients even to the eye (Oklab); before the first and after the last one theirs."""
    before, after, part = stretch(frames, time_s)
    if part <= 0.0 or before is after:
        return before.value
    share = float(ease(before.ease, np.array([part]))[0])
    match setting.type:
        case "colour":
            mixed = _mix(parse_hex(before.value), parse_hex(after.value), min(max(share, 0.0), 1.0))
            return _hex(mixed)
        case "stops":
            return _mixed_stops(before.value, after.value, share)
        case _:
            return _within(setting, before.value + (after.value - before.value) * share)


def _posed(setting: Setting, frames: tuple[Keyframe, ...], base: Any, value: float) -> Any:
    """The value of a setting whose keyframes a signal runs through, from the first at 0 to the last at 1."""
    if not frames:
        return base
    part = min(max(value, 0.0), 1.0)
    return keyed_value(setting, frames, frames[0].time_s + part * (frames[-1].time_s - frames[0].time_s))


def _within(setting: Setting, value: float) -> float | int:
    value = min(max(value, setting.lo), setting.hi)
    return round(value) if setting.type == "whole" else value


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
            return _within(setting, {"replace": moved, "add": base + moved, "multiply": base * moved}[patch.join])


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
        (before, first), (after, second) = _laid_out(low), _laid_out(high)
        places = before + (after - before) * part
        return tuple(zip(places.tolist(), _hexes(from_oklab(first * (1 - part) + second * part)), strict=True))
    places = sorted({place for place, _ in low} | {place for place, _ in high})
    tables = ramp(low, _RAMP), ramp(high, _RAMP)
    found = [[table[round(place * (_RAMP - 1))] for table in tables] for place in places]
    return tuple((place, _hex(_mix(first, second, part))) for place, (first, second) in zip(places, found, strict=True))


@kept
def _laid_out(stops: tuple[Stop, ...]) -> tuple[np.ndarray, Rgb]:
    """Places and colours in Oklab of a gradient's stops."""
    return np.array([place for place, _ in stops]), to_oklab(np.array([parse_hex(colour) for _, colour in stops]))


def _hex(rgb: Rgb) -> str:
    return _hexes(rgb[None])[0]


def _hexes(rgb: Rgb) -> list[str]:
    """Colours, shape (n, 3), as #rrggbb."""
    words = np.rint(np.clip(rgb, 0, 1) * 255).astype(np.int64) @ (65536, 256, 1)
    return [f"#{word:06x}" for word in words.tolist()]
