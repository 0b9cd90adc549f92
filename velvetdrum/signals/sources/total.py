"""The running total: how much of a signal there has been."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, number, signals, whole
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.rates import RateIntegral
from velvetdrum.signals.triggers import hits, threshold

_JUST_AFTER_S = 1e-6


@signal_kind("total", "Running total")
class RunningTotal(Signal):
    """Goes on by as much as has sounded: the integral of another signal, for angles and places that never go back."""

    order: ClassVar[int] = 8
    summary: ClassVar[str] = "full after {full_s}"

    of: tuple[str, ...] = signals(
        most=2, label="Signals", help="The first is summed; where a second one hits, the sum begins anew, if asked for."
    )
    full_s: float = number(
        8,
        lo=0.01,
        hi=10_000,
        unit="s",
        step=0.01,
        label="Full after",
        curve="log",
        help="Time in which a signal that stays at 1 leads from 0 to 1.",
    )
    at_full: str = choice(
        "round",
        {"round": "Begins again at 0", "held": "Stays at 1", "free": "Goes on"},
        label="At 1",
        help="What follows when the total is full; a turn of 360 degrees that begins again never jumps.",
    )
    reset: str = choice(
        "never",
        {"never": "Never", "bars": "Bars", "markers": "Markers", "hits": "Hits of the second signal"},
        label="Begins anew",
        help="When the total goes back to 0 by itself.",
    )
    every: int = whole(
        1,
        lo=1,
        hi=64,
        unit="bars",
        label="Every",
        help="Bars from one beginning to the next.",
        when=("reset", ("bars",)),
    )
    threshold: float = threshold(when=("reset", ("hits",)))

    def inputs(self) -> tuple[str, ...]:
        return self.of

    def values(self, times: Times, context: SignalContext) -> Values:
        if not self.of:
            return np.zeros(len(times))
        total = self._integral(context)
        sums = total.at(times) - total.at(self._begun(times, context))
        turns = np.maximum(sums, 0.0) / self.full_s
        match self.at_full:
            case "round":
                return turns - np.floor(turns)
            case "held":
                return np.minimum(turns, 1.0)
            case _:
                return turns

    def _integral(self, context: SignalContext) -> RateIntegral:
        ident = self.of[0]
        return context.once(
            ("integral", ident),
            lambda: RateIntegral.of(lambda times: np.maximum(context.other(ident, times), 0.0), context.length_s),
        )

    def _begun(self, times: Times, context: SignalContext) -> Times:
        """When the total began that holds at each of some times; 0 where that was the start."""
        if self.reset == "bars" and context.grid is not None:
            number = np.floor(context.grid.bar_at(times + _JUST_AFTER_S) / self.every)
            return np.maximum(context.grid.time_of_bar(number * self.every), 0.0)
        marks = np.zeros(0)
        if self.reset == "markers":
            marks = np.array(context.markers)
        elif self.reset == "hits" and len(self.of) > 1:
            marks = hits(context, self.of[1], self.threshold).ons
        begins = np.concatenate([[0.0], marks[marks > 0]])
        return begins[np.maximum(np.searchsorted(begins, times + _JUST_AFTER_S, "right") - 1, 0)]
