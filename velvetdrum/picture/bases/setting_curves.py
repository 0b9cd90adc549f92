"""The settings of one layer over time: what a layer needs that looks at more moments than the one that is drawn."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.schema import Declared
from velvetdrum.declare.types.number import Number
from velvetdrum.scene.keyframes import Keyframe
from velvetdrum.scene.parts import split
from velvetdrum.scene.placed_layers import PlacedLayer
from velvetdrum.signals.easing import ease
from velvetdrum.signals.rates import RateIntegral
from velvetdrum.signals.signal_set import SignalSet

Values = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class SettingCurves:
    """A layer as it stands in the document, its project's signals, and the shape of the frame that it is drawn in."""

    placed: PlacedLayer
    signals: SignalSet
    shape: str
    solved: dict[Hashable, Any] = field(default_factory=dict)
    """What was worked out over the whole of its time, for as long as the project is looked at."""

    def moves(self, name: str) -> bool:
        """True when a setting of the layer itself changes over time."""
        return name in self.placed.moving

    def kept(self, key: Hashable, make: Callable[[], Any]) -> Any:
        """What is under a key, made when it is not there."""
        result = self.solved.get((self.placed.id, self.shape, key))
        if result is None:
            result = self.solved[self.placed.id, self.shape, key] = make()
        return result

    def integral(
        self, name: str, end_s: float, clock: Callable[[Values], Values] | None = None, clock_name: str = ""
    ) -> RateIntegral:
        """The integral of a rate of the layer, or of one of its parts, by its address; `end_s` is how long the project
        is, in seconds. A rate per something else than a second goes by a clock of its own, kept under its name."""

        def make() -> RateIntegral:
            frames = self.placed.keyframes.get(name, ())
            corners = (frame.time_s for frame in frames)
            return RateIntegral.of(lambda times: self.values(name, times), end_s, corners, clock)

        result: RateIntegral = self.kept(("integral", name, clock_name), make)
        return result

    def values(self, name: str, times: Values) -> Values:
        """A number of the layer, or of one of its parts, by its address, at times in seconds of the project: overrides,
        keyframes, then patches, as for one time (`animation.resolve_layer`)."""
        sort, ident, own = split(name)
        owner: Declared = self.placed.layer
        if sort:
            owner = next(item.part for item in self.placed.parts[sort] if item.id == ident)
        setting = owner.settings[own]
        assert isinstance(setting, Number)
        overrides = self.placed.overrides.get(self.shape, {})
        base = np.full(len(times), float(overrides.get(name, getattr(owner, own))))
        frames = self.placed.keyframes.get(name, ())
        if name in overrides:
            frames = ()
        if frames:
            base = setting.all_within(_keyed(frames, times))
        for patch in self.placed.patches:
            if not patch.on or patch.setting != name:
                continue
            level = self.signals.values(patch.signal, times - patch.lag_ms / 1000.0)
            if patch.join != "poses":
                low, high = float(patch.low), float(patch.high)  # type: ignore[arg-type]
                moved = low + (high - low) * level
                base = {"replace": moved, "add": base + moved, "multiply": base * moved}[patch.join]
                base = setting.all_within(base)
            elif frames:
                # A signal runs through the keyframes, from the first at 0 to the last at 1.
                first, last = frames[0].time_s, frames[-1].time_s
                base = setting.all_within(_keyed(frames, first + np.clip(level, 0.0, 1.0) * (last - first)))
        return base


def _keyed(frames: tuple[Keyframe, ...], times: Values) -> Values:
    """Keyframed numbers at times: between two of them as the easing of the earlier one says."""
    places = np.array([frame.time_s for frame in frames])
    values = np.array([float(frame.value) for frame in frames])
    before = np.clip(np.searchsorted(places, times, "right") - 1, 0, len(frames) - 1)
    after = np.minimum(before + 1, len(frames) - 1)
    span = np.maximum(places[after] - places[before], 1e-12)
    part = np.clip((times - places[before]) / span, 0.0, 1.0)
    share = np.zeros(len(times))
    for number in np.unique(before):
        here = before == number
        share[here] = ease(frames[number].ease, part[here])
    return np.asarray(values[before] + (values[after] - values[before]) * np.where(before == after, 0.0, share))
