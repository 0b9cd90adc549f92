"""The gate: 1 while a signal is above a threshold."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from velvetdrum.declare.settings import flag, number, signals
from velvetdrum.declare.vocabulary import percent
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.triggers import Gates, gates


@signal_kind("gate", "When above")
class Gate(Signal):
    """Stands at 1 while another signal is above a threshold, at 0 else; it does not flutter at the threshold."""

    order: ClassVar[int] = 11
    summary: ClassVar[str] = "above {on}"

    of: tuple[str, ...] = signals(most=1, label="Signal", help="The signal that is judged.")
    on: float = percent(50, help="It opens when the signal rises above this.")
    off: float = percent(40, help="It closes when the signal falls below this; the gap is its hysteresis.")
    least_ms: float = number(
        100,
        lo=0,
        hi=60_000,
        unit="ms",
        step=1,
        label="Least time",
        help="It stays open, and closed, for so long at least.",
    )
    rise_ms: float = number(0, lo=0, hi=10_000, unit="ms", step=1, label="Fade in", group="motion", help="Way to 1.")
    fall_ms: float = number(0, lo=0, hi=10_000, unit="ms", step=1, label="Fade out", group="motion", help="Way to 0.")
    invert: bool = flag(False, group="motion", help="Swaps 0 and 1.", advanced=True)

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        if values["off"] > values["on"]:
            return [("off", "Off must not lie above On: lower it, or raise the other.")]
        return []

    def inputs(self) -> tuple[str, ...]:
        return self.of

    def values(self, times: Times, context: SignalContext) -> Values:
        if not self.of:
            return np.zeros(len(times))
        edges, levels = context.once((id(self), "edges"), lambda: self._edges(context))
        index = np.maximum(np.searchsorted(edges, times, "right") - 1, 0)
        # Edges follow each other up, down, up: the first, before all time, is down.
        values = self._slewed(levels[index], times - edges[index], index % 2 == 1)
        return 1.0 - values if self.invert else values

    def _edges(self, context: SignalContext) -> tuple[Times, Values]:
        """When it turns, and its level at each turn: a fade that is cut short goes back from where it is."""
        found: Gates = gates(context.sampled(self.of[0]), self.on / 100, self.off / 100, self.least_ms / 1000)
        edges = np.concatenate([[-1e9], np.stack([found.ons, found.offs], axis=1).reshape(-1)])
        edges = edges[np.isfinite(edges)]
        levels = np.zeros(len(edges))
        for place in range(1, len(edges)):
            since = edges[place : place + 1] - edges[place - 1]
            levels[place] = self._slewed(levels[place - 1 : place], since, np.array([place % 2 == 0]))[0]
        return edges, levels

    def _slewed(self, level: Values, since_s: Times, up: Any) -> Values:
        """From a level towards 1 where it is up, towards 0 else, at the speed of its fades."""
        rise = since_s * 1000.0 / max(self.rise_ms, 1e-6)
        fall = since_s * 1000.0 / max(self.fall_ms, 1e-6)
        return np.where(up, np.minimum(level + rise, 1.0), np.maximum(level - fall, 0.0))
