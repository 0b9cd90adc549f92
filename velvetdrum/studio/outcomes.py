"""How work in the background ended: written where it can be, told from memory and tried again where it can't."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable
from dataclasses import replace
from typing import Any, TypeVar

Row = TypeVar("Row")
Read = TypeVar("Read")

AGAIN_S = 1.0
"""How often it is tried again."""


class Outcomes:
    """What became of work that the database does not hold yet, as on a full disk. Safe for several threads."""

    def __init__(self, stopping: threading.Event) -> None:
        self._stopping = stopping
        self._told: dict[str, dict[str, Any]] = {}

    def settle(self, ident: str, told: dict[str, Any], write: Callable[[], None]) -> None:
        """Write how the work with an id ended. Until that is possible `told` stands in place of what is stored, and it
        is tried again; it ends without being written when the server stops, or somebody forgets it."""
        self._told[ident] = told
        while self._told.get(ident) is told:
            try:
                write()
            except (sqlite3.Error, OSError):
                if self._stopping.wait(AGAIN_S):
                    return
            else:
                if self._told.get(ident) is told:
                    self._told.pop(ident, None)

    def forget(self, ident: str) -> None:
        """What became of it counts no longer: somebody goes on with it, or has taken it."""
        self._told.pop(ident, None)

    def of(self, row: Row) -> Row:
        """A stored row (a data class with an id) as it is by now."""
        told = self._told.get(row.id)  # type: ignore[attr-defined]
        return replace(row, **told) if told else row  # type: ignore[type-var]

    def read(self, find: Callable[[], Read | None]) -> Read | None:
        """Read what work begins with; where the database can't be read, wait until it can. None when the server stops
        before, and where there is nothing to read."""
        while True:
            try:
                return find()
            except sqlite3.Error:
                if self._stopping.wait(AGAIN_S):
                    return None
