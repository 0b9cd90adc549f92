"""Files on their way in: analysed in the background, tried again when a worker died, kept when they can be used."""

from __future__ import annotations

import logging
import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import jsonpatch
import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis import growing_overview, is_current
from velvetdrum.audio.decode import MAX_SECONDS
from velvetdrum.audio.errors import SoundError
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.limits.door import Unreadable
from velvetdrum.looks.default_design import design_on_film, nearest_frame, starting_design
from velvetdrum.picture.media.clips.index import ClipError
from velvetdrum.picture.media.cube_files import MOST_BYTES as MOST_TABLE
from velvetdrum.picture.media.cube_files import CubeError
from velvetdrum.picture.media.pictures import PictureError
from velvetdrum.picture.typesetting.typeface_files import MOST_BYTES as MOST_TYPEFACE
from velvetdrum.picture.typesetting.typeface_files import TypefaceError
from velvetdrum.scene.document import Document, ProjectError, media_keys, new_document, new_track
from velvetdrum.scene.edits import apply, upgrade_step
from velvetdrum.scene.frames import FRAMES, RATES, nearest_rate
from velvetdrum.scene.track_roles import added_track
from velvetdrum.scene.tracks import MOST_TRACKS
from velvetdrum.scene.tracks_section import listening_to_the_sum
from velvetdrum.store import imports, media, projects
from velvetdrum.store.imports import ImportRow
from velvetdrum.store.media import MOST_PICTURE, MediaRow
from velvetdrum.store.shelf import LONGEST_NAME, LOOKS
from velvetdrum.studio.jobs.background import BackgroundJob
from velvetdrum.studio.workers import signal_tasks, tasks
from velvetdrum.studio.workers.pools import ListeningTask

_TRIES = 20
_CRASHED = (
    "Reading this file took more time or memory than any recording needs, or crashed the decoder: it is damaged. "
    "Open it in another program and save it anew."
)


