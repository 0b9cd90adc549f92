"""Exports, one after the other: each goes on where its folder ends, and says what stopped it."""

from __future__ import annotations

import contextlib
import logging
import shutil
import sqlite3
import threading
import time
from collections.abc import Sequence
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import TYPE_CHECKING, Any

from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.deliver.errors import DeliverError, is_no_room
from velvetdrum.deliver.export import Job, joined_share, run_export
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.scene.document import Document
from velvetdrum.store import exports
from velvetdrum.store.exports import ExportRow
from velvetdrum.studio.jobs.outcomes import Outcomes
from velvetdrum.studio.workers import export_tasks

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

_FULL = "The disk is full, or it can't be written: {reason}. Make room, then export again; what is done is kept."
_NO_ROOM = "Stopped: the disk is full. {missing:.0f} MB are missing; it goes on by itself when there is room."
_ENDED = "A worker process ended early. Export again to go on."
_UNKNOWN = "Something went wrong. Export again to go on."
_PAUSED = "queue.paused"

_ROOM_S = 2.0
"""How often it is looked whether there is room again."""

_LEAST_ROOM = 24_000_000


class Exports:
    """The exports of a server."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._folder = services.data / "exports"
        self._folder.mkdir(exist_ok=True)
        self._cancelled: set[str] = set()
        # Those that are to stop where they are, and stay in line.
        self._parked: set[str] = set()
        self._all_parked = False
        self._turn = threading.Lock()
        self._dispatching = self._watching = False
        self._outcomes = Outcomes(services.stopping)

    def resume(self) -> None:
        """Go on with exports that a stopped server left."""
        self._all_parked = self.paused
        self._dispatch()
        self._watch_room()

    # What is asked

    def find(self, ident: str) -> ExportRow | None:
        """The export with an id; None when there is none."""
        rows = self._outcomes.by_now(lambda: filter(None, [exports.find(self._services.db, ident)]))
        return rows[0] if rows else None

    def of_project(self, project: str) -> list[ExportRow]:
        """A project's exports, the newest first."""
        return self._outcomes.by_now(lambda: exports.of_project(self._services.db, project))

    def listed(self) -> list[ExportRow]:
        """All exports: those in line in their order, then those that ended, the newest first."""
        return self._outcomes.by_now(lambda: exports.listed(self._services.db))

    @property
    def paused(self) -> bool:
        """True while the whole queue stands still."""
        return bool(exports.fact(self._services.db, _PAUSED))

    @property
    def free_bytes(self) -> int:
        """Room on the disk that exports are written to."""
        return shutil.disk_usage(self._folder).free

    def file(self, row: ExportRow) -> Path:
        """Where the finished video of an export lies."""
        return self._folder / row.id / f"video{FORMATS[ExportPlan.stored(row.plan).format].suffix}"

    def joined_share(self, row: ExportRow) -> float:
        """How far the putting together of an export is, 0 to 1; 0 where that has not begun."""
        try:
            return float(joined_share(self._folder / row.id).read_text() or 0)
        except (OSError, ValueError):
            return 0.0

    # What is done

    def begin(
        self,
        project_id: str,
        name: str,
        document: Document,
        plan: dict[str, Any],
        *,
        revision: int = 0,
        batch: str = "",
    ) -> str:
        """Put an export in the queue; gives its id."""
        ident = exports.create(self._services.db, project_id, name, document, plan, revision=revision, batch=batch)
        self._dispatch()
        return ident

    def again(self, ident: str) -> None:
        """Go on with an export that ended early, or make one anew whose file was cleaned up."""
        exports.set_state(self._services.db, ident, "waiting")
        self._cancelled.discard(ident)
        self._outcomes.forget(ident)
        self._dispatch()

    def cancel(self, ident: str) -> None:
        """Stop an export; one that still waits for its turn is cancelled at once."""
        self._cancelled.add(ident)
        row = exports.find(self._services.db, ident)
        if row is not None and row.state == "waiting":
            exports.set_state(self._services.db, ident, "cancelled")

    def pause(self, ident: str) -> None:
        """Let an export stand where it is; others go on."""
        self._parked.add(ident)
        exports.set_held(self._services.db, ident, "paused")

    def go_on(self, ident: str) -> None:
        """Put an export that stands in line again."""
        self._parked.discard(ident)
        exports.set_held(self._services.db, ident, "")
        self._dispatch()

    def pause_all(self) -> None:
        """Let the whole queue stand still, over a restart, too."""
        exports.set_fact(self._services.db, _PAUSED, True)
        self._all_parked = True

    def go_on_all(self) -> None:
        """Let the queue go on."""
        exports.set_fact(self._services.db, _PAUSED, False)
        self._all_parked = False
        self._dispatch()

    def first(self, ident: str) -> None:
        """Make an export next."""
        exports.set_first(self._services.db, ident)

    def order(self, idents: list[str]) -> None:
        """Put those that wait into an order."""
        exports.set_order(self._services.db, idents)

    def remove(self, rows: Sequence[ExportRow]) -> int:
        """Delete the files of exports that ended; they stay in the list. Gives the bytes that this frees."""
        freed = 0
        for row in rows:
            folder = self._folder / row.id
            if row.state in ("waiting", "running"):
                continue
            freed += sum(path.stat().st_size for path in folder.glob("*") if path.is_file())
            shutil.rmtree(folder, ignore_errors=True)
            exports.set_removed(self._services.db, row.id)
        return freed

    # One after the other

    def _dispatch(self) -> None:
        """Start the thread that takes what waits, where none runs: exports wait in the database, and one thread makes
        them in turn for as long as there are any."""
        with self._turn:
            if self._dispatching or self._all_parked:
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
        """Make the export whose turn it is. False when there is nothing more to do for this thread."""
        here = self._services
        with self._turn:
            idle = here.stopping.is_set() or self._all_parked
            try:
                row = None if idle else exports.first_waiting(here.db)
            except sqlite3.Error:
                # It can't be read just now, as on a disk that is full or away.
                return not here.stopping.wait(_ROOM_S)
            if row is None:
                # Under the lock: what is asked for after this starts a thread of its own.
                self._dispatching = False
                return False
        begin = time.monotonic()
        state, sentence = self._made(row)
        with contextlib.suppress(sqlite3.Error):
            exports.add_work(here.db, row.id, time.monotonic() - begin)
        # What a stopping server left in the middle the next start goes on with; what was parked stays in line.
        if state == "waiting" or (here.stopping.is_set() and state != "done"):
            return True
        self._settle(row.id, state, sentence)
        if state == "done":
            self._look_at(row)
        return True

    def _made(self, row: ExportRow) -> tuple[str, str]:
        """Make an export. Gives its state and what is to be said of it."""
        here, folder = self._services, self._folder / row.id
        try:
            here.sums.wait(row.document)
        except SoundError as problem:
            return "failed", str(problem)
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
            for segment in (*folder.glob("segment-*"), *folder.glob("sound.*")):
                segment.unlink()
            return "done", ""
        except Cancelled:
            if row.id in self._cancelled:
                return "cancelled", ""
            held = "paused" if row.id in self._parked else ""
            told = {"state": "waiting", "held": held}
            self._outcomes.settle(row.id, told, lambda: exports.set_held(here.db, row.id, held), wait=True)
            return "waiting", ""
        except (DeliverError, SoundError, OSError, sqlite3.Error) as problem:
            return self._stopped(row, job, problem)
        except BrokenProcessPool:
            return "failed", _ENDED
        except Exception:
            if not here.stopping.is_set():
                logging.getLogger(__name__).exception("export %s", row.id)
            return "failed", _UNKNOWN

    def _stopped(self, row: ExportRow, job: Job, problem: Exception) -> tuple[str, str]:
        """What is said of an export that something refused. One for which there is no room waits until there is."""
        needs = self._needed(job)
        if is_no_room(problem) and (missing := needs - self.free_bytes) > 0:
            try:
                exports.set_held(self._services.db, row.id, "room", _NO_ROOM.format(missing=missing / 1e6), needs)
                self._watch_room()
                return "waiting", ""
            except sqlite3.Error:
                return "failed", _FULL.format(reason="No space left on device")
        if isinstance(problem, (DeliverError, SoundError)):
            return "failed", str(problem)
        return "failed", _FULL.format(reason=getattr(problem, "strerror", None) or problem)

    def _needed(self, job: Job) -> int:
        """Bytes that must be free before an export goes on: what is missing of its segments, and all of it once more
        for the file."""
        segments = [path.stat().st_size for path in Path(job.folder).glob("segment-*") if path.suffix != ".part"]
        each = sum(segments) / max(len(segments), 1) or 1_000_000
        count = len(job.plan.segments)
        return max(int(each * (2 * count - len(segments)) * 1.1), _LEAST_ROOM)

    def _watch_room(self) -> None:
        with self._turn:
            if self._watching or not exports.waiting_for_room(self._services.db):
                return
            self._watching = True
        self._services.start(self._wait_for_room, "")

    def _wait_for_room(self, _: str) -> None:
        here = self._services
        while not here.stopping.wait(_ROOM_S):
            try:
                rows = exports.waiting_for_room(here.db)
                free = self.free_bytes
                for row in rows:
                    if free > row.needs:
                        exports.set_held(here.db, row.id, "")
                        free -= row.needs
                        self._dispatch()
            except (sqlite3.Error, OSError):
                continue
            with self._turn:
                if not exports.waiting_for_room(here.db):
                    self._watching = False
                    return

    def _look_at(self, row: ExportRow) -> None:
        """Look at the finished file from its first frame to its last, beside what is made next."""
        here, form = self._services, FORMATS[ExportPlan.stored(row.plan).format]
        if form.group != "video" or not form.sound:
            return
        future = here.workers.submit("export", export_tasks.look_at_file, str(self.file(row)))

        def keep(done: Any) -> None:
            try:
                exports.set_findings(here.db, row.id, done.result())
            except Exception:
                logging.getLogger(__name__).debug("looking at %s", row.id, exc_info=True)

        future.add_done_callback(keep)

    def _try(self, job: Job, ident: str, output: Path) -> None:
        here = self._services
        executor = here.workers.segments()
        try:
            run_export(
                job,
                executor,
                here.workers.exporters,
                output,
                lambda done: exports.set_progress(here.db, ident, done),
                lambda: ident in self._cancelled or ident in self._parked or self._all_parked or here.stopping.is_set(),
            )
        except BrokenProcessPool:
            here.workers.replace(executor)
            raise

    def _settle(self, ident: str, state: str, sentence: str) -> None:
        """Keep how an export ended."""
        db = self._services.db

        def write() -> None:
            row = exports.find(db, ident)
            path = self.file(row) if row else None
            size = path.stat().st_size if path and state == "done" and path.exists() else None
            exports.set_state(db, ident, state, sentence, size)

        self._outcomes.settle(ident, {"state": state, "sentence": sentence}, write, wait=True)
