"""Reviews of projects before they are posted: segment by segment on the export workers, gone on with later."""

from __future__ import annotations

import logging
import shutil
import sqlite3
from concurrent.futures import FIRST_COMPLETED, Future, wait
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import TYPE_CHECKING, Any

from velvetdrum.audio.errors import Cancelled
from velvetdrum.deliver.checks.looking import small_plan
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.limits.process import OverTime
from velvetdrum.store import reviews
from velvetdrum.store.reviews import ReviewRow
from velvetdrum.studio import export_tasks
from velvetdrum.studio.outcomes import Outcomes

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

_SOFTEN_S = 100.0
_HEAVY = "Looking at every frame takes more time or memory than it may. Look at a part of the project."


class Reviews:
    """Reviews, each in a thread that waits for the workers."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._folder = services.data / "reviews"
        self._cancelled: set[str] = set()
        self._outcomes = Outcomes(services.stopping)

    def find(self, ident: str) -> ReviewRow | None:
        """The review with an id, as it is by now; None when there is none."""
        row = reviews.find(self._services.db, ident)
        return self._outcomes.of(row) if row else None

    def latest(self, project: str) -> ReviewRow | None:
        """The latest review of a project, as it is by now; None when there is none."""
        row = reviews.latest(self._services.db, project)
        return self._outcomes.of(row) if row else None

    def resume(self) -> None:
        """Go on with those that a stopped server left; what belongs to none is deleted."""
        rows = reviews.unfinished(self._services.db)
        for folder in self._folder.glob("*"):
            if folder.name not in {row.id for row in rows}:
                shutil.rmtree(folder, ignore_errors=True)
        for row in rows:
            self._services.start(self._run, row.id)

    def begin(self, project: str, revision: int, document: dict[str, Any], plan: dict[str, Any]) -> str:
        """Look at a project in the background; gives the id under which to ask for what was found."""
        for row in reviews.unfinished(self._services.db):
            if row.project_id == project:
                self._cancelled.add(row.id)
        ident = reviews.create(self._services.db, project, revision, document, plan)
        self._services.start(self._run, ident)
        return ident

    def cancel(self, ident: str) -> None:
        """Stop it."""
        self._cancelled.add(ident)

    def job(self, row: ReviewRow) -> Job:
        """What is looked at, small."""
        plan = small_plan(ExportPlan.stored(row.plan))
        return Job(row.document, self._services.sources(row.document), plan, str(self._folder / row.id))

    def soften(self, row: ReviewRow, number: int) -> dict[str, Any] | None:
        """How one of the stretches that flash is softened. Raises TimeoutError, and what the task raises."""
        spans = (row.found or {})["flashes"]
        task = (export_tasks.soften, self.job(row), spans[number])
        found: dict[str, Any] | None = self._services.workers.within(_SOFTEN_S, "export", *task)
        return found

    def _run(self, ident: str) -> None:
        here = self._services
        row = self._outcomes.read(lambda: reviews.find(here.db, ident))
        if row is None:
            return
        state, sentence, found = "failed", "", None
        try:
            found = self._looked(row)
            state = "done"
        except Cancelled:
            state = "cancelled"
        except DeliverError as problem:
            sentence = str(problem)
        except (OverTime, MemoryError, BrokenProcessPool):
            sentence = _HEAVY
        except (OSError, sqlite3.Error):
            sentence = "The data folder can't be used just now. Make room on the disk, then look again."
        except Exception:
            if not here.stopping.is_set():
                logging.getLogger(__name__).exception("review")
            sentence = "Something went wrong while it was looked at. Try it once more."
        if here.stopping.is_set() and state != "done":
            return  # the next start goes on with it
        shutil.rmtree(self._folder / ident, ignore_errors=True)
        told = {"state": state, "sentence": sentence, "found": found}
        self._outcomes.settle(ident, told, lambda: reviews.end(here.db, ident, state, sentence, found))

    def _looked(self, row: ReviewRow) -> dict[str, Any]:
        here, job = self._services, self.job(row)
        folder = Path(job.folder)
        folder.mkdir(parents=True, exist_ok=True)
        parts = job.plan.segments
        paths = [folder / f"seen-{number:05d}.npz" for number in range(len(parts))]
        missing = [number for number, path in enumerate(paths) if not path.exists()]
        running: set[Future[None]] = set()
        while missing or running:
            while missing and len(running) < here.workers.exporters:
                number = missing.pop(0)
                running.add(here.workers.submit("export", export_tasks.see_segment, job, number, str(paths[number])))
            done, running = wait(running, timeout=0.2, return_when=FIRST_COMPLETED)
            if row.id in self._cancelled or here.stopping.is_set():
                for future in running:
                    future.cancel()
                raise Cancelled
            for future in done:
                future.result()
            frames = sum(last - first for (first, last), path in zip(parts, paths, strict=True) if path.exists())
            reviews.set_done(here.db, row.id, frames)
        plan = ExportPlan.stored(row.plan)
        sizes = [(plan.width, plan.height), *(tuple(size) for size in row.plan.get("sizes", []))]
        task = (job, [str(path) for path in paths], list(dict.fromkeys(sizes)))
        return here.workers.submit("export", export_tasks.judge_seen, *task).result()
