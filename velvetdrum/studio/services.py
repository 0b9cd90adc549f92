"""The studio's shared parts: the data folder, the database of each thread, running imports and exports."""

from __future__ import annotations

import logging
import sqlite3
import tempfile
import threading
from collections.abc import Callable, Iterator
from concurrent.futures.process import BrokenProcessPool
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis import Analysis, growing_overview, is_current
from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.deliver.bundle import read_bundle
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job, Sources, run_export
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.picture.footage.clip import ClipError
from velvetdrum.picture.images import check_picture
from velvetdrum.picture.starting import starting_design
from velvetdrum.scene.document import Document, media_keys, new_document, new_track
from velvetdrum.scene.edits import apply
from velvetdrum.scene.frames import FRAMES, RATES
from velvetdrum.store import exports, imports, media, projects
from velvetdrum.store.db import open_database
from velvetdrum.store.media import MediaFolder, MediaRow
from velvetdrum.studio import tasks
from velvetdrum.studio.workers import Workers

_CRASHED = (
    "Reading this file took more time or memory than any recording needs, or crashed the decoder: it is damaged. "
    "Open it in another program and save it anew."
)


_PATIENCE_S = 60


class Services:
    """One per server. Connections are per thread, as SQLite wants it."""

    def __init__(self, data: Path, *, exporters: int | None = None) -> None:
        self.data = data.resolve()
        self.data.mkdir(parents=True, exist_ok=True)
        self.folder = MediaFolder(self.data)
        self.export_folder = self.data / "exports"
        self.export_folder.mkdir(exist_ok=True)
        self.workers = Workers(exporters=exporters)
        self._local = threading.local()
        self._cancelled: set[str] = set()
        self._one_export = threading.Lock()
        self._stopping = threading.Event()

    @property
    def db(self) -> sqlite3.Connection:
        """This thread's connection."""
        if not hasattr(self._local, "db"):
            self._local.db = open_database(self.data / "velvetdrum.sqlite3")
        return self._local.db

    def resume(self) -> None:
        """Go on with what a stopped or killed server left unfinished."""
        waiting = imports.unfinished(self.db)
        self.folder.sweep({row.part for row in waiting})
        for row in waiting:
            self._start(self._run_import, row.id)
        for export in exports.unfinished(self.db):
            self._start(self._run_export, export.id)
        threading.Thread(target=self.refresh_analyses, daemon=True, name="refresh").start()

    def refresh_analyses(self) -> None:
        """Make analyses anew that an older version made, or that are gone, from the kept originals."""
        for row in media.listed(self.db):
            target = self.folder.analysis(row.key)
            original = self.folder.original(row)
            if (row.facts or {}).get("picture"):
                continue
            if (row.facts or {}).get("clip"):
                if original.exists() and not self.folder.clip(row.key).exists() and not self._stopping.is_set():
                    self._prepare_kept(row.key)
                continue
            if self._stopping.is_set() or is_current(target) or not original.exists():
                continue
            notes = self.folder.incoming / f"{row.key}.notes"
            future = self.workers.submit(
                "analysis", tasks.analyse_sound, str(original), str(target), row.key, str(notes)
            )
            try:
                media.set_facts(self.db, row.key, future.result())
            except (SoundError, BrokenProcessPool, OSError):
                logging.getLogger(__name__).exception("analysis of %s", row.key)
            notes.unlink(missing_ok=True)

    def close(self) -> None:
        self._stopping.set()
        self.workers.close()

    # Sound

    def begin_import(self, received: MediaRow, part: Path, purpose: dict[str, Any]) -> dict[str, str]:
        """Analyse a received file in the background; gives the id under which to ask for its progress."""
        ident = imports.create(self.db, received, part.name, purpose)
        self._start(self._run_import, ident)
        return {"import": ident}

    def begin_clip(self, received: MediaRow, part: Path, project: str) -> dict[str, str]:
        """Prepare a received clip in the background; gives its key and the id under which to ask for its progress. A
        clip that is here already needs no preparing."""
        known = media.find(self.db, received.key)
        if known is not None and self.folder.original(known).exists() and self.folder.clip(received.key).exists():
            part.unlink(missing_ok=True)
            return {"key": received.key}
        ident = imports.create(self.db, received, part.name, {"clip": True, "project": project})
        self._start(self._run_import, ident)
        return {"key": received.key, "import": ident}

    def open_bundle(self, path: Path) -> dict[str, str]:
        """Bring a `.vdrum` file in: its recording through the usual analysis, its document as a new project."""
        with tempfile.TemporaryDirectory(dir=self.data) as folder:
            document, files = read_bundle(path, Path(folder))
            for key in media_keys(document, ("picture",)) & files.keys():
                self.keep_picture(files.pop(key).read_bytes(), f"Picture {key[:8]}")
            for key in media_keys(document, ("footage",)) & files.keys():
                file = files.pop(key)
                received, part = self.folder.receive(_pieces(file), f"Clip {key[:8]}{file.suffix}", 1 << 62)
                self.folder.keep(self.db, received, part)
                media.set_facts(self.db, key, {"clip": True})
                self._start(self._prepare_kept, key)
            for key, file in files.items():
                if self.recording(key) is None or media.find(self.db, key) is None:
                    name = next(track["name"] for track in document["tracks"] if track["media"] == key)
                    received, part = self.folder.receive(_pieces(file), name, 1 << 62)
                    received = replace(received, suffix=file.suffix)
                    return self.begin_import(received, part, {"document": document})
        return {"project": projects.create(self.db, document)}

    def bring_now(self, chunks: Iterator[bytes], name: str) -> tuple[str, Analysis]:
        """Bring a sound in and wait for it. Gives its key and its analysis."""
        received, part = self.folder.receive(chunks, name, 1 << 62)
        target = self.folder.analysis(received.key)
        future = self.workers.submit(
            "analysis", tasks.analyse_sound, str(part), str(target), received.key, str(part) + ".notes"
        )
        facts = future.result()
        kept = self.folder.keep(self.db, received, part)
        media.set_facts(self.db, kept.key, facts)
        return kept.key, Analysis(target)

    def bring_clip_now(self, chunks: Iterator[bytes], name: str) -> str:
        """Bring a clip in and wait until it is prepared. Gives its key."""
        received, part = self.folder.receive(chunks, name, 1 << 62)
        task = (str(part), str(self.folder.clip(received.key)), str(part) + ".notes")
        facts = self.workers.submit("analysis", tasks.prepare_footage, *task).result()
        Path(task[2]).unlink(missing_ok=True)
        kept = self.folder.keep(self.db, received, part)
        media.set_facts(self.db, kept.key, facts | {"clip": True})
        return kept.key

    def store_document(self, document: Document) -> str:
        """Store a new project and give its id."""
        return projects.create(self.db, document)

    def import_share(self, ident: str) -> float:
        """How far an import is, 0 to 1."""
        try:
            return float(self._notes(ident).read_text())
        except (OSError, ValueError):
            return 0.0

    def import_wave(self, key: str, columns: int) -> NDArray[np.float32]:
        """The waveform of a recording on its way in, as far as it has been read; see `growing_overview`."""
        found = self.recording(key)
        if found is not None:
            return found.overview(0.0, found.facts.duration_s, columns)
        return growing_overview(self.folder.analysis(key), columns)

    def cancel_import(self, ident: str) -> None:
        Path(f"{self._notes(ident)}.cancel").touch()

    def recording(self, key: str) -> Analysis | None:
        """The stored analysis of a recording, or None."""
        folder = self.folder.analysis(key)
        return Analysis(folder) if is_current(folder) else None

    def sources(self, document: Document) -> Sources | None:
        """Where the sound of a document lies, if it is here."""
        files, clips = {}, {}
        for key in media_keys(document):
            row = media.find(self.db, key)
            if row is not None and self.folder.original(row).exists():
                files[key] = str(self.folder.original(row))
                if self.folder.clip(key).exists():
                    clips[key] = str(self.folder.clip(key))
        for track in document.get("tracks", []):
            row = media.find(self.db, track["media"])
            if row is not None and is_current(self.folder.analysis(row.key)):
                return Sources(str(self.folder.original(row)), str(self.folder.analysis(row.key)), files, clips)
        return Sources(media=files, clips=clips) if files else None

    def missing_media(self, document: Document) -> list[dict[str, Any]]:
        """Pictures and clips of a document whose files are not here, with the layers that show them."""
        sources = self.sources(document)
        here = sources.media if sources else {}
        out = []
        for key in sorted(media_keys(document) - here.keys()):
            shown = [layer["name"] for layer in document["layers"] if key in layer["settings"].values()]
            row = media.find(self.db, key)
            out.append({"key": key, "name": row.name if row else "", "layers": shown})
        return out

    def keep_picture(self, data: bytes, name: str) -> dict[str, Any]:
        """Keep a picture that was brought in. Gives its content hash and size. Raises PictureError."""
        width, height, suffix = check_picture(data)
        received, part = self.folder.receive(iter([data]), name, 1 << 62)
        kept = self.folder.keep(self.db, replace(received, suffix=suffix), part)
        facts = {"picture": True, "width": width, "height": height}
        media.set_facts(self.db, kept.key, facts)
        return {"key": kept.key, "name": kept.name, "width": width, "height": height}

    def quickly(self, task: Callable[..., Any], /, *values: Any) -> Any:
        """Run a task that somebody waits for on the preview workers. Raises TimeoutError after a minute."""
        for _ in range(2):
            pool = self.workers.pool("preview")
            try:
                return pool.submit(task, *values).result(timeout=_PATIENCE_S)
            except BrokenProcessPool:
                # A worker was ended from outside: once more on a new pool.
                self.workers.replace("preview", pool)
        raise TimeoutError

    def _notes(self, ident: str) -> Path:
        return self.folder.incoming / f"{ident}.notes"

    def _run_import(self, ident: str) -> None:
        row = imports.find(self.db, ident)
        assert row is not None
        part = self.folder.incoming / row.part
        state, sentence, project = "failed", "", None
        try:
            project = self._bring_in(ident, row, part)
            state = "done"
        except Cancelled:
            state = "cancelled"
        except (SoundError, ClipError, projects.StoreError) as problem:
            sentence = str(problem)
        except BrokenProcessPool:
            sentence = _CRASHED
        except OSError as problem:
            sentence = f"The file could not be kept: {problem.strerror}. Make room on the disk."
        except Exception:
            logging.getLogger(__name__).exception("import")
            sentence = "Something went wrong while reading this file. Try it once more."
        if self._stopping.is_set() and state != "done":
            return  # the next start goes on with it
        part.unlink(missing_ok=True)
        for left in self.folder.incoming.glob(f"{ident}.notes*"):
            left.unlink(missing_ok=True)
        imports.end(self.db, ident, state, sentence, project)

    def _bring_in(self, ident: str, row: imports.ImportRow, part: Path) -> str:
        """Analyse a received file, keep it, and put it to use. Gives the project's id."""
        if row.purpose.get("clip"):
            return self._bring_clip(ident, row, part)
        target, notes = self.folder.analysis(row.media.key), self._notes(ident)
        future = self.workers.submit("analysis", tasks.analyse_sound, str(part), str(target), row.media.key, str(notes))
        facts = future.result()
        kept = self.folder.keep(self.db, row.media, part)
        media.set_facts(self.db, kept.key, facts)
        return self._put_to_use(row.purpose, kept, row.media.name, facts)

    def _bring_clip(self, ident: str, row: imports.ImportRow, part: Path) -> str:
        """Prepare a received clip and keep it. Gives the id of the project that it is for."""
        target, notes = self.folder.clip(row.media.key), self._notes(ident)
        future = self.workers.submit("analysis", tasks.prepare_footage, str(part), str(target), str(notes))
        facts = future.result()
        kept = self.folder.keep(self.db, row.media, part)
        media.set_facts(self.db, kept.key, facts | {"clip": True})
        return str(row.purpose.get("project", ""))

    def _prepare_kept(self, key: str) -> None:
        """Prepare a clip whose original is here; until that is done previews read the original."""
        row = media.find(self.db, key)
        if row is None:
            return
        notes = self.folder.incoming / f"{key}.notes"
        try:
            task = (str(self.folder.original(row)), str(self.folder.clip(key)), str(notes))
            facts = self.workers.submit("analysis", tasks.prepare_footage, *task).result()
            media.set_facts(self.db, key, facts | {"clip": True})
        except (ClipError, BrokenProcessPool, OSError, RuntimeError):
            logging.getLogger(__name__).exception("clip %s", key)
        notes.unlink(missing_ok=True)

    def _put_to_use(self, purpose: dict[str, Any], kept: MediaRow, name: str, facts: dict[str, Any]) -> str:
        track = new_track(kept.key, name, facts["duration_s"])
        if purpose.get("document"):
            return projects.create(self.db, purpose["document"])
        if purpose.get("project"):
            row = projects.find(self.db, purpose["project"])
            if row is None:
                raise projects.StoreError("The project was deleted while its sound was being read.")
            patch = [{"op": "replace", "path": "/tracks", "value": [track]}]
            projects.edit(self.db, row.id, row.revision, "Replace the sound", patch, apply)
            return row.id
        layers = starting_design(self.recording(kept.key))
        title = Path(name).stem[:200].strip() or "Untitled"
        document = new_document(title, frame=FRAMES["wide"], rate=RATES["30"], layers=layers, track=track)
        return projects.create(self.db, document)

    # Exports

    def begin_export(self, project_id: str, name: str, document: Document, plan: dict[str, Any]) -> str:
        ident = exports.create(self.db, project_id, name, document, plan)
        self._start(self._run_export, ident)
        return ident

    def again(self, ident: str) -> None:
        """Go on with an export that ended early."""
        self._cancelled.discard(ident)
        exports.set_state(self.db, ident, "waiting")
        self._start(self._run_export, ident)

    def cancel_export(self, ident: str) -> None:
        """Stop an export; one that still waits for its turn is cancelled at once."""
        self._cancelled.add(ident)
        row = exports.find(self.db, ident)
        if row is not None and row.state == "waiting":
            exports.set_state(self.db, ident, "cancelled")

    def export_file(self, ident: str) -> Path:
        return self.export_folder / ident / "video.mp4"

    def _run_export(self, ident: str) -> None:
        with self._one_export:
            row = exports.find(self.db, ident)
            # It may have been cancelled while it waited, or done by a turn that was asked for before.
            if row is None or row.state not in ("waiting", "running") or self._stopping.is_set():
                return
            folder = self.export_folder / ident
            job = Job(row.document, self.sources(row.document), ExportPlan(**row.plan), str(folder))
            exports.set_progress(self.db, ident, row.done)
            try:
                executor = self.workers.pool("export")
                run_export(
                    job,
                    executor,
                    self.workers.exporters,
                    self.export_file(ident),
                    lambda done: exports.set_progress(self.db, ident, done),
                    lambda: ident in self._cancelled or self._stopping.is_set(),
                )
                exports.set_state(self.db, ident, "done")
                for segment in folder.glob("segment-*"):
                    segment.unlink()
            except Cancelled:
                if not self._stopping.is_set():
                    exports.set_state(self.db, ident, "cancelled")
            except (DeliverError, SoundError) as problem:
                exports.set_state(self.db, ident, "failed", str(problem))
            except BrokenProcessPool:
                self.workers.replace("export", executor)
                if not self._stopping.is_set():
                    exports.set_state(self.db, ident, "failed", "A worker process ended early. Export again to go on.")
            except Exception:
                if not self._stopping.is_set():
                    exports.set_state(self.db, ident, "failed", "Something went wrong. Export again to go on.")
                    raise

    def _start(self, work: Any, ident: str) -> None:
        threading.Thread(target=work, args=(ident,), daemon=True, name=f"{work.__name__}-{ident}").start()


def _pieces(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            yield piece
