"""The mix: one signal made of others."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, signals
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind


@signal_kind("mix", "Mix")
class Mix(Signal):
    """Sum, product, largest, smallest or difference of other signals."""

    order: ClassVar[int] = 7
    summary: ClassVar[str] = "{how} of {of#}"

    of: tuple[str, ...] = signals(label="Signals", help="The signals that are mixed, in their order.")
    how: str = choice(
        "sum",
        {"sum": "Sum", "product": "Product", "largest": "Largest", "smallest": "Smallest", "difference": "Difference"},
        label="Operation",
        help="How the signals are combined; a difference subtracts the others from the first.",
    )
    beyond: str = choice(
        "held",
        {"held": "Held at 0 and 1", "free": "Left free"},
        label="Clipping",
        help="What happens to sums over 1 and differences under 0.",
        advanced=True,
    )

    def inputs(self) -> tuple[str, ...]:
        return self.of

    def values(self, times: Times, context: SignalContext) -> Values:
        if not self.of:
            return np.zeros(len(times))
        parts = np.stack([context.other(ident, times) for ident in self.of])
        match self.how:
            case "sum":
                out = parts.sum(axis=0)
            case "product":
                out = parts.prod(axis=0)
            case "largest":
                out = parts.max(axis=0)
            case "smallest":
                out = parts.min(axis=0)
            case _:
                out = parts[0] - parts[1:].sum(axis=0)
        return np.clip(out, 0.0, 1.0) if self.beyond == "held" else out
