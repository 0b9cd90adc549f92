"""The studio's shared parts: the data folder, the database of each thread, and what asks the workers."""

from __future__ import annotations

import hashlib
import json
import logging
import secrets
import shutil
import sqlite3
import threading
import time
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures.process import BrokenProcessPool
from dataclasses import replace
from functools import cached_property, partial
from pathlib import Path
from typing import Any

from cachetools import LRUCache

from velvetdrum.audio.analysis import Analysis, is_current
from velvetdrum.audio.errors import SoundError
from velvetdrum.deliver.export import Sources
from velvetdrum.limits import door
from velvetdrum.limits.openers import kept_outside
from velvetdrum.limits.process import OverTime
from velvetdrum.picture.media.pictures import LEVELS, PictureError, needs_levels
from velvetdrum.scene.document import Document, layer_media, media_keys
from velvetdrum.scene.problems import Problem, ProjectError
from velvetdrum.store import media, projects
from velvetdrum.store.db import Database, Moved, open_database
from velvetdrum.store.media import MediaFolder
from velvetdrum.studio.jobs.alignments import Alignments
from velvetdrum.studio.jobs.batches import Batches
from velvetdrum.studio.jobs.bin import Bin
from velvetdrum.studio.jobs.disk_space import DiskSpace
from velvetdrum.studio.jobs.exports import Exports
from velvetdrum.studio.jobs.imports import Imports, pieces
from velvetdrum.studio.jobs.posts import Posts
from velvetdrum.studio.jobs.reviews import Reviews
from velvetdrum.studio.jobs.sums import Sums
from velvetdrum.studio.workers import tasks
from velvetdrum.studio.workers.drawn_frames import DrawnFrames
from velvetdrum.studio.workers.pools import ListeningTask, Workers
from velvetdrum.studio.workers.scenes import NamedScene

_HEAVY = "{name} takes more time or memory to draw than a picture may. Make it simpler, or hide it."
_REMEMBERED_S = 600
_PATIENCE_S = 60