class Imports(BackgroundJob[ImportRow]):
    """Recordings and clips that come in."""

    rows = imports
    threads = 8
    refusals = (
        SoundError,
        ClipError,
        PictureError,
        TypefaceError,
        CubeError,
        DeliverError,
        ProjectError,
        projects.StoreError,
    )
    heavy = _CRASHED
    no_room = "The file could not be kept. Make room on the disk, then bring it in again."
    fault = "Something went wrong while reading this file. Try it once more."

    def resume(self) -> None:
        self._services.folder.sweep({row.part for row in imports.unfinished(self._services.db)})
        super().resume()

    def begin(self, received: MediaRow, part: Path, purpose: dict[str, Any]) -> dict[str, str]:
        """Analyse a received file in the background; gives the id under which to ask for its progress."""
        try:
            ident = imports.create(self._services.db, received, part.name, purpose)
        except sqlite3.Error:
            part.unlink(missing_ok=True)
            raise
        self.run(ident)
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

    def share(self, ident: str) -> float:
        """How far an import is, 0 to 1."""
        try:
            return float(self._notes(ident).read_text())
        except (OSError, ValueError):
            return 0.0

    def opening(self, row: ImportRow) -> str:
        """Where the analysis of a recording's first seconds lies; empty where there is none yet, or no longer."""
        folder = self._services.folder.opening(row.media.key)
        return str(folder) if is_current(folder) else ""

    def wave(self, key: str, columns: int) -> NDArray[np.float32]:
        """The waveform of a recording on its way in, as far as it has been read; see `growing_overview`."""
        result = self._services.recording(key)
        if result is not None:
            return result.overview(0.0, result.facts.duration_s, columns)
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
            facts = here.listen(ListeningTask.CLIP, tasks.clip_bounds(task[0]), tasks.prepare_footage, *task)
            media.set_facts(here.db, key, facts | {"clip": True})
        except (ClipError, Unreadable, OSError, RuntimeError):
            logging.getLogger(__name__).exception("clip %s", key)
        notes.unlink(missing_ok=True)

    def _notes(self, ident: str) -> Path:
        return self._services.folder.incoming / f"{ident}.notes"

    def work(self, row: ImportRow) -> dict[str, Any]:
        """Analyse or prepare a received file, keep it, and put it to use."""
        part = self._services.folder.incoming / row.part
        project, notes = self._bring_in(row.id, row, part)
        return {"sentence": " ".join(notes), "project_id": project}

    def clean(self, row: ImportRow) -> None:
        folder = self._services.folder.incoming
        for left in (folder / row.part, *folder.glob(f"{row.id}.notes*")):
            left.unlink(missing_ok=True)
        shutil.rmtree(self._services.folder.opening(row.media.key), ignore_errors=True)

    def write(self, ident: str, outcome: dict[str, Any]) -> None:
        imports.end(self._services.db, ident, outcome["state"], outcome["sentence"], outcome.get("project_id"))

    def _bring_in(self, ident: str, row: ImportRow, part: Path) -> tuple[str, list[str]]:
        """The id of the project that it belongs to now, and what a person should know of that, as sentences."""
        here, notes = self._services, str(self._notes(ident))
        if row.purpose.get("project_file"):
            return self._open_project_file(part, notes)
        if row.purpose.get("clip"):
            task = (str(part), str(here.folder.clip(row.media.key)), notes)
            facts = here.listen(ListeningTask.CLIP, tasks.clip_bounds(task[0]), tasks.prepare_footage, *task)
            kept = here.folder.keep(here.db, row.media, part)
            media.set_facts(here.db, kept.key, facts | {"clip": True})
            return str(row.purpose.get("project", "")), []
        new = not row.purpose.get("project")
        film = here.read(tasks.film_facts, str(part)) if new else None
        if film is not None and not film["heard"]:
            return self._silent_film(row.media, part, film)
        kept, facts = self._keep_sound(row.media, part, notes, new=new)
        track = new_track(kept.key, row.media.name, facts["duration_s"])
        if row.purpose.get("track"):
            return self._add(str(row.purpose["project"]), track, facts["duration_s"])
        if not new:
            return self._replace(str(row.purpose["project"]), track)
        if film is not None:
            media.set_facts(here.db, kept.key, facts | {"clip": True})
            here.start(self.prepare_kept, kept.key)
        return self._new_project(track, film), []

    def _keep_sound(
        self, received: MediaRow, part: Path, notes: str, new: bool = False
    ) -> tuple[MediaRow, dict[str, Any]]:
        """A received recording, analysed and kept, with its facts; its opening first where looks wait for it."""
        here = self._services
        opening = str(here.folder.opening(received.key)) if new else ""
        sound = (str(part), str(here.folder.analysis(received.key)), received.key, notes, opening)
        facts = here.listen(ListeningTask.IMPORT, tasks.sound_bounds(sound[0]), tasks.analyse_sound, *sound)
        kept = here.folder.keep(here.db, received, part)
        media.set_facts(here.db, kept.key, facts)
        return kept, facts

    def _open_project_file(self, part: Path, notes: str) -> tuple[str, list[str]]:
        """The project of a `.vdrum` file, with all that it brings; what is here already is not read again. A look
        without a sound goes to the others of its kind."""
        here = self._services
        folder = here.folder.incoming / f"{part.name}.unpacked"
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir()
        try:
            task = (str(part), str(folder))
            try:
                document, result = here.listen(
                    ListeningTask.PROJECT_FILE, tasks.bundle_bounds(task[0]), tasks.unpack_bundle, *task
                )
            except Unreadable as problem:
                raise DeliverError("This project file takes more time or memory to read than any needs.") from problem
            files = {key: Path(file) for key, file in result.items()}
            for key in media_keys(document, "picture") & files.keys():
                here.keep_picture(_pieces_of(files.pop(key), MOST_PICTURE, "A picture"), f"Picture {key[:8]}")
            for key in media_keys(document, "typeface") & files.keys():
                here.keep_typeface(
                    b"".join(_pieces_of(files.pop(key), MOST_TYPEFACE, "A typeface")), f"Typeface {key[:8]}"
                )
            for key in media_keys(document, "table") & files.keys():
                here.keep_table(b"".join(_pieces_of(files.pop(key), MOST_TABLE, "A look-up table")), f"Table {key[:8]}")
            for key in media_keys(document, "footage") & files.keys():
                file = files.pop(key)
                here.keep_file(file, f"Clip {key[:8]}{file.suffix}", file.suffix, {"clip": True})
                here.start(self.prepare_kept, key)
            for key, file in files.items():
                if here.recording(key) is None or media.find(here.db, key) is None:
                    name = next(track["name"] for track in document["tracks"] if track["media"] == key)
                    received, sound = here.folder.receive(pieces(file), f"{name}{file.suffix}", 1 << 62)
                    try:
                        self._keep_sound(received, sound, notes)
                    finally:
                        sound.unlink(missing_ok=True)
            if document.get("look") and not document["tracks"]:
                LOOKS.save(here.db, document["name"][:LONGEST_NAME], document)
                return "", [f"{document['name']} is a look. It stands among the looks of every sound, under Mine."]
            return projects.create(here.db, document), []
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def _new_project(self, track: Document, film: dict[str, Any] | None) -> str:
        """The id of a project of a recording, with its film if it has one."""
        here = self._services
        recording, title = here.recording(track["media"]), title_of(track["name"])
        if film is None:
            layers = starting_design(recording)
            document = new_document(title, frame=FRAMES["wide"], rate=RATES["30"], layers=layers, track=track)
        else:
            layers = design_on_film(track["media"], recording)
            frame = nearest_frame(film["width"], film["height"])
            document = new_document(title, frame=frame, rate=nearest_rate(film["rate"]), layers=layers, track=track)
        return projects.create(here.db, document)

    def _silent_film(self, received: MediaRow, part: Path, film: dict[str, Any]) -> tuple[str, list[str]]:
        """A project of a film without sound, as long as it is."""
        here = self._services
        kept = here.folder.keep(here.db, received, part)
        media.set_facts(here.db, kept.key, {"clip": True})
        here.start(self.prepare_kept, kept.key)
        document = new_document(
            title_of(received.name),
            frame=nearest_frame(film["width"], film["height"]),
            rate=nearest_rate(film["rate"]),
            layers=design_on_film(kept.key, None),
        )
        note = f"{received.name} has no sound in it: it is here as a picture that moves. Drop a sound on the page."
        return projects.create(here.db, document | {"length_s": min(max(film["length_s"], 0.1), MAX_SECONDS)}), [note]

    def _add(self, ident: str, track: Document, duration_s: float) -> tuple[str, list[str]]:
        """Put a track beside a project's others, in one step."""
        here = self._services
        here.sums.forget_faults()
        for _ in range(_TRIES):
            row = projects.find(here.db, ident)
            if row is None:
                raise projects.StoreError("The project was deleted while its sound was being read.")
            if len(row.document["tracks"]) >= MOST_TRACKS:
                raise SoundError(f"A project has up to {MOST_TRACKS} tracks. Mix some of them into one file first.")
            patch = added_track(row.document, track, duration_s)
            patch += self._stem_signals(row.document, patch)
            label = f"Add the track {title_of(track['name'])}"[:120]
            try:
                projects.edit(here.db, row.id, row.revision, label, patch, apply, upgrade_step)
                return row.id, []
            except projects.Conflict:
                # Another file of the same drop, or an edit, came between.
                continue
        raise projects.StoreError("The project was edited all the while. Add the track once more.")

    def _stem_signals(self, document: Document, patch: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Signals for a new stem, and for the first one where it is the second; none for a track that is no stem."""
        tracks, added = document["tracks"], patch[-1]["value"]
        if not tracks or "at_s" in added or not added["settings"].get("role"):
            return []
        first = [tracks[0] | {"settings": patch[0]["value"]}] if patch[0]["path"] == "/tracks/0/settings" else []
        stems = [
            (track, str(recording.folder), number)
            for number, track in enumerate((*first, added), len(tracks) - len(first))
            if (recording := self._services.recording(track["media"])) is not None
        ]
        signals = self._services.quickly(signal_tasks.stem_signals, stems)
        return [{"op": "add", "path": "/signals/-", "value": signal} for signal in signals]

    def _replace(self, ident: str, track: Document) -> tuple[str, list[str]]:
        """Put a track in place of a project's own, with all that hears it fitted to the new one, in one step."""
        here = self._services
        row = projects.find(here.db, ident)
        if row is None:
            raise projects.StoreError("The project was deleted while its sound was being read.")
        before = here.recording(row.document["tracks"][0]["media"]) if row.document["tracks"] else None
        after = here.recording(track["media"])
        document = listening_to_the_sum(row.document)
        patch, notes = jsonpatch.make_patch(row.document, document).patch, []
        if before is not None and after is not None:
            fitted, notes = here.quickly(tasks.refit, document, str(before.folder), str(after.folder), track)
            patch = jsonpatch.make_patch(row.document, fitted | {"tracks": row.document["tracks"]}).patch
        patch.append({"op": "replace", "path": "/tracks", "value": [track]})
        if row.document.get("used") is not None:
            patch.append({"op": "remove", "path": "/used"})
        here.sums.forget_faults()
        projects.edit(here.db, row.id, row.revision, "Replace the sound", patch, apply, upgrade_step)
        return row.id, notes


def title_of(name: str) -> str:
    """What a project is called after a file's name."""
    return Path(name).stem[:200].strip() or "Untitled"


def _pieces_of(path: Path, most: int, what: str) -> Iterator[bytes]:
    """A file of a project file, piece by piece. Raises DeliverError for one that would not be taken alone."""
    if path.stat().st_size > most:
        raise DeliverError(f"{what} in this project file is larger than the {most // 1_000_000} MB that are taken.")
    return pieces(path)


def pieces(path: Path) -> Iterator[bytes]:
    """A file's bytes, piece by piece."""
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            yield piece
