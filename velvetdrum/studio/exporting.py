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
        self._one = threading.Lock()
        # How an export ended while the database could not be written, as on a full disk.
        self._unsaved: dict[str, tuple[str, str]] = {}

    def resume(self) -> None:
        """Go on with exports that a stopped server left."""
        for row in exports.unfinished(self._services.db):
            self._services.start(self._run, row.id)

    def find(self, ident: str) -> ExportRow | None:
        row = exports.find(self._services.db, ident)
        return self._now(row) if row else None

    def of_project(self, project: str) -> list[ExportRow]:
        """A project's exports, the newest first."""
        return [self._now(row) for row in exports.of_project(self._services.db, project)]

    def begin(self, project_id: str, name: str, document: Document, plan: dict[str, Any]) -> str:
        ident = exports.create(self._services.db, project_id, name, document, plan)
        self._services.start(self._run, ident)
        return ident

    def again(self, ident: str) -> None:
        """Go on with an export that ended early."""
        exports.set_state(self._services.db, ident, "waiting")
        self._cancelled.discard(ident)
        self._unsaved.pop(ident, None)
        self._services.start(self._run, ident)

    def cancel(self, ident: str) -> None:
        """Stop an export; one that still waits for its turn is cancelled at once."""
        self._cancelled.add(ident)
        row = exports.find(self._services.db, ident)
        if row is not None and row.state == "waiting":
            exports.set_state(self._services.db, ident, "cancelled")

    def file(self, ident: str) -> Path:
        return self._folder / ident / "video.mp4"

    def _now(self, row: ExportRow) -> ExportRow:
        state = self._unsaved.get(row.id)
        return replace(row, state=state[0], sentence=state[1]) if state else row

    def _run(self, ident: str) -> None:
        here = self._services
        with self._one:
            row = exports.find(here.db, ident)
            # It may have been cancelled while it waited, or done by a turn that was asked for before.
            if row is None or row.state not in ("waiting", "running") or here.stopping.is_set():
                return
            state, sentence = self._made(row)
            if here.stopping.is_set() and state != "done":
                return  # the next start goes on with it
            self._settle(ident, state, sentence)

    def _made(self, row: ExportRow) -> tuple[str, str]:
        """Make an export. Gives its state and what is to be said of it."""
        here, folder = self._services, self._folder / row.id
        job = Job(row.document, here.sources(row.document), ExportPlan(**row.plan), str(folder))
        try:
            exports.set_progress(here.db, row.id, row.done)
            try:
                self._try(job, row.id)
            except BrokenProcessPool:
                if here.stopping.is_set():
                    raise
                # Perhaps it was ended from outside: once more, on from what is done.
                self._try(job, row.id)
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

    def _try(self, job: Job, ident: str) -> None:
        here = self._services
        executor = here.workers.pool("export")
        try:
            run_export(
                job,
                executor,
                here.workers.exporters,
                self.file(ident),
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
