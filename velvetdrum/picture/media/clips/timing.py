"""Which time of a clip is shown, or heard, at a time of the project."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Timing:
    """A clip from `begin_s` of the project on: its part from `in_s` to `out_s` (seconds of the clip), at `speed`, and
    what comes after its end: `loop`, `hold` or `ping-pong`. It is shifted by `slip_s` within its part, and runs from
    its out point to its in point where it is `backward`."""

    begin_s: float
    in_s: float
    out_s: float
    speed: float
    over: str
    slip_s: float = 0.0
    backward: bool = False

    def source(self, times: NDArray[np.float64]) -> NDArray[np.float64]:
        """Seconds of the clip at seconds of the project, shape (n,). Before the beginning it stands at its in point."""
        length = max(self.out_s - self.in_s, 1e-3)
        way = np.maximum(times - self.begin_s, 0.0) * self.speed + self.slip_s
        match self.over:
            case "loop":
                way = np.mod(way, length)
            case "ping-pong":
                way = length - np.abs(np.mod(way, 2 * length) - length)
            case _:
                way = np.clip(way, 0.0, length)
        return self.in_s + (length - way if self.backward else way)
