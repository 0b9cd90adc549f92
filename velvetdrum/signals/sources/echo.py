"""Delay and echo: a signal later than it is, once or again and again."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, flag, number, signals, whole
from velvetdrum.declare.vocabulary import percent
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind


@signal_kind("echo", "Delay and echo")
class Echo(Signal):
    """Another signal, later by a time or by beats, with as many weaker echoes as wanted."""

    order: ClassVar[int] = 12
    summary: ClassVar[str] = "{repeats} after {delay} {unit}"

    of: tuple[str, ...] = signals(most=1, label="Signal", help="The signal that is delayed.")
    delay: float = number(
        0.25, lo=0, hi=60, step=0.01, label="Delay", help="From it to its echo, and from echo to echo."
    )
    unit: str = choice("s", {"s": "Seconds", "beats": "Beats"}, label="Unit", help="Unit of the delay.")
    repeats: int = whole(1, lo=1, hi=32, label="Echoes", help="How many follow; one is a plain delay.")
    feedback: float = percent(60, help="How strong each echo is, in per cent of the one before it.")
    dry: bool = flag(False, label="With the signal", help="Hears the signal itself, too; its echoes are then weaker.")
    join: str = choice(
        "largest",
        {"largest": "Largest", "sum": "Sum"},
        label="Joined as",
        help="What stands where echoes overlap.",
        advanced=True,
    )

    def inputs(self) -> tuple[str, ...]:
        return self.of

    def values(self, times: Times, context: SignalContext) -> Values:
        if not self.of:
            return np.zeros(len(times))
        result = np.zeros(len(times))
        gain = 1.0
        for count in range(0 if self.dry else 1, self.repeats + 1):
            at = self._earlier(times, count, context)
            # Nothing sounds before the start.
            part = np.where(at >= 0, context.other(self.of[0], np.maximum(at, 0.0)), 0.0) * gain
            result = np.maximum(result, part) if self.join == "largest" else result + part
            gain *= self.feedback / 100
        return result

    def _earlier(self, times: Times, count: int, context: SignalContext) -> Times:
        if self.unit == "s" or context.grid is None:
            return times - count * self.delay
        return context.grid.time_of(context.grid.beat_at(times) - count * self.delay)
