"""SubRip: numbered blocks of a line of times and lines of text."""

from __future__ import annotations

import re

from velvetdrum.words.clock_texts import ARROW, clock, read_clock
from velvetdrum.words.cue_format import CueFormat, cue_format
from velvetdrum.words.cues import Cue, CueList

_TAG = re.compile(r"</?(?:b|i|u|s|font)\b[^<>]*>|\{\\[^{}]*\}", re.IGNORECASE)


@cue_format
class SubRip(CueFormat):
    """SubRip files."""

    suffix = "srt"
    title = "SubRip"
    media_type = "application/x-subrip"

    def claims(self, text: str) -> bool:
        return any(ARROW.match(line) for line in text[:20_000].split("\n"))

    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        lines = text.split("\n")
        heads = [(row, result) for row, line in enumerate(lines) if (result := ARROW.match(line))]
        cues, plain = [], 0
        for order, (row, result) in enumerate(heads):
            begin, end = read_clock(result[1]), read_clock(result[2])
            stop = heads[order + 1][0] if order + 1 < len(heads) else len(lines)
            body = lines[row + 1 : stop]
            if order + 1 < len(heads):
                body = self._without_number(body, repairs, row)
            if begin is None or end is None:
                repairs.append(f"Line {row + 1} has no times that can be read; its cue is left out.")
                continue
            words = "\n".join(line.strip() for line in body if line.strip())
            bare = _TAG.sub("", words)
            plain += bare != words
            cues.append(Cue(begin, end, bare))
        if plain:
            repairs.append(f"{plain} cues had styles written into their text; the styles are left out.")
        return cues, ""

    @staticmethod
    def _without_number(body: list[str], repairs: list[str], row: int) -> list[str]:
        """What stands before the next line of times, without the number of that cue and the empty line before it."""
        rest = list(body)
        while rest and not rest[-1].strip():
            rest.pop()
        if rest and rest[-1].strip().isdigit() and (len(rest) == 1 or len(body) == len(rest)):
            alone = len(rest) == 1 or not rest[-2].strip()
            rest.pop()
            if not alone:
                repairs.append(f"There was no empty line after the cue of line {row + 1}.")
        return rest

    def write(self, found: CueList) -> str:
        blocks = [
            f"{number}\n{clock(cue.start_s, ',')} --> {clock(cue.end_s, ',')}\n{cue.text}\n"
            for number, cue in enumerate(found.cues, 1)
        ]
        return "\n".join(blocks)
