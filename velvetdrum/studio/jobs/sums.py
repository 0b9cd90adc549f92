"""Sums of tracks, and the parts of sounds that are heard: analysed when a project first needs them, and kept.

A sum is named by what it sounds like. What is not here yet is made in the background; pictures hear the last sum of the
project meanwhile, if there was one, and a page plays that until the new one is there. Exports wait for it.
"""

from __future__ import annotations

import shutil
import threading
import time
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from cachetools import LRUCache

from velvetdrum.audio.analysis import is_current
from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.deliver.export import Sources
from velvetdrum.limits.door import Bounds, Unreadable
from velvetdrum.mix.placed_track import MixSpec
from velvetdrum.scene.document import Document
from velvetdrum.scene.tracks import Tracks
from velvetdrum.scene.tracks_section import listened, parse_tracks
from velvetdrum.store import media
from velvetdrum.studio.workers import mix_tasks
from velvetdrum.studio.workers.pools import ListeningTask

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

MOST_KEPT = 60
"""Sums that are kept: the ones that were asked for least are made anew when they are."""
_HEAVY = "The sum of these tracks takes more time or memory than a sound may. Use fewer, or shorter ones."
_NO_ROOM = "The sum of the tracks could not be kept. Make room on the disk, then change any of them."
_BYTES = 3_000_000_000
_LEAST_S, _A_SECOND = 120.0, 0.5
_ASKED_S = 0.1


@dataclass(frozen=True)
class SumState:
    """How far the sound of a project is: under which key it is heard, whether all of it is here, how far what is not,
    0 to 1, and what went wrong, as a sentence."""

    key: str
    ready: bool
    share: float
    sentence: str


