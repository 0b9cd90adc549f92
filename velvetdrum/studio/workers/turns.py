"""Whose turn it is where more work waits than there are workers: fair between kinds of work."""

from __future__ import annotations

import itertools
import threading
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field


@dataclass(eq=False)
class _Waiting:
    kind: str
    rank: int
    number: int
    begin: threading.Event = field(default_factory=threading.Event)


class Turns:
    """So many at a time. Of those that wait, work of the kind that has fewest running begins next; among kinds that
    have as many, what somebody waits for (a low rank) goes first, then the kind that has waited longest since its last
    turn. One kind never takes all places, so that work of another begins at once."""

    def __init__(self, places: int) -> None:
        self._places = places
        self._lock = threading.Lock()
        self._running: Counter[str] = Counter()
        self._waiting: list[_Waiting] = []
        self._served: dict[str, int] = {}
        self._numbers = itertools.count()

    @contextmanager
    def turn(self, kind: str, rank: int = 0) -> Iterator[None]:
        """Wait until it is this work's turn; the place is free again when the block ends."""
        own = _Waiting(kind, rank, next(self._numbers))
        with self._lock:
            self._waiting.append(own)
            self._next()
        own.begin.wait()
        try:
            yield
        finally:
            with self._lock:
                self._running[kind] -= 1
                self._next()

    def _next(self) -> None:
        """Let those begin that there is a place for."""
        most = max(self._places - 1, 1)
        while sum(self._running.values()) < self._places:
            able = [item for item in self._waiting if self._running[item.kind] < most]
            if not able:
                return
            chosen = min(able, key=self._order)
            self._waiting.remove(chosen)
            self._running[chosen.kind] += 1
            self._served[chosen.kind] = next(self._numbers)
            chosen.begin.set()

    def _order(self, item: _Waiting) -> tuple[int, int, int, int]:
        return self._running[item.kind], item.rank, self._served.get(item.kind, -1), item.number
