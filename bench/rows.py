"""A line of the table, and the median that fills it."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass
class Row:
    """A line of the table: what was measured, and its limit, in the same unit."""

    what: str
    value: float
    unit: str
    limit: float
    limit_is: str

    @property
    def ratio(self) -> float:
        return self.value / self.limit


def median(work: Callable[[], object], rounds: int = 3) -> float:
    """Median wall time of `work` in seconds."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)
