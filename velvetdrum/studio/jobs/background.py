"""Work in the background: a row in the database, begun by a request, resumed after a restart."""

from __future__ import annotations

import logging
import sqlite3
import threading
from abc import ABC, abstractmethod
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import TYPE_CHECKING, Any, ClassVar, Generic, TypeVar

from velvetdrum.audio.errors import Cancelled
from velvetdrum.limits.door import Unreadable
from velvetdrum.limits.openers import kept_outside
from velvetdrum.limits.process import OverTime
from velvetdrum.studio.jobs.outcomes import Outcomes

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

Row = TypeVar("Row")


class BackgroundJob(ABC, Generic[Row]):
    """A sort of jobs. Each one runs in a thread that waits for the workers; a few at a time, the others in line."""

    rows: Any
    """The module of the store that keeps the rows: `find(db, ident)`, and `unfinished(db)`, the oldest first."""
    threads: ClassVar[int] = 4
    """How many are at work at a time."""
    said_in: ClassVar[str] = "sentence"
    """The field of a row in which it stands why the work failed; empty for rows that say it otherwise."""
    refusals: ClassVar[tuple[type[Exception], ...]] = ()
    """Errors whose text is a sentence for whoever began it."""
    heavy: ClassVar[str]
    """What is said of work that took more time or memory than it may."""
    no_room: ClassVar[str]
    """What is said where the disk or the database can't be used."""
    fault: ClassVar[str]
    """What is said of a fault of ours, which is logged."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._outcomes = Outcomes(services.stopping)
        self._cancelled: set[str] = set()
        self._running: set[str] = set()
        self._lock = threading.Lock()
        name = type(self).__name__.lower()
        self._threads = ThreadPoolExecutor(self.threads, thread_name_prefix=name)

    # What a sort of jobs says of itself

    @abstractmethod
    def work(self, row: Row) -> dict[str, Any]:
        """Do it; gives what is kept of it beside its state. Raises Cancelled where it was stopped."""

    @abstractmethod
    def write(self, ident: str, outcome: dict[str, Any]) -> None:
        """Keep how it ended."""

    def clean(self, row: Row) -> None:
        """Clear away what only the work needed."""

    # What is asked for, begun and stopped

    def find(self, ident: str) -> Row | None:
        """The row with an id, as it is by now; None when there is none."""
        return self.one(lambda: self.rows.find(self._services.db, ident))

    def one(self, find: Callable[[], Row | None]) -> Row | None:
        """A stored row as it is by now; None when there is none."""
        rows = self.by_now(lambda: [row] if (row := find()) is not None else [])
        return rows[0] if rows else None

    def by_now(self, find: Callable[[], Iterable[Row]]) -> list[Row]:
        """Stored rows as they are by now."""
        return self._outcomes.by_now(find)

    def resume(self) -> None:
        """Go on with those that a stopped server left."""
        for row in self.rows.unfinished(self._services.db):
            self.run(row.id)

    def run(self, ident: str) -> None:
        """Let a job that has a row come to its turn; one that is in line or at work is not begun twice."""
        with self._lock:
            if ident in self._running:
                return
            self._running.add(ident)
        self._cancelled.discard(ident)
        self._outcomes.forget(ident)
        self._threads.submit(self._begun, ident)

    def cancel(self, ident: str) -> None:
        """Stop a job."""
        self._cancelled.add(ident)

    def is_stopped(self, ident: str) -> bool:
        """True when a job is to end now: it was cancelled, or the server stops."""
        return ident in self._cancelled or self._services.stopping.is_set()

    def close(self) -> None:
        """Begin nothing more."""
        self._threads.shutdown(wait=False, cancel_futures=True)

    # How it goes

    def _begun(self, ident: str) -> None:
        with kept_outside():
            try:
                self._ended(ident)
            except Exception:  # what settles an outcome raises nothing else than the interpreter's end
                logging.getLogger(__name__).exception("%s %s", type(self).__name__, ident)
            finally:
                with self._lock:
                    self._running.discard(ident)

    def _ended(self, ident: str) -> None:
        here = self._services
        row = self._outcomes.read(lambda: self.rows.find(here.db, ident))
        if row is None:
            return
        try:
            outcome = {"state": "done"} | self.work(row)
        except Cancelled:
            outcome = {"state": "cancelled"} | self._said("")
        except Exception as problem:
            outcome = {"state": "failed"} | self._said(self._sentence(problem))
        if here.stopping.is_set() and outcome["state"] != "done":
            return  # the next start goes on with it
        self.clean(row)
        self._outcomes.settle(ident, outcome, lambda: self.write(ident, outcome))

    def _said(self, sentence: str) -> dict[str, str]:
        return {self.said_in: sentence} if self.said_in else {}

    def _sentence(self, problem: Exception) -> str:
        if isinstance(problem, self.refusals):
            return str(problem)
        if isinstance(problem, Unreadable | OverTime | MemoryError | BrokenProcessPool):
            return self.heavy
        if isinstance(problem, OSError | sqlite3.Error):
            return self.no_room
        if not self._services.stopping.is_set():
            logging.getLogger(__name__).error("%s", type(self).__name__, exc_info=problem)
        return self.fault
