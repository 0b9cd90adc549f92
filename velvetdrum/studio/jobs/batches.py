"""Batches: each row of a table becomes a document of its own and exports in the queue; none stops another."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.deliver.batch import Episode, filled
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.extras import with_captions
from velvetdrum.deliver.file_names import distinguished, file_name
from velvetdrum.deliver.plan import ExportPlan, in_rate, plan_wanted
from velvetdrum.looks.shelf_look import ident_of
from velvetdrum.picture.media.picture_decoder import PictureError
from velvetdrum.scene.document import Document, new_track
from velvetdrum.scene.problems import ProjectError
from velvetdrum.store import batches, exports
from velvetdrum.store.batches import BatchRow
from velvetdrum.studio.jobs.background import BackgroundJob
from velvetdrum.studio.jobs.imports import pieces
from velvetdrum.studio.workers import export_tasks, look_tasks, tasks, word_tasks
from velvetdrum.studio.workers.pools import ListeningTask
from velvetdrum.words.cues import CueError

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

_MOST_TEXT = 4 << 20


class Batches(BackgroundJob[BatchRow]):
    """The batches of a server, whose rows are prepared one after another."""

    rows = batches
    said_in = ""
    refusals = (SoundError, PictureError, CueError, DeliverError, ProjectError)
    heavy = "Reading its files takes more time or memory than it may."
    no_room = "The data folder can't be used just now. Make room on the disk, then start the batch again."
    fault = "Something went wrong with this row."

    def __init__(self, services: Services) -> None:
        super().__init__(services)
        self._folder = services.data / "batches"

    def latest(self, project: str) -> BatchRow | None:
        """The latest batch of a project, as it is by now; None when there is none."""
        return self.one(lambda: batches.latest(self._services.db, project))

    def keep_file(self, row: BatchRow, name: str, chunks: Iterator[bytes], most: int) -> None:
        """Keep a file that the table names. Raises TooLarge."""
        folder = self._folder / row.id
        folder.mkdir(parents=True, exist_ok=True)
        received, part = self._services.folder.receive(chunks, name, most)
        # Named by what is in it: what the table calls it is only shown.
        target = folder / f"{received.key}.file"
        shutil.move(part, target)
        batches.set_file(self._services.db, row.id, name, str(target))

    def start(self, ident: str, wanted: dict[str, Any]) -> None:
        """Prepare the rows and put them in the queue."""
        batches.set_wanted(self._services.db, ident, wanted)
        self.run(ident)

    def cancel(self, ident: str) -> None:
        """Stop a batch: rows that wait are not made, and what is in the queue is taken out."""
        super().cancel(ident)
        for made in exports.of_batch(self._services.db, ident):
            if made.state in ("waiting", "running"):
                self._services.exports.cancel(made.id)
        batches.set_state(self._services.db, ident, "cancelled")

    def work(self, row: BatchRow) -> dict[str, Any]:
        report = dict(row.report)
        for item in row.rows:
            line = str(item["line"])
            if line in report:
                continue
            if self.is_stopped(row.id):
                raise Cancelled
            report = report | {line: self._row(row, item)}
            self._report(row.id, report)
        if row.id in self._cancelled:
            raise Cancelled
        return {"report": report}

    def clean(self, row: BatchRow) -> None:
        shutil.rmtree(self._folder / row.id, ignore_errors=True)

    def write(self, ident: str, outcome: dict[str, Any]) -> None:
        batches.set_state(self._services.db, ident, outcome["state"])

    def _report(self, ident: str, report: dict[str, Any]) -> None:
        db = self._services.db
        self._outcomes.settle(ident, {"report": report}, lambda: batches.set_report(db, ident, report))

    def _row(self, row: BatchRow, item: dict[str, Any]) -> dict[str, Any]:
        try:
            document = self._document(row, item)
            return {"state": "queued", "exports": self._queued(row, document)}
        except FileNotFoundError:
            message = "Its files are no longer here; begin the batch again."
        except Exception as problem:
            message = self._sentence(problem)
        return {"state": "failed", "exports": [], "message": message}

    def _document(self, row: BatchRow, item: dict[str, Any]) -> Document:
        here = self._services
        paths: dict[str, Path] = {}
        for kind, name in item["files"].items():
            if name not in row.files:
                raise DeliverError(f"There is no {kind} file {name}.")
            paths[kind] = Path(row.files[name])
        if "sound" not in paths:
            raise DeliverError("It names no sound.")
        key, recording = here.bring_now(pieces(paths["sound"]), item["files"]["sound"], ListeningTask.BATCH)
        cover = ""
        if "cover" in paths:
            cover = here.keep_picture(paths["cover"].read_bytes(), item["files"]["cover"])["key"]
        cues, language = self._cues(paths, item, recording)
        track = new_track(key, item["files"]["sound"], recording.facts.duration_s)
        if item.get("look"):
            return self._in_look(item, track, cover, cues, language)
        episode = Episode(item["line"], item["title"], item["speaker"], {"sound": Path(item["files"]["sound"])})
        template, own = row.document, None
        if template["tracks"]:
            own = here.recording(template["tracks"][0]["media"])
        if own is not None:
            template, _ = here.quickly(tasks.refit, template, str(own.folder), str(recording.folder), track)
        document = filled(template, episode, (key, recording.facts.duration_s), cover)
        if cues:
            document["cue_tracks"] = {"episode": {"name": "Episode", "language": language, "cues": cues}}
        return document

    def _in_look(
        self, item: dict[str, Any], track: Document, cover: str, cues: dict[str, Any], language: str
    ) -> Document:
        """A row's project in a look of its own, in place of the template."""
        here, name = self._services, ident_of(str(item["look"]))
        look = look_tasks.shipped().get(name)
        if look is None:
            raise DeliverError(f"There is no look {item['look'][:60]}.")
        filling = {"title": item["title"], "speaker": item["speaker"], "cover": cover, "words": cues}
        sources = here.sources({"tracks": [track], "layers": []})
        made: Document = here.quickly(
            look_tasks.fill_look, look, filling | {"language": language or "en"}, track, sources, None
        )
        return made

    def _cues(self, paths: dict[str, Path], item: dict[str, Any], recording: Analysis) -> tuple[dict[str, Any], str]:
        """Cues by their ids, and their language."""
        here = self._services
        for kind, path in paths.items():
            if kind not in ("sound", "cover") and path.stat().st_size > _MOST_TEXT:
                raise DeliverError(f"{item['files'][kind]} has more than {_MOST_TEXT >> 20} MB; a text is smaller.")
        if "captions" in paths:
            task = (paths["captions"].read_bytes(), item["files"]["captions"])
            result = here.read(word_tasks.read_cue_file, *task)
            return result["cues"], result["language"]
        if "transcript" in paths:
            text = (str(recording.folder), paths["transcript"].read_bytes())
            bounds = export_tasks.alignment_bounds(recording.facts.duration_s)
            return here.listen(ListeningTask.BATCH, bounds, export_tasks.align_transcript, *text), "en"
        return {}, ""

    def _queued(self, row: BatchRow, document: Document) -> list[str]:
        here, made = self._services, []
        document = in_rate(document, row.wanted)
        for frame in row.wanted.get("frames") or [None]:
            plan: ExportPlan = plan_wanted(document, row.wanted | {"frame": frame})
            taken = {other.name for other in exports.of_batch(here.db, row.id)}
            name = distinguished(file_name(row.wanted["name"], plan, document["name"], date.today()), taken)
            shown = with_captions(document) if row.wanted.get("captions") == "burnt" else document
            made.append(here.exports.begin(row.project_id, name, shown, asdict(plan), batch=row.id))
        return made
