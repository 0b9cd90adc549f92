"""Files on their way in: analysed in the background, tried again when a worker died, kept when they can be used."""

from __future__ import annotations

import logging
import secrets
import shutil
import sqlite3
from collections.abc import Iterator
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis import growing_overview
from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.limits.process import OverTime
from velvetdrum.looks.default_design import starting_design
from velvetdrum.picture.media.clips.index import ClipError
from velvetdrum.picture.media.pictures import PictureError
from velvetdrum.scene.document import media_keys, new_document, new_track
from velvetdrum.scene.edits import apply, upgrade_step
from velvetdrum.scene.frames import FRAMES, RATES
from velvetdrum.store import imports, media, projects
from velvetdrum.store.imports import ImportRow
from velvetdrum.store.media import MediaRow
from velvetdrum.studio import tasks
from velvetdrum.studio.outcomes import Outcomes
from velvetdrum.studio.workers import Listening

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

_CRASHED = (
    "Reading this file took more time or memory than any recording needs, or crashed the decoder: it is damaged. "
    "Open it in another program and save it anew."
)


class Imports:
    """What comes in, each in a thread that waits for the workers."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._outcomes = Outcomes(services.stopping)

    def find(self, ident: str) -> ImportRow | None:
        """The import with an id, as it is by now; None when there is none."""
        row = imports.find(self._services.db, ident)
        return self._outcomes.of(row) if row else None

    def resume(self) -> None:
        """Go on with imports that a stopped server left."""
        here = self._services
        waiting = imports.unfinished(here.db)
        here.folder.sweep({row.part for row in waiting})
        for row in waiting:
            here.start(self._run, row.id)

    def begin(self, received: MediaRow, part: Path, purpose: dict[str, Any]) -> dict[str, str]:
        """Analyse a received file in the background; gives the id under which to ask for its progress."""
        try:
            ident = imports.create(self._services.db, received, part.name, purpose)
        except sqlite3.Error:
            part.unlink(missing_ok=True)
            raise
        self._services.start(self._run, ident)
        return {"import": ident}

    def begin_clip(self, received: MediaRow, part: Path, project: str) -> dict[str, str]:
        """Prepare a received clip in the background; gives its key and the id under which to ask for its progress. A
        clip that is here already needs no preparing."""
        here = self._services
        known = media.find(here.db, received.key)
        if known is not None and here.folder.original(known).exists() and here.folder.clip(received.key).exists():
            part.unlink(missing_ok=True)
            return {"key": received.key}
        return {"key": received.key} | self.begin(received, part, {"clip": True, "project": project})

    def open_bundle(self, path: Path) -> dict[str, str]:
        """Bring a `.vdrum` file in: its recording through the usual analysis, its document as a new project."""
        here = self._services
        folder = here.folder.incoming / f"{secrets.token_hex(8)}.unpacked"
        folder.mkdir()
        try:
            try:
                task = (str(path), str(folder))
                document, found = here.workers.listen(Listening.PROJECT_FILE, tasks.unpack_bundle, *task)
            except (BrokenProcessPool, OverTime) as problem:
                raise ClipError("This project file takes more time or memory to read than any needs.") from problem
            files = {key: Path(file) for key, file in found.items()}
            for key in media_keys(document, "picture") & files.keys():
                here.keep_picture(files.pop(key).read_bytes(), f"Picture {key[:8]}")
            for key in media_keys(document, "typeface") & files.keys():
                here.keep_typeface(files.pop(key).read_bytes(), f"Typeface {key[:8]}")
            for key in media_keys(document, "table") & files.keys():
                here.keep_table(files.pop(key).read_bytes(), f"Table {key[:8]}")
            for key in media_keys(document, "footage") & files.keys():
                file = files.pop(key)
                here.keep_file(file, f"Clip {key[:8]}{file.suffix}", file.suffix, {"clip": True})
                here.start(self.prepare_kept, key)
            for key, file in files.items():
                if here.recording(key) is None or media.find(here.db, key) is None:
                    name = next(track["name"] for track in document["tracks"] if track["media"] == key)
                    received, part = here.folder.receive(pieces(file), f"{name}{file.suffix}", 1 << 62)
                    return self.begin(received, part, {"document": document})
            return {"project": projects.create(here.db, document)}
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def share(self, ident: str) -> float:
        """How far an import is, 0 to 1."""
        try:
            return float(self._notes(ident).read_text())
        except (OSError, ValueError):
            return 0.0

    def wave(self, key: str, columns: int) -> NDArray[np.float32]:
        """The waveform of a recording on its way in, as far as it has been read; see `growing_overview`."""
        found = self._services.recording(key)
        if found is not None:
            return found.overview(0.0, found.facts.duration_s, columns)
        return growing_overview(self._services.folder.analysis(key), columns)

    def cancel(self, ident: str) -> None:
        """Stop an import and throw away what was received."""
        Path(f"{self._notes(ident)}.cancel").touch()

    def prepare_kept(self, key: str) -> None:
        """Prepare a clip whose original is here; until that is done previews read the original."""
        here = self._services
        row = media.find(here.db, key)
        if row is None:
            return
        notes = here.folder.incoming / f"{key}.notes"
        try:
            task = (str(here.folder.original(row)), str(here.folder.clip(key)), str(notes))
            facts = here.workers.listen(Listening.CLIP, tasks.prepare_footage, *task)
            media.set_facts(here.db, key, facts | {"clip": True})
        except (ClipError, BrokenProcessPool, OverTime, OSError, RuntimeError):
            logging.getLogger(__name__).exception("clip %s", key)
        notes.unlink(missing_ok=True)

    def _notes(self, ident: str) -> Path:
        return self._services.folder.incoming / f"{ident}.notes"

    def _run(self, ident: str) -> None:
        here = self._services
        row = self._outcomes.read(lambda: imports.find(here.db, ident))
        if row is None:
            return
        part = here.folder.incoming / row.part
        state, sentence, project = "failed", "", None
        try:
            project = self._bring_in(ident, row, part)
            state = "done"
        except Cancelled:
            state = "cancelled"
        except (SoundError, ClipError, PictureError, projects.StoreError) as problem:
            sentence = str(problem)
        except (BrokenProcessPool, OverTime, MemoryError):
            sentence = _CRASHED
        except OSError as problem:
            sentence = f"The file could not be kept: {problem.strerror}. Make room on the disk."
        except sqlite3.Error:
            sentence = "The project could not be stored. Make room on the disk, then bring the file in again."
        except Exception:
            if not here.stopping.is_set():
                logging.getLogger(__name__).exception("import")
            sentence = "Something went wrong while reading this file. Try it once more."
        if here.stopping.is_set() and state != "done":
            return  # the next start goes on with it
        part.unlink(missing_ok=True)
        for left in here.folder.incoming.glob(f"{ident}.notes*"):
            left.unlink(missing_ok=True)
        told = {"state": state, "sentence": sentence, "project_id": project}
        self._outcomes.settle(ident, told, lambda: imports.end(here.db, ident, state, sentence, project))

    def _bring_in(self, ident: str, row: ImportRow, part: Path) -> str:
        """Analyse or prepare a received file, keep it, and put it to use. Gives the project's id."""
        here, notes = self._services, str(self._notes(ident))
        if row.purpose.get("clip"):
            target = str(here.folder.clip(row.media.key))
            facts = here.workers.listen(Listening.CLIP, tasks.prepare_footage, str(part), target, notes)
            kept = here.folder.keep(here.db, row.media, part)
            media.set_facts(here.db, kept.key, facts | {"clip": True})
            return str(row.purpose.get("project", ""))
        target = str(here.folder.analysis(row.media.key))
        facts = here.workers.listen(Listening.IMPORT, tasks.analyse_sound, str(part), target, row.media.key, notes)
        kept = here.folder.keep(here.db, row.media, part)
        media.set_facts(here.db, kept.key, facts)
        return self._put_to_use(row.purpose, kept, row.media.name, facts)

    def _put_to_use(self, purpose: dict[str, Any], kept: MediaRow, name: str, facts: dict[str, Any]) -> str:
        here = self._services
        track = new_track(kept.key, name, facts["duration_s"])
        if purpose.get("document"):
            return projects.create(here.db, purpose["document"])
        if purpose.get("project"):
            row = projects.find(here.db, purpose["project"])
            if row is None:
                raise projects.StoreError("The project was deleted while its sound was being read.")
            patch = [{"op": "replace", "path": "/tracks", "value": [track]}]
            projects.edit(here.db, row.id, row.revision, "Replace the sound", patch, apply, upgrade_step)
            return row.id
        layers = starting_design(here.recording(kept.key))
        title = Path(name).stem[:200].strip() or "Untitled"
        document = new_document(title, frame=FRAMES["wide"], rate=RATES["30"], layers=layers, track=track)
        return projects.create(here.db, document)


def pieces(path: Path) -> Iterator[bytes]:
    """A file's bytes, piece by piece."""
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            yield piece
