"""WebVTT, after the W3C's text: blocks, settings, spans, escapes and times within a cue."""

from __future__ import annotations

import html
import re
from itertools import groupby
from operator import itemgetter

from velvetdrum.words.clock_texts import ARROW, clock, read_clock
from velvetdrum.words.cue_format import CueFormat, cue_format
from velvetdrum.words.cues import Cue, CueList
from velvetdrum.words.tagged_times import tagged, words_from_tags

_SPAN = re.compile(r"<([^<>]*)>?")
_CLOCK = re.compile(r"^(?:\d{2,}:)?\d{2}:\d{2}\.\d{3}$")
_VOICE = re.compile(r"^v(?:\.[^\s]*)?\s+(.*)$", re.DOTALL)


@cue_format
class WebVtt(CueFormat):
    """WebVTT files."""

    suffix = "vtt"
    title = "WebVTT"
    keeps = frozenset({"times", "lines", "speakers", "words"})
    media_type = "text/vtt"
    rank = 0

    def claims(self, text: str) -> bool:
        return re.match(r"WEBVTT(?:[ \t\n]|$)", text) is not None

    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        if not self.claims(text):
            repairs.append("The file does not begin with WEBVTT; it was read as if it did.")
        lines = text.split("\n")
        language = next(
            (line.split(":", 1)[1].strip() for line in lines[:12] if line.lower().startswith("language:")), ""
        )
        cues: list[Cue] = []
        left_out: dict[str, int] = {}
        row, count = 0, len(lines)
        while row < count:
            line = lines[row]
            if re.match(r"(NOTE|STYLE|REGION)(?:[ \t]|$)", line) and "-->" not in line:
                name = line.split()[0]
                left_out[name] = left_out.get(name, 0) + 1
                while row < count and lines[row].strip():
                    row += 1
                continue
            result = ARROW.match(line)
            if not result:
                row += 1
                continue
            begin, end = read_clock(result[1]), read_clock(result[2])
            if result[3].strip():
                left_out["settings"] = left_out.get("settings", 0) + 1
            row += 1
            body = []
            while row < count and lines[row].strip() and "-->" not in lines[row]:
                body.append(lines[row])
                row += 1
            if row < count and "-->" in lines[row]:
                # The standard ends a cue here, too; the line before is then the next one's name, if it is a number.
                repairs.append(f"There was no empty line before line {row + 1}.")
                if body and body[-1].strip().isdigit():
                    body.pop()
            if begin is None or end is None:
                repairs.append(f"Line {row} has no times that can be read; its cue is left out.")
                continue
            cues.append(_cue(begin, end, "\n".join(body)))
        for name, number in left_out.items():
            what = "cue settings" if name == "settings" else f"{name} blocks"
            repairs.append(f"{number} {what} are not kept.")
        return cues, language[:35]

    def write(self, found: CueList) -> str:
        head = "WEBVTT\n" + (f"Language: {found.language}\n" if found.language else "")
        blocks = []
        for cue in found.cues:
            text = tagged(cue, lambda at: f"<{clock(at)}>", _escaped, first=False)
            voice = f"<v {_escaped(cue.speaker)}>" if cue.speaker else ""
            blocks.append(f"{clock(cue.start_s)} --> {clock(cue.end_s)}\n{voice}{text}\n")
        return "\n".join([head, *blocks])


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _cue(begin: float, end: float, payload: str) -> Cue:
    """A cue of its payload: spans are read for who speaks and for times, all other spans are left out."""
    pieces: list[tuple[float | None, str]] = []
    at: float | None = None
    speakers: list[str] = []
    last, timed = 0, False
    for span in _SPAN.finditer(payload):
        pieces.append((at, html.unescape(payload[last : span.start()])))
        last, inside = span.end(), span[1].strip()
        if _CLOCK.match(inside):
            at, timed = read_clock(inside), True
        elif voice := _VOICE.match(inside):
            name = " ".join(html.unescape(voice[1]).split())
            if name and name not in speakers:
                speakers.append(name)
    pieces.append((at, html.unescape(payload[last:])))
    if timed:
        pieces = [(begin if start is None else start, piece) for start, piece in pieces]
        # Spans that are no times part a text without a meaning here.
        pieces = [(at, "".join(text for _, text in row)) for at, row in groupby(pieces, key=itemgetter(0))]
    text, words = words_from_tags(pieces, end)
    return Cue(begin, end, text.strip("\n"), ", ".join(speakers), words)
