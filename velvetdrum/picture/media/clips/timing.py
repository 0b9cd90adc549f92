"""Which time of a clip is shown, or heard, at a time of the project."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.signals.rates import RateIntegral


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
    speeds: RateIntegral | None = None
    """Where the speed changes: its integral over the project's time, in per cent."""
    cross_s: float = 0.0
    """For how long, in seconds of the clip, the end of a loop is shown over its beginning."""

    def source(self, times: NDArray[np.float64]) -> NDArray[np.float64]:
        """Seconds of the clip at seconds of the project, shape (n,). Before the beginning it stands at its in point."""
        length = self._turn_s
        way = self._way(times) + self.slip_s
        match self.over:
            case "loop":
                way = np.mod(way, length)
            case "ping-pong":
                way = length - np.abs(np.mod(way, 2 * length) - length)
            case _:
                way = np.clip(way, 0.0, length)
        return self.in_s + (self._length_s - way if self.backward else way)

    def crossing(self, time: float) -> tuple[float, float]:
        """What lies over it at a time, where a loop begins again: seconds of the clip, and how solid it is, 0 to 1."""
        turn = self._turn_s
        cross = self._length_s - turn
        way = float(self._way(np.array([time]))[0]) + self.slip_s
        within = way % turn
        # The first time round nothing was before it.
        if cross <= 0 or within >= cross or way < turn:
            return self.in_s, 0.0
        over = turn + within
        return self.in_s + (self._length_s - over if self.backward else over), 1 - within / cross

    @property
    def _length_s(self) -> float:
        return max(self.out_s - self.in_s, 1e-3)

    @property
    def _turn_s(self) -> float:
        """From one beginning to the next."""
        cross = min(self.cross_s, self._length_s / 2) if self.over == "loop" else 0.0
        return self._length_s - cross

    def _way(self, times: NDArray[np.float64]) -> NDArray[np.float64]:
        """How far it has run since it began, in seconds of the clip."""
        if self.speeds is None:
            return np.maximum(times - self.begin_s, 0.0) * self.speed
        run = self.speeds.at(np.maximum(times, self.begin_s)) - self.speeds.at(np.array([self.begin_s]))
        return np.asarray(run / 100)
