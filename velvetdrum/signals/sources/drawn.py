"""The drawn curve: points with easing, set by hand or imported."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import Point, points
from velvetdrum.signals.easing import ease
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind


@signal_kind("drawn", "Drawn curve")
class Drawn(Signal):
    """Points over time, with the easing that leads from each to the next."""

    order: ClassVar[int] = 6
    summary: ClassVar[str] = "{curve#} points"

    curve: tuple[Point, ...] = points([(0.0, 0.0), (2.0, 1.0)], label="Points", help="Seconds, value and easing.")

    def values(self, times: Times, context: SignalContext) -> Values:
        at = np.array([point[0] for point in self.curve])
        heights = np.array([point[1] for point in self.curve])
        index = np.clip(np.searchsorted(at, times + 1e-9, side="right") - 1, 0, max(len(at) - 2, 0))
        following = np.minimum(index + 1, len(at) - 1)
        span = np.where(following > index, at[following] - at[index], 1.0)
        part = np.clip((times + 1e-9 - at[index]) / span, 0.0, 1.0)
        names = np.array([point[2] for point in self.curve])[index]
        for name in set(names.tolist()):
            chosen = names == name
            part[chosen] = ease(name, part[chosen])
        return heights[index] + (heights[following] - heights[index]) * part
