"""A line of the table, and how its figures are measured."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

HEAD = f"{'':62}{'median':>12}{'limit':>12}  {'ratio':>6}  the limit is"


@dataclass
class Row:
    """A line of the table: what was measured, and its limit, in the same unit; a limit of 0 is none."""

    what: str
    value: float
    unit: str
    limit: float = 0.0
    limit_is: str = ""

    @property
    def ratio(self) -> float:
        return self.value / self.limit if self.limit else 0.0

    def __str__(self) -> str:
        limit = f"{self.limit:9.3g} {self.unit:2}  {self.ratio:6.2f}" if self.limit else f"{'':20}"
        return f"{self.what:62}{self.value:9.3g} {self.unit:2}{limit}  {self.limit_is}"


def median(work: Callable[[], object], rounds: int = 3) -> float:
    """Median wall time of `work` in seconds."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def beside_add(
    work: Callable[[], object], width: int = 1920, height: int = 1080, rounds: int = 25
) -> tuple[float, float]:
    """Processor time of `work` and of a plain `cv2.add` of two such frames in ms, medians of rounds taken in turns."""
    rng = np.random.default_rng(3)
    one, other = (rng.integers(0, 256, (height, width, 4)).astype(np.uint8) for _ in range(2))
    work()
    mine, plain = [], []
    for _ in range(rounds):
        start = time.process_time()
        cv2.add(one, other, dst=one)
        middle = time.process_time()
        work()
        plain.append(middle - start)
        mine.append(time.process_time() - middle)
    return statistics.median(mine) * 1000, statistics.median(plain) * 1000


def add_row(what: str, times: float, work: Callable[[], object], width: int = 1920, height: int = 1080) -> Row:
    """A row whose limit is so many times a plain `cv2.add` of two frames of that size."""
    mine, plain = beside_add(work, width, height)
    return Row(what, mine, "ms", times * plain, f"{times:g} times cv2.add ({plain:.2f} ms), this run")
