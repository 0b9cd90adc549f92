"""Words on their way to their times: in the background, with progress, cancelled on demand, gone on with later."""

from __future__ import annotations

import logging
import sqlite3
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import TYPE_CHECKING, Any

from velvetdrum.audio.errors import Cancelled
from velvetdrum.limits.process import OverTime
from velvetdrum.store import alignments
from velvetdrum.store.alignments import AlignmentRow
from velvetdrum.studio import word_tasks
from velvetdrum.studio.outcomes import Outcomes
from velvetdrum.studio.workers import Listening
from velvetdrum.words.cues import CueError

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services


class Alignments:
    """Alignments, each in a thread that waits for the workers."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._outcomes = Outcomes(services.stopping)

    def find(self, ident: str) -> AlignmentRow | None:
        """The alignment with an id, as it is by now; None when there is none."""
        row = alignments.find(self._services.db, ident)
        return self._outcomes.of(row) if row else None

    def take(self, ident: str) -> None:
        """Keep that a page has what was found, or has said why nothing was."""
        row = self.find(ident)
        if row is not None and row.state in ("done", "failed"):
            alignments.end(self._services.db, ident, "taken", row.sentence)
            self._outcomes.forget(ident)

    def resume(self) -> None:
        """Go on with those that a stopped server left."""
        for row in alignments.unfinished(self._services.db):
            self._services.start(self._run, row.id)

    def begin(self, project: str, wanted: dict[str, Any]) -> str:
        """Align words in the background; gives the id under which to ask for its progress."""
        ident = alignments.create(self._services.db, project, wanted)
        self._services.start(self._run, ident)
        return ident

    def share(self, ident: str) -> float:
        """How far it is, 0 to 1."""
        try:
            return float(self._notes(ident).read_text())
        except (OSError, ValueError):
            return 0.0

    def cancel(self, ident: str) -> None:
        """Stop it; what is in the project stays as it is."""
        Path(f"{self._notes(ident)}.cancel").touch()

    def _notes(self, ident: str) -> Path:
        return self._services.folder.incoming / f"{ident}.words"

    def _run(self, ident: str) -> None:
        here = self._services
        row = self._outcomes.read(lambda: alignments.find(here.db, ident))
        if row is None:
            return
        state, sentence, found = "failed", "", None
        try:
            recording = here.recording(row.wanted["media"])
            if recording is None:
                raise CueError("The recording is no longer here; bring it in again.")
            task = (str(recording.folder), row.wanted, str(self._notes(ident)))
            found = here.workers.listen(Listening.ALIGNMENT, word_tasks.align_words, *task)
            state = "done"
        except Cancelled:
            state = "cancelled"
        except CueError as problem:
            sentence = str(problem)
        except (BrokenProcessPool, OverTime, MemoryError):
            sentence = "Aligning these words took more time or memory than it may. Try a shorter stretch."
        except (OSError, sqlite3.Error):
            sentence = "The data folder can't be used just now. Make room on the disk, then try again."
        except Exception:
            logging.getLogger(__name__).exception("alignment")
            sentence = "Something went wrong while the words were aligned. Try it once more."
        if here.stopping.is_set() and state != "done":
            return  # the next start goes on with it
        for left in here.folder.incoming.glob(f"{ident}.words*"):
            left.unlink(missing_ok=True)
        told = {"state": state, "sentence": sentence, "found": found}
        self._outcomes.settle(ident, told, lambda: alignments.end(here.db, ident, state, sentence, found))