class Sums:
    """The sums of all projects."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._folder = services.data / "sums"
        self._making: dict[str, Path] = {}
        self._faults: dict[str, str] = {}
        self._last: LRUCache[str, Path] = LRUCache(256)
        self._lock = threading.Lock()

    def folder(self, key: str) -> Path:
        """Where the analysis of a sum lies, by its key."""
        return self._folder / key

    def sources(self, document: Document, files: dict[str, str], clips: dict[str, str]) -> Sources | None:
        """Where the sound of a document lies; None where it has none, or where all of it is still being made."""
        sound = parse_tracks(document, [])
        if sound is None:
            return None
        here = self._services
        originals, analyses = self._recordings(sound)
        heard = {
            name: str(folder)
            for name, (_, folder) in self._wanted(document, sound).items()
            if name and is_current(folder)
        }
        if sound.single:
            key = sound.key
            if key not in originals:
                return None
            return Sources(originals[key], str(here.folder.analysis(key)), files, clips, heard=heard)
        self.state(document)
        folder, first = self.folder(sound.key), sound.tracks[0].id
        if is_current(folder):
            self._last[first] = folder
        elif (last := self._last.get(first)) is None or not is_current(last):
            return None
        else:
            # Until the sum is made, pictures hear what it was before.
            folder = last
        return Sources("", str(folder), files, clips, sound.mix.plain(), originals, analyses, heard)

    def state(self, document: Document) -> SumState:
        """How far the sound of a document is. What is missing is begun."""
        sound = parse_tracks(document, [])
        if sound is None:
            return SumState("", True, 1.0, "")
        missing = [(spec, folder) for spec, folder in self._wanted(document, sound).values() if not is_current(folder)]
        for spec, _ in missing:
            self._begin(spec, sound)
        keys = [spec.key for spec, _ in missing]
        faults = [self._faults[key] for key in keys if key in self._faults]
        share = sum(self._share(key) for key in keys) / len(keys) if keys else 1.0
        return SumState(sound.key, not missing, share, faults[0] if faults else "")

    def folder_of(self, document: Document, name: str) -> Path | None:
        """Where the analysis of what a name stands for lies, the sum's without one; None while it is not here."""
        sound = parse_tracks(document, [])
        if sound is None:
            return None
        if not name and sound.single:
            folder = self._services.folder.analysis(sound.key)
        else:
            spec = sound.heard(name)
            known = self._wanted(document, sound).get(name)
            folder = known[1] if known else self.folder(spec.key if spec else "none")
        return folder if is_current(folder) else None

    def voice_key(self, document: Document) -> str | None:
        """The key under which the voices alone are heard, which are made where they are not here; None where words are
        to be found in all that sounds."""
        sound = parse_tracks(document, [])
        voices = sound.voices if sound else None
        if sound is None or voices is None:
            return None
        if not is_current(self.folder(voices.key)):
            self._begin(voices, sound)
        return voices.key

    def finish(self, key: str) -> None:
        """Wait until what is being made under a key is made, or can't be."""
        while key in self._making and not self._services.stopping.wait(_ASKED_S):
            pass

    def analyses(self, document: Document) -> dict[str, str]:
        """The analyses of a document's recordings that are here, by content hash."""
        sound = parse_tracks(document, [])
        return self._recordings(sound)[1] if sound else {}

    def wait(self, document: Document) -> None:
        """Wait until the sound of a document is here. Raises SoundError with a sentence where that can't be."""
        while not (state := self.state(document)).ready:
            if state.sentence:
                raise SoundError(state.sentence)
            if self._services.stopping.wait(_ASKED_S):
                raise Cancelled

    def _wanted(self, document: Document, sound: Tracks) -> dict[str, tuple[MixSpec, Path]]:
        """What a document needs beside its recordings, by the names that it hears it under; the sum's is empty."""
        out: dict[str, tuple[MixSpec, Path]] = {}
        if not sound.single:
            out[""] = sound.mix, self.folder(sound.key)
        for name in listened(document):
            spec = sound.heard(name)
            if spec is None:
                continue
            own = self._services.folder.analysis(sound.key)
            if not sound.single or spec.part != "all":
                out[name] = spec, self.folder(spec.key)
            elif is_current(own):
                out[name] = spec, own
        return out

    def _recordings(self, sound: Tracks) -> tuple[dict[str, str], dict[str, str]]:
        here = self._services
        originals, analyses = {}, {}
        for key in {track.media for track in sound.tracks}:
            row = media.find(here.db, key)
            if row is not None and is_current(here.folder.analysis(key)):
                originals[key] = str(here.folder.original(row))
                analyses[key] = str(here.folder.analysis(key))
        return originals, analyses

    def _share(self, key: str) -> float:
        notes = self._making.get(key)
        try:
            return float(notes.read_text()) if notes else 0.0
        except (OSError, ValueError):
            return 0.0

    def _begin(self, spec: MixSpec, sound: Tracks) -> None:
        key = spec.key
        with self._lock:
            if key in self._making or key in self._faults:
                return
            self._making[key] = self._services.folder.incoming / f"{key}.notes"
        self._services.start(lambda _: self._made(spec, sound), key)

    def _made(self, spec: MixSpec, sound: Tracks) -> None:
        here, key = self._services, spec.key
        notes = self._making[key]
        try:
            self._folder.mkdir(exist_ok=True)
            self._make_room()
            bounds = Bounds(_LEAST_S + _A_SECOND * spec.end_s * len(spec.tracks), _BYTES)
            task = (spec.plain(), *self._recordings(sound), str(self.folder(key)), str(notes))
            here.listen(ListeningTask.SUM, bounds, mix_tasks.analyse_sum, *task)
        except SoundError as problem:
            self._faults[key] = str(problem)
        except (Unreadable, BrokenProcessPool, MemoryError):
            self._faults[key] = _HEAVY
        except OSError:
            self._faults[key] = _NO_ROOM
        finally:
            notes.unlink(missing_ok=True)
            with self._lock:
                self._making.pop(key, None)

    def _make_room(self) -> None:
        kept = sorted(self._folder.iterdir(), key=_last_use)
        for old in kept[: max(len(kept) - MOST_KEPT + 1, 0)]:
            if ".part-" not in old.name:
                shutil.rmtree(old, ignore_errors=True)

    def forget_faults(self) -> None:
        """Try again what could not be made: a recording may have come back."""
        self._faults.clear()


def _last_use(folder: Path) -> float:
    try:
        return folder.stat().st_mtime
    except OSError:
        return time.time()
