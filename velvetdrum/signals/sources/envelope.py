"""The envelope: attack, hold, decay, sustain and release after each hit of a signal."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number, signals
from velvetdrum.declare.vocabulary import percent
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.triggers import Gates, hits, threshold


def _stage(default: float, label: str, help: str, most: float = 10_000) -> float:
    return number(default, lo=0, hi=most, unit="ms", step=1, label=label, group="motion", help=help)


@signal_kind("envelope", "Envelope")
class Envelope(Signal):
    """Rises at each hit of another signal, holds, falls to its sustain, and goes out when the hit is over."""

    order: ClassVar[int] = 10
    summary: ClassVar[str] = "attack {attack_ms}, decay {decay_ms}"

    of: tuple[str, ...] = signals(most=1, label="Signal", help="The signal whose hits start it.")
    threshold: float = threshold()
    attack_ms: float = _stage(20, "Attack", "Time of the rise to 1.")
    hold_ms: float = _stage(0, "Hold", "Time at 1 before it decays.")
    decay_ms: float = _stage(300, "Decay", "Time of the fall from 1 to the sustain.")
    sustain: float = percent(0, help="Level that stands as long as the signal stays above its threshold.")
    release_ms: float = _stage(300, "Release", "Time of the fall to 0 after the hit is over.")
    bend: float = number(
        50,
        lo=-100,
        hi=100,
        unit="%",
        step=1,
        label="Curve",
        group="motion",
        help="Above 0 each stage sets out fast and arrives softly; below 0 the other way round; 0 is straight.",
    )

    def inputs(self) -> tuple[str, ...]:
        return self.of

    def values(self, times: Times, context: SignalContext) -> Values:
        if not self.of:
            return np.zeros(len(times))
        gates = hits(context, self.of[0], self.threshold)
        if not len(gates.ons):
            return np.zeros(len(times))
        starts = context.once((id(self), "starts"), lambda: self._starts(gates))
        index = gates.before(times) - 1
        held = np.maximum(index, 0)
        values = self._level(times - gates.ons[held], (gates.offs - gates.ons)[held], starts[held])
        return np.where(index >= 0, values, 0.0)

    def _starts(self, gates: Gates) -> Values:
        """The level from which each hit rises: where the one before it has come to by then."""
        starts = np.zeros(len(gates.ons))
        for place in range(1, len(starts)):
            before = slice(place - 1, place)
            since = gates.ons[place : place + 1] - gates.ons[before]
            starts[place] = self._level(since, (gates.offs - gates.ons)[before], starts[before])[0]
        return starts

    def _level(self, since_s: Times, length_s: Times, start: Values) -> Values:
        """The level so many seconds after hits that stay up so long, each of which rose from a level."""
        attack, hold, decay, release = (
            max(value, 1e-3) / 1000 for value in (self.attack_ms, self.hold_ms, self.decay_ms, self.release_ms)
        )
        sustain = self.sustain / 100
        peak = attack + hold
        # A hit that is over sooner still reaches its top.
        over = np.maximum(length_s, peak)
        rise = start + (1.0 - start) * self._bent(since_s / attack)
        fallen = 1.0 - (1.0 - sustain) * self._bent((np.minimum(since_s, over) - peak) / decay)
        level = np.where(since_s < attack, rise, fallen)
        out = 1.0 - self._bent(
            np.where(np.isfinite(over), since_s - np.where(np.isfinite(over), over, 0.0), 0.0) / release
        )
        return level * np.where(since_s > over, out, 1.0)

    def _bent(self, way: Values) -> Values:
        """A way from 0 to 1 along the curve of a stage: (1 - e^(-k x)) / (1 - e^(-k)), straight at k = 0."""
        way = np.clip(way, 0.0, 1.0)
        steep = self.bend / 100.0 * 5.0
        if abs(steep) < 1e-6:
            return way
        return np.asarray(np.expm1(-steep * way) / np.expm1(-steep))
