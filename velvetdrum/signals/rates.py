"""What a rate that changes has come to: its integral over time, solved ahead as a curve."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.signals.births import STEP_S

Values = NDArray[np.float64]

_JUST_BEFORE_S = 1e-9


@dataclass(frozen=True, eq=False)
class RateIntegral:
    """A rate at rising times, straight between two of them, and its integral from the first one on.

    The integral of a straight line is exact: that of trapezia, and within one of a parabola. Before the first time and
    after the last one the rate is as there.
    """

    times: Values
    rates: Values
    sums: Values

    @classmethod
    def of(
        cls,
        rate: Callable[[Values], Values],
        end_s: float,
        corners: Iterable[float] = (),
        clock: Callable[[Values], Values] | None = None,
    ) -> RateIntegral:
        """From a rate over time.

        Parameters
        ----------
        rate
            The rate a second at times, shape (n,).
        end_s
            The end of the stretch that is looked at, in seconds; it begins at 0.
        corners
            Times at which the rate bends or jumps: it is read there and just before.
        clock
            What goes on in place of seconds, rising with them: bars, say. All times of the result are of this clock.
        """
        even = np.arange(0.0, max(end_s, 0.0) + 2 * STEP_S, STEP_S)
        own = np.array([time for corner in corners for time in (corner - _JUST_BEFORE_S, corner)])
        times = np.unique(np.concatenate([even, own[own > 0]]))
        rates = np.asarray(rate(times), np.float64)
        if clock is not None:
            times, kept = np.unique(clock(times), return_index=True)
            rates = rates[kept]
        steps = (rates[1:] + rates[:-1]) / 2 * np.diff(times)
        return cls(times, rates, np.concatenate([[0.0], np.cumsum(steps)]))

    def at(self, times: Values) -> Values:
        """The integral from 0 to each of some times, shape (n,).

        Parameters
        ----------
        times
            Times in seconds.
        """
        within = np.clip(times, self.times[0], self.times[-1])
        index = np.clip(np.searchsorted(self.times, within, "right") - 1, 0, len(self.times) - 2)
        span = self.times[index + 1] - self.times[index]
        way = within - self.times[index]
        bend = (self.rates[index + 1] - self.rates[index]) / span
        inside = self.sums[index] + way * self.rates[index] + bend * way**2 / 2
        before, after = np.minimum(times - self.times[0], 0.0), np.maximum(times - self.times[-1], 0.0)
        return np.asarray(inside + before * self.rates[0] + after * self.rates[-1])

    def between(self, from_s: float, to_s: float) -> float:
        """The integral over a stretch.

        Parameters
        ----------
        from_s
            Its begin in seconds.
        to_s
            Its end in seconds.
        """
        low, high = self.at(np.array([from_s, to_s]))
        return float(high - low)
