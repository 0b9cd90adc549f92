"""A file of timed text read under limits: its encoding found, its format found, its faults repaired and told of."""

from __future__ import annotations

import logging
import math
from pathlib import Path

from charset_normalizer import from_bytes

import velvetdrum.words.formats  # noqa: F401  (makes the formats known)
from velvetdrum.words.cue_format import CUE_FORMATS, CueFormat
from velvetdrum.words.cues import (
    LONGEST_S,
    LONGEST_SPEAKER,
    LONGEST_TEXT,
    MOST_CUES,
    MOST_WORDS,
    Cue,
    CueError,
    CueList,
    ReadCues,
    mended,
)

MOST_BYTES = 8 << 20
_MOST_REPAIRS = 200
_MARKS = (
    (b"\xef\xbb\xbf", "utf-8"),
    (b"\xff\xfe\x00\x00", "utf-32-le"),
    (b"\x00\x00\xfe\xff", "utf-32-be"),
    (b"\xff\xfe", "utf-16-le"),
    (b"\xfe\xff", "utf-16-be"),
)
_HEADS = (b"PK\x03\x04", b"\x89PNG", b"\xff\xd8\xff", b"%PDF", b"RIFF", b"OggS", b"fLaC", b"ID3", b"\x1a\x45\xdf\xa3")


def read_cues(data: bytes, name: str = "") -> ReadCues:
    """The cues of a file's bytes, and what had to be repaired. `name` helps where the content alone does not tell the
    format. Raises CueError."""
    repairs: list[str] = []
    text = read_text(data, repairs)
    form = _format(text, Path(name).suffix.lower().lstrip("."))
    try:
        found, language = form.read(text, repairs)
    except (ArithmeticError, LookupError, RecursionError, TypeError, ValueError) as problem:
        if isinstance(problem, CueError):
            raise
        logging.getLogger(__name__).warning("damaged %s", form.title, exc_info=True)
        raise CueError(f"This {form.title} file is damaged and can't be read. Save it anew.") from problem
    cues = []
    if len(found) > MOST_CUES:
        repairs.append(f"The file has {len(found)} cues; the first {MOST_CUES} were taken.")
        found = found[:MOST_CUES]
    for number, cue in enumerate(found, 1):
        whole = _bounded(cue, number, repairs)
        if whole:
            cues.append(whole)
    if not cues:
        raise CueError(f"No cue was found in this {form.title} file.")
    ordered = mended(cues, repairs)
    if len(repairs) > _MOST_REPAIRS:
        repairs[_MOST_REPAIRS:] = [f"{len(repairs) - _MOST_REPAIRS} more repairs were made."]
    return ReadCues(CueList(ordered, language), tuple(repairs))


def read_text(data: bytes, repairs: list[str]) -> str:
    """A text file's bytes as text with line feeds; adds how it was read where that is not plain. Raises CueError."""
    if len(data) > MOST_BYTES:
        raise CueError(f"This file has {len(data) / 2**20:.0f} MB; files of words have up to {MOST_BYTES >> 20} MB.")
    if data.startswith(_HEADS) or data[4:8] == b"ftyp":
        raise CueError("This is no text file. Choose a file of words: SRT, WebVTT, LRC, ASS, TTML, JSON or plain text.")
    text = _decoded(data, repairs)
    if "\0" in text[:4000]:
        raise CueError("This is no text file. Choose a file of words: SRT, WebVTT, LRC, ASS, TTML, JSON or plain text.")
    return text.replace("\r\n", "\n").replace("\r", "\n").replace("\0", "")


def write_cues(found: CueList, suffix: str) -> str:
    """Cues as a text of a format, by the suffix of its files. Raises CueError for a format that is not known."""
    if suffix not in CUE_FORMATS:
        raise CueError(f"There is no format called {suffix[:20]}; there are {', '.join(CUE_FORMATS)}.")
    return CUE_FORMATS[suffix].write(found)


def _decoded(data: bytes, repairs: list[str]) -> str:
    for mark, encoding in _MARKS:
        if data.startswith(mark):
            return data[len(mark) :].decode(encoding, "replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        pass
    sample = data[: 256 << 10]
    best = from_bytes(sample).best()
    encoding = best.encoding if best else "cp1252"
    repairs.append(f"The file is not UTF-8; it was read as {encoding.replace('_', '-')}.")
    return data.decode(encoding, "replace")


def _format(text: str, suffix: str) -> CueFormat:
    named = CUE_FORMATS.get({"ssa": "ass", "xml": "ttml", "dfxp": "ttml"}.get(suffix, suffix))
    if named and named.rank < 9 and named.claims(text):
        return named
    ranked = sorted(CUE_FORMATS.values(), key=lambda form: form.rank)
    return next(form for form in ranked if form.claims(text))


def _bounded(cue: Cue, number: int, repairs: list[str]) -> Cue | None:
    """The cue within the limits; None where nothing of it is left."""
    text = "\n".join(line.strip() for line in cue.text.split("\n") if line.strip())
    text = "".join(sign for sign in text if sign in "\n\t" or sign >= " ")
    if not (math.isfinite(cue.start_s) and math.isfinite(cue.end_s)) or max(cue.start_s, cue.end_s) > LONGEST_S:
        repairs.append(f"Cue {number} lies more than a day in; it is left out.")
        return None
    if not text:
        repairs.append(f"Cue {number} has no text; it is left out.")
        return None
    words = cue.words
    if len(text) > LONGEST_TEXT:
        repairs.append(f"Cue {number} has {len(text)} characters; the first {LONGEST_TEXT} were taken.")
        text, words = text[:LONGEST_TEXT], ()
    if len(words) > MOST_WORDS:
        repairs.append(f"Cue {number} has {len(words)} timed words; their times are left out.")
        words = ()
    return Cue(cue.start_s, cue.end_s, text, cue.speaker[:LONGEST_SPEAKER], words)
