"""Exports, one after the other: each goes on where its folder ends, and says what stopped it."""

from __future__ import annotations

import logging
import sqlite3
import threading
from concurrent.futures.process import BrokenProcessPool
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job, run_export
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.scene.document import Document
from velvetdrum.store import exports
from velvetdrum.store.exports import ExportRow

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

_FULL = "The disk is full, or it can't be written: {reason}. Make room, then export again; what is done is kept."
_ENDED = "A worker process ended early. Export again to go on."
_UNKNOWN = "Something went wrong. Export again to go on."


class Exports:
    """The exports of a server."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._folder = services.data / "exports"
        self._folder.mkdir(exist_ok=True)
        self._cancelled: set[str] = set()
        self._turn = threading.Lock()
        self._dispatching = False
        # How an export ended while the database could not be written, as on a full disk.
        self._unsaved: dict[str, tuple[str, str]] = {}

    def resume(self) -> None:
        """Go on with exports that a stopped server left."""
        self._dispatch()

    def find(self, ident: str) -> ExportRow | None:
        """The export with an id; None when there is none."""
        row = exports.find(self._services.db, ident)
        return self._now(row) if row else None

    def of_project(self, project: str) -> list[ExportRow]:
        """A project's exports, the newest first."""
        return [self._now(row) for row in exports.of_project(self._services.db, project)]

    def begin(self, project_id: str, name: str, document: Document, plan: dict[str, Any]) -> str:
        """Put an export in the queue; gives its id."""
        ident = exports.create(self._services.db, project_id, name, document, plan)
        self._dispatch()
        return ident

    def again(self, ident: str) -> None:
        """Go on with an export that ended early."""
        exports.set_state(self._services.db, ident, "waiting")
        self._cancelled.discard(ident)
        self._unsaved.pop(ident, None)
        self._dispatch()

    def cancel(self, ident: str) -> None:
        """Stop an export; one that still waits for its turn is cancelled at once."""
        self._cancelled.add(ident)
        row = exports.find(self._services.db, ident)
        if row is not None and row.state == "waiting":
            exports.set_state(self._services.db, ident, "cancelled")

    def file(self, row: ExportRow) -> Path:
        """Where the finished video of an export lies."""
        return self._folder / row.id / f"video{FORMATS[ExportPlan.stored(row.plan).format].suffix}"

    def _now(self, row: ExportRow) -> ExportRow:
        state = self._unsaved.get(row.id)
        return replace(row, state=state[0], sentence=state[1]) if state else row

    def _dispatch(self) -> None:
        """See to it that somebody takes what waits: exports wait in the database, and one thread makes them in turn for
        as long as there are any."""
        with self._turn:
            if self._dispatching:
                return
            self._dispatching = True
        self._services.start(self._take_turns, "")

    def _take_turns(self, _: str) -> None:
        try:
            while self._take_turn():
                pass
        except BaseException:
            with self._turn:
                self._dispatching = False
            raise

    def _take_turn(self) -> bool:
        """Make the export that waits longest. False when there is nothing more to do for this thread."""
        here = self._services
        with self._turn:
            row = None if here.stopping.is_set() else exports.first_waiting(here.db)
            if row is None:
                # Under the lock: what is asked for after this starts a thread of its own.
                self._dispatching = False
                return False
        state, sentence = self._made(row)
        # What a stopping server left in the middle the next start goes on with.
        if not here.stopping.is_set() or state == "done":
            self._settle(row.id, state, sentence)
        return True

    def _made(self, row: ExportRow) -> tuple[str, str]:
        """Make an export. Gives its state and what is to be said of it."""
        here, folder = self._services, self._folder / row.id
        job = Job(row.document, here.sources(row.document), ExportPlan.stored(row.plan), str(folder))
        try:
            exports.set_progress(here.db, row.id, row.done)
            try:
                self._try(job, row.id, self.file(row))
            except BrokenProcessPool:
                if here.stopping.is_set():
                    raise
                # Perhaps it was ended from outside: once more, on from what is done.
                self._try(job, row.id, self.file(row))
            for segment in folder.glob("segment-*"):
                segment.unlink()
            return "done", ""
        except Cancelled:
            return "cancelled", ""
        except (DeliverError, SoundError) as problem:
            return "failed", str(problem)
        except BrokenProcessPool:
            return "failed", _ENDED
        except OSError as problem:
            return "failed", _FULL.format(reason=problem.strerror or problem)
        except sqlite3.Error as problem:
            return "failed", _FULL.format(reason=problem)
        except Exception:
            if not here.stopping.is_set():
                logging.getLogger(__name__).exception("export %s", row.id)
            return "failed", _UNKNOWN

    def _try(self, job: Job, ident: str, output: Path) -> None:
        here = self._services
        executor = here.workers.pool("export")
        try:
            run_export(
                job,
                executor,
                here.workers.exporters,
                output,
                lambda done: exports.set_progress(here.db, ident, done),
                lambda: ident in self._cancelled or here.stopping.is_set(),
            )
        except BrokenProcessPool:
            here.workers.replace("export", executor)
            raise

    def _settle(self, ident: str, state: str, sentence: str) -> None:
        """Store how an export ended; where that can't be written, it is told from memory, and tried until it can."""
        self._unsaved[ident] = (state, sentence)
        while self._unsaved.get(ident) == (state, sentence):
            try:
                exports.set_state(self._services.db, ident, state, sentence)
                self._unsaved.pop(ident, None)
            except sqlite3.Error:
                if self._services.stopping.wait(1.0):
                    return
