"""Words on their way to their times: in the background, with progress, cancelled on demand, resumed after a restart."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from velvetdrum.store import alignments
from velvetdrum.store.alignments import AlignmentRow
from velvetdrum.studio.jobs.background import BackgroundJob
from velvetdrum.studio.workers import word_tasks
from velvetdrum.studio.workers.pools import ListeningTask
from velvetdrum.words.cues import CueError


class Alignments(BackgroundJob[AlignmentRow]):
    """Alignments of words to a recording."""

    rows = alignments
    refusals = (CueError,)
    heavy = "Aligning these words took more time or memory than it may. Try a shorter stretch."
    no_room = "The data folder can't be used just now. Make room on the disk, then try again."
    fault = "Something went wrong while the words were aligned. Try it once more."

    def take(self, ident: str) -> None:
        """Keep that a page has what was found, or has said why nothing was."""
        row = self.find(ident)
        if row is not None and row.state in ("done", "failed"):
            alignments.end(self._services.db, ident, "taken", row.sentence)
            self._outcomes.forget(ident)

    def begin(self, project: str, wanted: dict[str, Any]) -> str:
        """Align words in the background; gives the id under which to ask for its progress."""
        ident = alignments.create(self._services.db, project, wanted)
        self.run(ident)
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

    def work(self, row: AlignmentRow) -> dict[str, Any]:
        here = self._services
        here.sums.finish(row.wanted["media"])
        recording = here.recording(row.wanted["media"])
        if recording is None:
            raise CueError("The recording is no longer here; bring it in again.")
        task = (str(recording.folder), row.wanted, str(self._notes(row.id)))
        return {"sentence": "", "found": here.workers.listen(ListeningTask.ALIGNMENT, word_tasks.align_words, *task)}

    def clean(self, row: AlignmentRow) -> None:
        for left in self._services.folder.incoming.glob(f"{row.id}.words*"):
            left.unlink(missing_ok=True)

    def write(self, ident: str, outcome: dict[str, Any]) -> None:
        alignments.end(self._services.db, ident, outcome["state"], outcome["sentence"], outcome.get("found"))
