"""When a signal rises above a threshold, and for how long it stays there: what starts envelopes, steps and gates."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import number
from velvetdrum.signals.births import crossings
from velvetdrum.signals.kinds import SOLVED_RATE, SignalContext

Times = NDArray[np.float64]

_HYSTERESIS = 0.8
"""Share of the threshold under which a signal has to fall before it can hit again."""


@dataclass(frozen=True, eq=False)
class Gates:
    """Stretches of time for which a signal is up: when each begins and ends, in seconds, ascending, none over another.
    One that is up at the end of the project ends at infinity."""

    ons: Times
    offs: Times

    def before(self, times: Times) -> NDArray[np.int64]:
        """How many have begun at each of some times.

        Parameters
        ----------
        times
            Times in seconds.
        """
        return np.searchsorted(self.ons, times, "right")


def threshold(**more: Any) -> Any:
    """The setting for the value at which a signal hits, in per cent."""
    return number(
        50,
        lo=1,
        hi=99,
        unit="%",
        step=1,
        label="Threshold",
        help="A hit is a rise above it; it has to fall a fifth below before the next.",
        **more,
    )


def hits(context: SignalContext, ident: str, threshold_percent: float) -> Gates:
    """The hits of a signal, each as long as it stays up; made once for a project.

    Parameters
    ----------
    context
        The project.
    ident
        Id of a signal.
    threshold_percent
        The value at which it hits, in per cent.
    """
    high = threshold_percent / 100
    return context.once(
        ("hits", ident, threshold_percent), lambda: gates(context.sampled(ident), high, high * _HYSTERESIS)
    )


def gates(values: NDArray[np.float64], on: float, off: float, least_s: float = 0.0) -> Gates:
    """Up from where values rise above `on` until they fall under `off`; neither state is left before `least_s`.

    Where a threshold is crossed between two values is read from the straight line between them. What is above `on` at
    the first value is up from 0 s on.

    Parameters
    ----------
    values
        A signal, `SOLVED_RATE` values a second from 0 s on.
    on
        The upper threshold.
    off
        The lower one.
    least_s
        Least length of a state, in seconds.
    """
    rising, falling = crossings(values, on) / SOLVED_RATE, crossings(-values, -off) / SOLVED_RATE
    ons: list[float] = [0.0] if values[0] > on else []
    offs: list[float] = []
    now, end = 0.0, (len(values) - 1) / SOLVED_RATE
    while True:
        up = len(ons) > len(offs)
        edges, level, sign = (falling, off, -1.0) if up else (rising, on, 1.0)
        due = now + least_s if ons else now
        place = int(np.searchsorted(edges, due, "left"))
        if due > now and due <= end and sign * (_value_at(values, due) - level) > 0:
            # Beyond the threshold when its time is over.
            now = due
        elif place < len(edges):
            now = float(edges[place])
        else:
            break
        (offs if up else ons).append(now)
    if len(offs) < len(ons):
        offs.append(np.inf)
    return Gates(np.array(ons), np.array(offs))


def _value_at(values: NDArray[np.float64], time_s: float) -> float:
    low = int(time_s * SOLVED_RATE)
    high = min(low + 1, len(values) - 1)
    return float(values[low] + (values[high] - values[low]) * (time_s * SOLVED_RATE - low))
