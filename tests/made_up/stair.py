"""A signal kind: up one step each second."""

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import whole
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind


@signal_kind("stair", "Stair")
class Stair(Signal):
    """A step up each second, and from the top to the floor."""

    summary: ClassVar[str] = "{steps} steps"

    steps: int = whole(4, lo=1, hi=20, help="How many there are.")

    def values(self, times: Times, around: SignalContext) -> Values:
        return np.mod(np.floor(times), self.steps + 1) / self.steps
