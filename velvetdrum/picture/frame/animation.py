"""A layer's settings at a time: overrides of the frame's shape, then keyframes, then what signals make of them."""

from __future__ import annotations

from copy import copy
from fractions import Fraction
from typing import Any

import numpy as np

from velvetdrum.declare.schema import Declared
from velvetdrum.declare.settings import Setting
from velvetdrum.limits.records import changed
from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.scene.keyframes import Keyframe, stretch
from velvetdrum.scene.kinds import Layer
from velvetdrum.scene.parts import Parts, split
from velvetdrum.scene.placed_layers import PlacedLayer
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
            sort: tuple(changed(item, part=self._own.get((sort, item.id), item.part)) for item in row)
            for sort, row in self._placed.parts.items()
        }

    def put(self, place: str, value: Any) -> None:
        owner, name = self.owner(place)
        setattr(owner, name, value)


def resolve_layer(placed: PlacedLayer, signals: SignalSet, time: Fraction, shape: str) -> tuple[Layer, Parts]:
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
                ends = (patch.low, patch.high)
                setattr(owner, name, setting.joined(base, ends, patch.along, patch.join, value))
    return work.layer, work.parts


def settle_rates(placed: PlacedLayer, layer: Layer, parts: Parts, curves: SettingCurves, end_s: float) -> None:
    """Give a layer and parts, as `resolve_layer` made them anew, the integrals of their rates that change over time, in
    a project that is `end_s` seconds long; without parts, the layer's own alone."""
    for place in placed.moving:
        sort, ident, name = split(place)
        owner: Declared = layer
        if sort:
            if sort not in parts:
                continue
            owner = next(item.part for item in parts[sort] if item.id == ident)
        setting = owner.settings.get(name)
        if setting is not None and setting.per_time:
            owner.integrals = {**owner.integrals, name: curves.integral(place, end_s)}


def keyed_value(setting: Setting, frames: tuple[Keyframe, ...], time_s: float) -> Any:
    """The value of a keyframed setting at a time: between keyframes as the easing of the earlier one says, colours and
    gradients even to the eye (Oklab); before the first and after the last one theirs."""
    before, after, part = stretch(frames, time_s)
    if part <= 0.0 or before is after:
        return before.value
    share = float(ease(before.ease, np.array([part]))[0])
    return setting.mixed(before.value, after.value, share)


def _posed(setting: Setting, frames: tuple[Keyframe, ...], base: Any, value: float) -> Any:
    """The value of a setting whose keyframes a signal runs through, from the first at 0 to the last at 1."""
    if not frames:
        return base
    part = min(max(value, 0.0), 1.0)
    return keyed_value(setting, frames, frames[0].time_s + part * (frames[-1].time_s - frames[0].time_s))
