"""Plain text: words without times, one cue a paragraph or a line."""

from __future__ import annotations

from velvetdrum.words.cue_format import CueFormat, cue_format
from velvetdrum.words.cues import Cue, CueError, CueList


@cue_format
class PlainText(CueFormat):
    """Text without times."""

    suffix = "txt"
    title = "Plain text"
    keeps = frozenset({"lines", "speakers"})
    rank = 9

    def claims(self, text: str) -> bool:
        return True

    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        raise CueError("This text has no times. Align it to its sound, or tap it along, and it gets them.")

    def write(self, found: CueList) -> str:
        out: list[str] = []
        speaker = ""
        for cue in found.cues:
            if cue.speaker and cue.speaker != speaker:
                out.append(f"{cue.speaker}:")
            speaker = cue.speaker
            out.append(cue.text)
        return "\n".join(out) + "\n"
