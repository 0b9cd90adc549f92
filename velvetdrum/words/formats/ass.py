"""ASS: its text and times, with the syllables of its karaoke tags as words; styles are left out."""

from __future__ import annotations

import re

import pysubs2

from velvetdrum.limits import openers
from velvetdrum.words.cue_format import CueFormat, cue_format
from velvetdrum.words.cues import Cue, CueError, CueList
from velvetdrum.words.tagged_times import words_from_tags

_BLOCK = re.compile(r"(?<!\\)\{[^{}]*\}")
# The format has no sign for a backslash of the text: one that nothing shows stands behind it (U+2060, word joiner).
_JOINER = "\u2060"
_SUNG = re.compile(r"\\[kK][fo]?\s*(\d{1,6})")
_DRAWING = re.compile(r"\\p[1-9]")


@cue_format
class Ass(CueFormat):
    """Advanced SubStation files."""

    suffix = "ass"
    aliases = frozenset({"ssa"})
    title = "ASS"
    keeps = frozenset({"times", "lines", "speakers", "words"})
    rank = 0

    def claims(self, text: str) -> bool:
        return re.search(r"^\s*\[(Script Info|Events|V4\+? Styles)\]", text[:4000], re.MULTILINE) is not None

    def read(self, text: str, repairs: list[str]) -> tuple[list[Cue], str]:
        try:
            events = openers.subtitles(text, "ass").events
        except (pysubs2.Pysubs2Error, ValueError, LookupError) as problem:
            raise CueError("This ASS file is damaged; its events can't be read.") from problem
        cues, styled, drawn = [], 0, 0
        for event in events:
            if event.is_comment:
                continue
            if _DRAWING.search(event.text):
                drawn += 1
                continue
            styled += bool(_BLOCK.search(_SUNG.sub("", event.text).replace("{}", "")))
            cues.append(_cue(event.start / 1000, event.end / 1000, event.text, event.name.strip()))
        if styled:
            repairs.append(f"{styled} cues had styles written into their text; the styles are left out.")
        if drawn:
            repairs.append(f"{drawn} drawings are left out.")
        return cues, ""

    def write(self, found: CueList) -> str:
        file = pysubs2.SSAFile()
        for cue in found.cues:
            file.append(
                pysubs2.SSAEvent(
                    start=round(cue.start_s * 1000), end=round(cue.end_s * 1000), text=_sung(cue), name=cue.speaker
                )
            )
        return str(file.to_string("ass"))


def _cue(begin: float, end: float, text: str, speaker: str) -> Cue:
    plain = _broken(text)
    pieces: list[tuple[float | None, str]] = []
    at, last, sung = begin, 0, False
    until = begin
    for block in _BLOCK.finditer(plain):
        pieces.append((at if sung else None, _bare(plain[last : block.start()])))
        last = block.end()
        for syllable in _SUNG.finditer(block[0]):
            sung, at = True, until
            until += int(syllable[1]) / 100
    pieces.append((at if sung else None, _bare(plain[last:])))
    if sung:
        pieces = [(begin if start is None else start, piece) for start, piece in pieces if piece]
    whole, words = words_from_tags(pieces, min(until, end) if sung else end)
    return Cue(begin, end, whole.strip("\n"), speaker, words)


def _broken(text: str) -> str:
    """Text with its line breaks and hard spaces."""
    return text.replace(r"\N", "\n").replace(r"\n", "\n").replace(r"\h", "\u00a0")


def _bare(text: str) -> str:
    """Text without what protects its signs."""
    return text.replace(r"\{", "{").replace(r"\}", "}").replace(f"\\{_JOINER}", "\\")


def _protected(text: str) -> str:
    """Text whose signs mean nothing but themselves."""
    safe = text.replace("\\", f"\\{_JOINER}").replace("{", r"\{").replace("}", r"\}")
    return safe.replace("\n", r"\N")


def _sung(cue: Cue) -> str:
    """The text with a karaoke tag before each word, where its words are known. Tags count hundredths of a second on
    from each other, so that rounding does not add up."""
    text = _protected(cue.text)
    if not cue.words or cue.text.split() != [word.text for word in cue.words]:
        return text
    out, at, gone = [], 0, 0
    begin = round(cue.start_s * 100)
    for word in cue.words:
        result = cue.text.index(word.text, at)
        between, at = _protected(cue.text[at:result]), result + len(word.text)
        start, stop = round(word.start_s * 100) - begin, round(word.end_s * 100) - begin
        if start > gone or between:
            out.append(f"{{\\k{max(start - gone, 0)}}}{between}")
        out.append(f"{{\\k{max(stop - start, 0)}}}{_protected(word.text)}")
        gone = max(stop, start, gone)
    return "".join(out) + _protected(cue.text[at:])