class Services:
    """One per server. Connections are per thread, as SQLite wants it."""

    def __init__(self, data: Path, *, exporters: int | None = None) -> None:
        self.data = data.resolve()
        self.data.mkdir(parents=True, exist_ok=True)
        self.folder = MediaFolder(self.data)
        self.workers = Workers(exporters=exporters)
        self.stopping = threading.Event()
        self._local = threading.local()
        self._opened = False
        self._heavy: dict[str, float] = {}
        self.drawn = DrawnFrames()
        self._named: LRUCache[tuple[str, int], tuple[float, NamedScene]] = LRUCache(64)
        self._naming = threading.Lock()
        self.demo_coming = False
        self.imports = Imports(self)
        self.alignments = Alignments(self)
        self.exports = Exports(self)
        self.reviews = Reviews(self)
        self.batches = Batches(self)
        self.posts = Posts(self)
        self.bin = Bin(self)
        self.sums = Sums(self)
        self.disk_space = DiskSpace(self)
        self.db  # noqa: B018  (a data folder that can't be used is told at the start)

    @property
    def db(self) -> sqlite3.Connection:
        """This thread's connection. Raises Moved when the file of the database was deleted while the program runs; one
        that was put in its place is opened with the next request."""
        path = self.data / "velvetdrum.sqlite3"
        held: Database | None = getattr(self._local, "db", None)
        if held is not None and not held.is_there:
            del self._local.db
            if path.exists():
                held.set_log_aside()
            held.check()
        if held is None:
            if self._opened and not path.exists():
                raise Moved("the file of the database was deleted")
            held = self._local.db = open_database(path)
            self._opened = True
        return held

    def resume(self) -> None:
        """Go on with what a stopped or killed server left unfinished."""
        for left in self.data.glob("bundle-*"):
            shutil.rmtree(left, ignore_errors=True)
        self.imports.resume()
        self.alignments.resume()
        self.exports.resume()
        self.reviews.resume()
        self.batches.resume()
        self.posts.resume()
        self.bin.purge_old()
        self.start(self.refresh_analyses, "")

    def bring_demo(self) -> None:
        """Make the demo's projects in the background; they stand in the list one by one."""

        from velvetdrum.demo.install import install_demo, is_installed

        def bring(_: str) -> None:
            try:
                install_demo(self)
            except Exception:
                if not self.stopping.is_set():
                    logging.getLogger(__name__).exception("demo")
            finally:
                self.demo_coming = False

        self.demo_coming = not is_installed(self.data)
        if self.demo_coming:
            self.start(bring, "demo")

    def close(self) -> None:
        """End the workers and close the database."""
        self.stopping.set()
        for job in (self.imports, self.alignments, self.reviews, self.batches, self.posts):
            job.close()
        self.workers.close()

    def start(self, work: Callable[[str], None], ident: str) -> None:
        """Run something in the background. As a request it opens no file of others."""

        def run() -> None:
            with kept_outside():
                work(ident)

        threading.Thread(target=run, daemon=True, name=f"{work.__name__}-{ident}").start()

    def refresh_analyses(self, _: str = "") -> None:
        """Make analyses anew that an older version made, or that are gone, from the kept originals."""
        for row in media.listed(self.db):
            if self.stopping.is_set():
                return
            target, original, facts = self.folder.analysis(row.key), self.folder.original(row), row.facts or {}
            if not original.exists():
                continue
            if facts.get("picture"):
                self._refresh_picture(row)
            elif facts.get("clip"):
                if not self.folder.clip(row.key).exists():
                    self.imports.prepare_kept(row.key)
            elif facts.get("typeface") or facts.get("table"):
                continue
            elif not is_current(target):
                notes = self.folder.incoming / f"{row.key}.notes"
                try:
                    task = (str(original), str(target), row.key, str(notes))
                    result = self.listen(ListeningTask.REFRESH, tasks.sound_bounds(task[0]), tasks.analyse_sound, *task)
                    media.set_facts(self.db, row.key, result)
                except (SoundError, BrokenProcessPool, OSError, OverTime):
                    logging.getLogger(__name__).exception("analysis of %s", row.key)
                notes.unlink(missing_ok=True)

    # What is kept

    def bring_now(
        self, chunks: Iterator[bytes], name: str, kind: ListeningTask = ListeningTask.IMPORT
    ) -> tuple[str, Analysis]:
        """Bring a sound in and wait for it. Gives its key and its analysis."""
        received, part = self.folder.receive(chunks, name, 1 << 62)
        target = self.folder.analysis(received.key)
        task = (str(part), str(target), received.key, f"{part}.notes")
        facts = self.listen(kind, tasks.sound_bounds(task[0]), tasks.analyse_sound, *task)
        Path(task[3]).unlink(missing_ok=True)
        kept = self.folder.keep(self.db, received, part)
        media.set_facts(self.db, kept.key, facts)
        return kept.key, Analysis(target)

    def bring_clip_now(self, chunks: Iterator[bytes], name: str) -> str:
        """Bring a clip in and wait until it is prepared. Gives its key."""
        received, part = self.folder.receive(chunks, name, 1 << 62)
        task = (str(part), str(self.folder.clip(received.key)), f"{part}.notes")
        facts = self.listen(ListeningTask.CLIP, tasks.clip_bounds(task[0]), tasks.prepare_footage, *task)
        Path(task[2]).unlink(missing_ok=True)
        kept = self.folder.keep(self.db, received, part)
        media.set_facts(self.db, kept.key, facts | {"clip": True})
        return kept.key

    def keep_picture(self, data: bytes | Iterable[bytes], name: str) -> dict[str, Any]:
        """Keep a picture that was brought in. Gives its content hash and size. Raises PictureError."""
        chunks = [data] if isinstance(data, bytes) else data
        received, part = self.folder.receive(chunks, name, 1 << 62)
        levels = Path(f"{part}{LEVELS}")
        try:
            facts = self.read(tasks.prepare_picture, str(part), str(levels))
            kept = self.folder.keep(self.db, replace(received, suffix=facts.pop("suffix")), part)
            beside = Path(f"{self.folder.original(kept)}{LEVELS}")
            if levels.exists() and not beside.exists():
                levels.rename(beside)
        finally:
            part.unlink(missing_ok=True)
            shutil.rmtree(levels, ignore_errors=True)
        media.set_facts(self.db, kept.key, facts | {"picture": True})
        return {"key": kept.key, "name": kept.name} | facts

    def keep_typeface(self, data: bytes, name: str) -> dict[str, Any]:
        """Keep a typeface that was brought in. Gives its content hash and what it says of itself. Raises
        TypefaceError."""
        return self._keep_read(data, name, "typeface", self.read(tasks.read_typeface, data))

    def keep_table(self, data: bytes, name: str) -> dict[str, Any]:
        """Keep a look-up table that was brought in. Gives its content hash and what it says of itself. Raises
        CubeError."""
        return self._keep_read(data, name, "table", self.read(tasks.read_table, data))

    def _keep_read(self, data: bytes, name: str, sort: str, facts: dict[str, Any]) -> dict[str, Any]:
        received, part = self.folder.receive(iter([data]), name, 1 << 62)
        try:
            kept = self.folder.keep(self.db, replace(received, suffix=facts.pop("suffix")), part)
        finally:
            part.unlink(missing_ok=True)
        media.set_facts(self.db, kept.key, facts | {sort: True})
        return {"key": kept.key, "name": kept.name} | facts

    def keep_file(self, path: Path, name: str, suffix: str, facts: dict[str, Any] | None = None) -> str:
        """Keep a file that was unpacked from a project file. Gives its content hash."""
        received, part = self.folder.receive(pieces(path), name, 1 << 62)
        kept = self.folder.keep(self.db, replace(received, suffix=suffix), part)
        if facts is not None:
            media.set_facts(self.db, kept.key, facts)
        return kept.key

    def store_document(self, document: Document) -> str:
        """Store a new project and give its id; a sum that it hears is begun."""
        self.sums.state(document)
        return projects.create(self.db, document)

    def recording(self, key: str) -> Analysis | None:
        """The stored analysis of a recording, or of a sum; None where there is none yet."""
        for folder in (self.folder.analysis(key), self.sums.folder(key)):
            if is_current(folder):
                return Analysis(folder)
        return None

    def original(self, key: str) -> Path | None:
        """The file of a recording as it came in; None where it is not here."""
        row = media.find(self.db, key)
        path = self.folder.original(row) if row else None
        return path if path and path.exists() else None

    def sources(self, document: Document) -> Sources | None:
        """Where the sound of a document lies, if it is here."""
        files, clips = {}, {}
        for key in media_keys(document):
            row = media.find(self.db, key)
            if row is not None and self.folder.original(row).exists():
                files[key] = str(self.folder.original(row))
                if self.folder.clip(key).exists():
                    clips[key] = str(self.folder.clip(key))
        return self.sums.sources(document, files, clips) or (Sources(media=files, clips=clips) if files else None)

    def missing_media(self, document: Document) -> list[dict[str, Any]]:
        """Pictures and clips of a document whose files are not here, with the layers that show them."""
        sources = self.sources(document)
        here = sources.media if sources else {}
        out = []
        for key in sorted(media_keys(document) - here.keys()):
            shown = [layer["name"] for layer in document["layers"] if key in layer_media(layer)]
            row = media.find(self.db, key)
            out.append({"key": key, "name": row.name if row else "", "layers": shown})
        return out

    @cached_property
    def shipped_typefaces(self) -> list[dict[str, Any]]:
        """The families that ship, drawn once by a worker."""
        families: list[dict[str, Any]] = self.quickly(tasks.shipped_typefaces)
        return families

    def named(self, row: projects.ProjectRow) -> NamedScene:
        """A project as it is now, with its scene: made once for each revision."""
        with self._naming:
            known = self._named.get((row.id, row.revision))
            if known is not None and known[0] == row.changed_at:
                return known[1]
            before = self._named.get((row.id, row.revision - 1))
            named = NamedScene(row.document, before[1], row.patch) if before else NamedScene(row.document)
            self._named[row.id, row.revision] = row.changed_at, named
            return named

    def named_earlier(self, ident: str, revision: int | None) -> NamedScene | None:
        """A project as it was at a revision, where that is one of the last that were asked for."""
        with self._naming:
            known = self._named.get((ident, revision)) if revision else None
        return known[1] if known else None

    # Work that somebody waits for

    def quickly(self, task: Callable[..., Any], /, *values: Any) -> Any:
        """Run a task that somebody waits for on the preview workers.

        Raises TimeoutError after a minute, and ProjectError where a layer of the document (the first value) takes
        more time or memory than a picture may.
        """
        named = values[0] if values and isinstance(values[0], NamedScene) else None
        document = named.document if named else None
        self._refuse_heavy(document)
        try:
            return self._drawn(task, *((named.scene, *values[1:]) if named else values))
        except OverTime as problem:
            self._blame(document, problem.layer)
            raise TimeoutError from problem

    def frames(self, named: NamedScene, numbers: list[int], width: int, form: str) -> bytes:
        """Pictures of frames, packed as `tasks.draw_frames` says; those that are kept are not drawn again."""
        sources = self.sources(named.document)

        def draw(missing: list[int]) -> bytes:
            return bytes(self.quickly(tasks.draw_frames, named, sources, missing, width, form))

        return self.drawn.packed(named.scene.name, sources, numbers, width, form, draw)

    def _drawn(self, task: Callable[..., Any], *values: Any) -> Any:
        pool = self.workers.pool("preview")
        try:
            future = pool.submit(tasks.timed, tasks.PREVIEW_S, task, *values)
            try:
                return future.result(_PATIENCE_S)
            finally:
                # What has not begun by then never does; what runs ends by its own limit.
                future.cancel()
        except BrokenProcessPool:
            self.workers.replace(pool)
        # A worker was ended, by this task, by another one or from outside: once more alone, noting what it draws.
        notes = self.folder.incoming / f"{secrets.token_hex(6)}.at"
        try:
            return self.workers.alone("preview", tasks.watched, str(notes), task, *values)
        except BrokenProcessPool as problem:
            raise OverTime("", notes.read_text() if notes.exists() else "") from problem
        finally:
            notes.unlink(missing_ok=True)

    def read(self, task: Callable[..., Any], /, *values: Any) -> Any:
        """What a task reads out of a small file, through the door, on the worker with the tightest limits. Raises
        Unreadable, and what the task raises."""
        return door.read(task, *values, worker=partial(self.workers.finish, "reading"))

    def listen(self, kind: ListeningTask, bounds: door.Bounds, task: Callable[..., Any], /, *values: Any) -> Any:
        """What a task reads out of a recording, a clip or a project file, through the door, when its kind's turn has
        come. Raises Unreadable, and what the task raises."""
        return door.read(task, *values, bounds=bounds, worker=partial(self.workers.listen, kind))

    def _refuse_heavy(self, document: Document | None) -> None:
        """Refuse at once what was found to take too long a short while ago."""
        now = time.monotonic()
        self._heavy = {name: until for name, until in self._heavy.items() if until > now}
        if not self._heavy or document is None:
            return
        for index, layer in enumerate(document["layers"]):
            if layer.get("visible") and _digest(layer) in self._heavy:
                raise ProjectError([Problem(f"/layers/{index}", _HEAVY.format(name=layer.get("name")))])

    def _blame(self, document: Document | None, ident: str) -> None:
        for index, layer in enumerate(document["layers"] if document else []):
            if ident and layer.get("id") == ident:
                self._heavy[_digest(layer)] = time.monotonic() + _REMEMBERED_S
                raise ProjectError([Problem(f"/layers/{index}", _HEAVY.format(name=layer.get("name")))])

    def _refresh_picture(self, row: media.MediaRow) -> None:
        """Make the levels of a large picture that an older version kept without."""
        facts, original = row.facts or {}, self.folder.original(row)
        levels = Path(f"{original}{LEVELS}")
        if needs_levels(facts.get("width", 0), facts.get("height", 0), row.suffix) and not levels.exists():
            try:
                self.read(tasks.prepare_picture, str(original), str(levels))
            except (PictureError, door.Unreadable, OSError):
                logging.getLogger(__name__).exception("picture %s", row.key)


def _digest(layer: Document) -> str:
    return hashlib.sha256(json.dumps(layer, sort_keys=True).encode()).hexdigest()
