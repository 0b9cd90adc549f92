"""When things come: births from the integral of a rate, and bursts on beats and hits, solved ahead as curves.

A birth lies where the integral of the rate reaches a whole number. That needs no memory: the births of any stretch of
time are found from the integral alone, at a cost that goes with how many they are.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Times = NDArray[np.float64]
Numbers = NDArray[np.int64]

STEP_S = 1 / 120
"""Grid of the integral, in seconds."""


@dataclass(frozen=True, eq=False)
class Emission:
    """Births by a rate: the integral of the rate at the points of a grid from `begin_s` on, `STEP_S` apart."""

    begin_s: float
    counts: NDArray[np.float64]

    @classmethod
    def of(cls, begin_s: float, rates: NDArray[np.float64]) -> Emission:
        """From rates per second at the points of the grid; straight lines between them, so that the integral is that of
        trapezia.

        Parameters
        ----------
        begin_s
            Where the grid begins, in seconds.
        rates
            Births a second at the points of the grid.
        """
        steps = (rates[1:] + rates[:-1]) * (STEP_S / 2)
        return cls(begin_s, np.concatenate([[0.0], np.cumsum(steps)]))

    def between(self, low_s: float, high_s: float, most: int) -> tuple[Numbers, Times, int]:
        """Births after `low_s` up to `high_s`, the latest `most` of them: their numbers, from 1 on, and their times;
        and how many there are in all.

        Parameters
        ----------
        low_s
            After this second.
        high_s
            Up to this second.
        most
            No more than so many.
        """
        first = int(np.floor(self.count_at(low_s) + 1e-9)) + 1
        last = int(np.floor(self.count_at(high_s) + 1e-9))
        total = max(last - first + 1, 0)
        if not total:
            return np.zeros(0, np.int64), np.zeros(0), 0
        first = max(first, last - most + 1)
        numbers = np.arange(first, last + 1)
        # Only the part of the grid in which they lie is looked at.
        low = max(int(np.searchsorted(self.counts, first, "left")) - 1, 0)
        high = min(int(np.searchsorted(self.counts, last, "left")) + 1, len(self.counts))
        places = np.interp(numbers, self.counts[low:high], np.arange(low, high, dtype=float))
        return numbers, self.begin_s + places * STEP_S, total

    def count_at(self, time_s: float) -> float:
        """The integral at a time; before the grid's start 0, after its end as there.

        Parameters
        ----------
        time_s
            A time in seconds.
        """
        place = (time_s - self.begin_s) / STEP_S
        if place <= 0 or len(self.counts) < 2:
            return 0.0
        i = min(int(place), len(self.counts) - 2)
        share = min(place - i, 1.0)
        return float(self.counts[i] + (self.counts[i + 1] - self.counts[i]) * share)


def rises(begin_s: float, values: NDArray[np.float64], limit: float) -> Times:
    """When values on the grid rise beyond a limit, in seconds: between two points by straight lines.

    Parameters
    ----------
    begin_s
        Seconds of the project at which it begins.
    values
        Values over time.
    limit
        How many at the most.
    """
    times = begin_s + crossings(values, limit) * STEP_S
    return np.concatenate([[begin_s], times]) if len(values) and values[0] > limit else times


def crossings(values: NDArray[np.float64], limit: float) -> NDArray[np.float64]:
    """Where evenly spaced values rise beyond a limit, counted in their steps: between two by straight lines.

    Parameters
    ----------
    values
        Values over time.
    limit
        What they rise beyond.
    """
    above = values > limit
    places = np.flatnonzero(above[1:] & ~above[:-1])
    low, high = values[places], values[places + 1]
    return np.asarray(places + (limit - low) / np.maximum(high - low, 1e-12), np.float64)


def chances(seed: int, numbers: Numbers, channel: int) -> NDArray[np.float64]:
    """A number from 0 to 1 for each of some numbered things, even and without pattern; equal for equal arguments on any
    machine. The mixing steps are those of splitmix64 (Steele, Lea and Flood, 2014).

    Parameters
    ----------
    seed
        Names the chance: equal seeds give equal results.
    numbers
        Numbers of particles.
    channel
        Which of the independent draws of a particle.
    """
    with np.errstate(over="ignore"):
        word = numbers.astype(np.uint64) + np.uint64(
            (seed * 0x9E3779B97F4A7C15 + channel * 0xD1342543DE82EF95) % (1 << 64)
        )
        word = word * np.uint64(0x9E3779B97F4A7C15)
        word = (word ^ (word >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        word = (word ^ (word >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        word = word ^ (word >> np.uint64(31))
    return np.asarray((word >> np.uint64(11)).astype(np.float64) * (1.0 / (1 << 53)))
