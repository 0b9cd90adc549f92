"""The comparison: one signal against another."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, signals
from velvetdrum.declare.vocabulary import percent
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind


@signal_kind("comparison", "Comparison")
class Comparison(Signal):
    """Which of two signals is the higher one, by how much, or what share the first has of both."""

    order: ClassVar[int] = 13
    summary: ClassVar[str] = "{how}"

    of: tuple[str, ...] = signals(most=2, label="Signals", help="The first is held against the second.")
    how: str = choice(
        "above",
        {"above": "First above second", "difference": "Difference", "share": "Share of the first"},
        label="Operation",
        help="A difference of nothing is 0.5; a share is the first by the sum of both.",
    )
    softness: float = percent(
        10, help="Difference over which it goes from 0 to 1; 0 switches at once.", when=("how", ("above",))
    )

    def inputs(self) -> tuple[str, ...]:
        return self.of

    def values(self, times: Times, context: SignalContext) -> Values:
        if len(self.of) < 2:
            return np.zeros(len(times))
        first, second = (context.other(ident, times) for ident in self.of)
        match self.how:
            case "above":
                way = np.clip((first - second) / max(self.softness / 100, 1e-9) + 0.5, 0.0, 1.0)
                return (3.0 - 2.0 * way) * way**2
            case "difference":
                return np.clip(0.5 + (first - second) / 2, 0.0, 1.0)
            case _:
                total = first + second
                return np.where(total > 1e-9, first / np.maximum(total, 1e-9), 0.5)
