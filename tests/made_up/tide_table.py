"""A cue format: a line a cue, its second and its words parted by a bar."""

from typing import ClassVar

from velvetdrum.words.cue_format import CueFormat, cue_format
from velvetdrum.words.cues import Cue, CueError, CueList


@cue_format
class TideTable(CueFormat):
    """Tide tables."""

    suffix: ClassVar[str] = "tide"
    title: ClassVar[str] = "Tide table"
    keeps: ClassVar[frozenset[str]] = frozenset({"times"})

    def claims(self, text: str) -> bool:
        return text.startswith("TIDE\n")

    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        cues = []
        for number, line in enumerate(text.split("\n")[1:], 2):
            second, bar, words = line.partition("|")
            if not bar:
                continue
            try:
                start = float(second)
            except ValueError as problem:
                raise CueError(f"Line {number} does not begin with a second.") from problem
            cues.append(Cue(start, start + 1.0, words.strip()))
        return cues, ""

    def write(self, found: CueList) -> str:
        return "TIDE\n" + "".join(f"{cue.start_s:g}|{' '.join(cue.text.split())}\n" for cue in found.cues)
