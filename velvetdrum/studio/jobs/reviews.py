"""Reviews of projects before they are posted: segment by segment on the export workers, resumed after a restart."""

from __future__ import annotations

import shutil
from concurrent.futures import FIRST_COMPLETED, Future, wait
from pathlib import Path
from typing import TYPE_CHECKING, Any

from velvetdrum.audio.errors import Cancelled
from velvetdrum.deliver.checks.frame_measures import small_plan
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.store import reviews
from velvetdrum.store.reviews import ReviewRow
from velvetdrum.studio.jobs.background import BackgroundJob
from velvetdrum.studio.workers import export_tasks

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

_SOFTEN_S = 100.0


class Reviews(BackgroundJob[ReviewRow]):
    """Looks at every frame of a project, segment by segment on the export workers."""

    rows = reviews
    refusals = (DeliverError,)
    heavy = "Looking at every frame takes more time or memory than it may. Look at a part of the project."
    no_room = "The data folder can't be used just now. Make room on the disk, then look again."
    fault = "Something went wrong while it was looked at. Try it once more."

    def __init__(self, services: Services) -> None:
        super().__init__(services)
        self._folder = services.data / "reviews"

    def latest(self, project: str) -> ReviewRow | None:
        """The latest review of a project, as it is by now; None when there is none."""
        return self.one(lambda: reviews.latest(self._services.db, project))

    def resume(self) -> None:
        """As all jobs; what belongs to none is deleted."""
        rows = reviews.unfinished(self._services.db)
        for folder in self._folder.glob("*"):
            if folder.name not in {row.id for row in rows}:
                shutil.rmtree(folder, ignore_errors=True)
        super().resume()

    def begin(self, project: str, revision: int, document: dict[str, Any], plan: dict[str, Any]) -> str:
        """Look at a project in the background; gives the id under which to ask for what was found."""
        for row in reviews.unfinished(self._services.db):
            if row.project_id == project:
                self.cancel(row.id)
        ident = reviews.create(self._services.db, project, revision, document, plan)
        self.run(ident)
        return ident

    def job(self, row: ReviewRow) -> Job:
        """What is looked at, small."""
        plan = small_plan(ExportPlan.stored(row.plan))
        return Job(row.document, self._services.sources(row.document), plan, str(self._folder / row.id))

    def soften(self, row: ReviewRow, number: int) -> dict[str, Any] | None:
        """How one of the stretches that flash is softened. Raises TimeoutError, and what the task raises."""
        spans = (row.found or {})["flashes"]
        task = (export_tasks.soften, self.job(row), spans[number])
        result: dict[str, Any] | None = self._services.workers.within(_SOFTEN_S, "export", *task)
        return result

    def clean(self, row: ReviewRow) -> None:
        shutil.rmtree(self._folder / row.id, ignore_errors=True)

    def write(self, ident: str, outcome: dict[str, Any]) -> None:
        reviews.end(self._services.db, ident, outcome["state"], outcome["sentence"], outcome.get("found"))

    def work(self, row: ReviewRow) -> dict[str, Any]:
        return {"sentence": "", "found": self._looked(row)}

    def _looked(self, row: ReviewRow) -> dict[str, Any]:
        here = self._services
        here.sums.wait(row.document)
        job = self.job(row)
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
            if self.is_stopped(row.id):
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
