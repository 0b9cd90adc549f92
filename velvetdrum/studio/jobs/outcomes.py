"""How work in the background ended: written where it can be, told from memory and tried again where it can't."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any, TypeVar

Row = TypeVar("Row")
Value = TypeVar("Value")

AGAIN_S = 1.0
"""How often it is tried again."""


class Outcomes:
    """What became of work that the database does not hold yet, as on a full disk. Safe for several threads."""

    def __init__(self, stopping: threading.Event) -> None:
        self._stopping = stopping
        self._told: dict[str, dict[str, Any]] = {}
        self._waiting: dict[str, tuple[dict[str, Any], Callable[[], None]]] = {}
        self._trying = False
        self._lock = threading.Lock()

    def settle(self, ident: str, told: dict[str, Any], write: Callable[[], None], *, wait: bool = False) -> None:
        """Write how the work with an id ended. Until that is possible `told` stands in place of what is stored, and it
        is tried again, by a thread that all share; it ends without being written when the server stops, or somebody
        forgets it. `wait`: come back only then, for whoever would take the same work up again."""
        with self._lock:
            self._told[ident] = told
        if self._written(ident, told, write):
            return
        if wait:
            while not self._stopping.wait(AGAIN_S) and not self._written(ident, told, write):
                pass
            return
        with self._lock:
            self._waiting[ident] = told, write
            if self._trying:
                return
            self._trying = True
        threading.Thread(target=self._try_again, daemon=True, name="outcomes").start()

    def _written(self, ident: str, told: dict[str, Any], write: Callable[[], None]) -> bool:
        """Write an outcome, unless another one has come to its place. False where that is not possible now."""
        if self._told.get(ident) is not told:
            return True
        try:
            write()
        except (sqlite3.Error, OSError):
            return False
        with self._lock:
            if self._told.get(ident) is told:
                del self._told[ident]
        return True

    def _try_again(self) -> None:
        while not self._stopping.wait(AGAIN_S):
            with self._lock:
                waiting = dict(self._waiting)
            for ident, (told, write) in waiting.items():
                if self._written(ident, told, write):
                    with self._lock:
                        if self._waiting.get(ident, (None,))[0] is told:
                            del self._waiting[ident]
            with self._lock:
                if not self._waiting:
                    self._trying = False
                    return

    def forget(self, ident: str) -> None:
        """What became of it counts no longer: somebody goes on with it, or has taken it."""
        self._told.pop(ident, None)

    def by_now(self, find: Callable[[], Iterable[Row]]) -> list[Row]:
        """Stored rows as they are by now. What was told before they are read counts, too: it may be written while they
        are, and then is neither in them nor told any more."""
        with self._lock:
            before = dict(self._told)
        rows = list(find())
        told = before | self._told
        return [replace(row, **told[row.id]) if row.id in told else row for row in rows]  # type: ignore

    def read(self, find: Callable[[], Value | None]) -> Value | None:
        """Read what work begins with; where the database can't be read, wait until it can. None when the server stops
        before, and where there is nothing to read."""
        while True:
            try:
                return find()
            except sqlite3.Error:
                if self._stopping.wait(AGAIN_S):
                    return None
