"""Which time of a clip is shown, or heard, at a time of the project."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Timing:
    """A clip from `begin_s` of the project on: its part from `in_s` to `out_s` (seconds of the clip), at `speed`, and
    what comes after its end: `loop`, `hold` or `ping-pong`."""

    begin_s: float
    in_s: float
    out_s: float
    speed: float
    over: str

    def source(self, times: NDArray[np.float64]) -> NDArray[np.float64]:
        """Seconds of the clip at seconds of the project, shape (n,). Before the beginning it stands at its in point."""
        length = max(self.out_s - self.in_s, 1e-3)
        way = np.maximum(times - self.begin_s, 0.0) * self.speed
        match self.over:
            case "loop":
                way = np.mod(way, length)
            case "ping-pong":
                way = length - np.abs(np.mod(way, 2 * length) - length)
            case _:
                way = np.minimum(way, length)
        return self.in_s + way
