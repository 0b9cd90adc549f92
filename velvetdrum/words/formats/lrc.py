"""LRC: a line of a lyric behind the time at which it begins; in its longer form, with a time before each word."""

from __future__ import annotations

import re

from velvetdrum.words.clock_texts import clock, read_clock
from velvetdrum.words.cue_format import CueFormat, cue_format
from velvetdrum.words.cues import Cue, CueList
from velvetdrum.words.tagged_times import tagged, words_from_tags

_LINE = re.compile(r"^\s*((?:\[\d{1,4}:\d{1,2}(?:[.:]\d{1,6})?\]\s*)+)(.*)$")
_TIME = re.compile(r"\[([\d:.]+)\]")
_TAG = re.compile(r"^\s*\[([A-Za-z#]+)\s*:\s*(.*?)\]\s*$")
_WORD = re.compile(r"<(\d{1,4}:\d{1,2}(?:[.:]\d{1,6})?)>")
LAST_LINE_S = 5.0
"""How long a last line stands when nothing says when it ends."""


@cue_format
class Lrc(CueFormat):
    """Lyric files with line and word times."""

    suffix = "lrc"
    title = "LRC"
    keeps = frozenset({"times", "words"})

    def claims(self, text: str) -> bool:
        return any(_LINE.match(line) for line in text[:20_000].split("\n"))

    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        starts: list[tuple[float, str]] = []
        offset, language, length, unread = 0.0, "", None, 0
        for line in text.split("\n"):
            if result := _LINE.match(line):
                starts += [(read_clock(at) or 0.0, result[2].strip()) for at in _TIME.findall(result[1])]
            elif tag := _TAG.match(line):
                name, value = tag[1].lower(), tag[2].strip()
                if name == "offset" and re.fullmatch(r"[+-]?\d{1,7}", value):
                    offset = int(value) / 1000
                elif name == "la":
                    language = value[:35]
                elif name == "length":
                    length = read_clock(value)
            elif line.strip():
                unread += 1
        if unread:
            repairs.append(f"{unread} lines have no time; they are left out.")
        if offset:
            repairs.append(f"The offset of {offset * 1000:+.0f} ms is worked into the times.")
        if [at for at, _ in starts] != sorted(at for at, _ in starts):
            repairs.append("The lines were not in order of time; they are now.")
        starts.sort(key=lambda pair: pair[0])
        cues = []
        for index, (at, line) in enumerate(starts):
            if not _WORD.sub("", line).strip():
                continue  # an empty line ends the one before it
            if index + 1 < len(starts):
                end = starts[index + 1][0]
            else:
                end = length if length is not None and length > at else at + LAST_LINE_S
                repairs.append(f"Nothing says when the last line ends; it stands until {end:.2f} s.")
            cues.append(_cue(at, end, line).moved(-offset))
        return cues, language

    def write(self, found: CueList) -> str:
        digits = 2 if all(_hundredths(cue) for cue in found.cues) else 3
        lines = [f"[la:{found.language}]"] if found.language else []
        for index, cue in enumerate(found.cues):
            flat = Cue(cue.start_s, cue.end_s, " ".join(cue.text.split()), "", cue.words)
            text = tagged(flat, lambda at: f"<{clock(at, hours=False, digits=digits)}>")
            lines.append(f"[{clock(cue.start_s, hours=False, digits=digits)}]{text}")
            following = found.cues[index + 1].start_s if index + 1 < len(found.cues) else None
            if following is None or following > cue.end_s:
                lines.append(f"[{clock(cue.end_s, hours=False, digits=digits)}]")
        return "\n".join(lines) + "\n"


def _hundredths(cue: Cue) -> bool:
    times = [cue.start_s, cue.end_s, *(at for word in cue.words for at in (word.start_s, word.end_s))]
    return all(abs(round(at, 2) - at) < 5e-4 for at in times)


def _cue(at: float, end: float, line: str) -> Cue:
    tags = list(_WORD.finditer(line))
    if not tags:
        return Cue(at, end, line)
    pieces: list[tuple[float | None, str]] = [(at, line[: tags[0].start()])] if line[: tags[0].start()].strip() else []
    for tag, following in zip(tags, [*tags[1:], None], strict=True):
        pieces.append((read_clock(tag[1]), line[tag.end() : following.start() if following else len(line)]))
    text, words = words_from_tags(pieces, end)
    return Cue(at, end, " ".join(text.split()), "", words)
