"""A file of timed text read under limits: its encoding found, its format found, its faults repaired and told of."""

from __future__ import annotations

import logging
import math
from dataclasses import replace
from pathlib import Path

import velvetdrum.words.formats  # noqa: F401  (makes the formats known)
from velvetdrum.words.cue_format import CUE_FORMATS, SPOKEN_BY, CueFormat
from velvetdrum.words.cues import (
    LONGEST_S,
    LONGEST_SPEAKER,
    LONGEST_TEXT,
    MOST_CUES,
    MOST_WORDS,
    Cue,
    CueError,
    CueList,
    EncodingGuess,
    ReadCues,
    Word,
    mended,
)
from velvetdrum.words.encodings import guesses, is_known

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


def read_cues(data: bytes, name: str = "", *, language: str = "", encoding: str = "") -> ReadCues:
    """The cues of a file's bytes, and what had to be repaired. `name` helps where the content alone does not tell the
    format, `language` (BCP 47) where it does not tell the encoding; `encoding` is one that somebody chose. Raises
    CueError.

    Parameters
    ----------
    data
        The bytes of a file.
    name
        Name, as the file or the format has it.
    language
        A language as BCP 47 has it.
    encoding
        Name of an encoding, as Python has it.
    """
    repairs: list[str] = []
    own_language = language
    text = read_text(data, repairs, language=language, encoding=encoding)
    form = _format(text, Path(name).suffix.lower().lstrip("."))
    try:
        result, language = form.read(text, repairs)
    except (ArithmeticError, LookupError, RecursionError, TypeError, ValueError) as problem:
        if isinstance(problem, CueError):
            raise
        logging.getLogger(__name__).warning("damaged %s", form.title, exc_info=True)
        raise CueError(f"This {form.title} file is damaged and can't be read. Save it anew.") from problem
    cues = []
    if len(result) > MOST_CUES:
        repairs.append(f"The file has {len(result)} cues; the first {MOST_CUES} were taken.")
        result = result[:MOST_CUES]
    for number, cue in enumerate(result, 1):
        whole = _bounded(cue, number, repairs)
        if whole:
            cues.append(whole)
    if not cues:
        raise CueError(f"No cue was found in this {form.title} file.")
    ordered = mended(cues, repairs)
    if len(repairs) > _MOST_REPAIRS:
        repairs[_MOST_REPAIRS:] = [f"{len(repairs) - _MOST_REPAIRS} more repairs were made."]
    doubts = () if encoding else readings(data, own_language)
    return ReadCues(CueList(ordered, language), tuple(repairs), doubts)


def read_text(data: bytes, repairs: list[str], *, language: str = "", encoding: str = "") -> str:
    """A text file's bytes as text with line feeds; adds how it was read where that is not plain. `language` is what it
    is probably in, `encoding` one that somebody chose.

    Parameters
    ----------
    data
        The bytes of a file.
    repairs
        Sentences of what was repaired are added to it.
    language
        A language as BCP 47 has it.
    encoding
        Name of an encoding, as Python has it.

    Raises
    ------
    CueError
    """
    if len(data) > MOST_BYTES:
        raise CueError(f"This file has {len(data) / 2**20:.0f} MB; files of words have up to {MOST_BYTES >> 20} MB.")
    if data.startswith(_HEADS) or data[4:8] == b"ftyp":
        raise CueError(_no_text())
    if encoding:
        if not is_known(encoding):
            raise CueError("There is no encoding of that name. Choose one of those that are offered.")
        text = data.decode(encoding, "replace").removeprefix("\ufeff")
    else:
        text = _decoded(data, language, repairs)
    if "\0" in text[:4000]:
        raise CueError(_no_text())
    return text.replace("\r\n", "\n").replace("\r", "\n").replace("\0", "")


def read_words(data: bytes) -> tuple[str, list[str]]:
    """A text file as `read_text` reads it, and how it was read where that is not plain.

    Parameters
    ----------
    data
        The bytes of a file.

    Raises
    ------
    CueError
    """
    repairs: list[str] = []
    return read_text(data, repairs), repairs


def _no_text() -> str:
    titles = [form.title for form in sorted(CUE_FORMATS.values(), key=lambda form: form.rank)]
    return f"This is no text file. Choose a file of words: {', '.join(titles[:-1])} or {titles[-1]}."


def write_cues(found: CueList, suffix: str, *, named: bool = False) -> str:
    """Cues as a text of a format, by the suffix of its files. `named`: in formats that do not say who speaks, the
    speaker's name stands before the words.

    Parameters
    ----------
    found
        What was read, or found.
    suffix
        Ending of the file's name, with its dot.
    named
        True where speakers' names stand before what they say.

    Raises
    ------
    CueError
        For a format that is not known.
    """
    if suffix not in CUE_FORMATS:
        raise CueError(f"There is no format called {suffix[:20]}; there are {', '.join(CUE_FORMATS)}.")
    form = CUE_FORMATS[suffix]
    return form.write(with_names(found) if named and "speakers" not in form.keeps else found)


def with_names(found: CueList) -> CueList:
    """Cues with the speaker's name before their words, as a word of its own that begins with them.

    Parameters
    ----------
    found
        What was read, or found.
    """
    return replace(found, cues=tuple(_named(cue) for cue in found.cues))


def _named(cue: Cue) -> Cue:
    if not cue.speaker:
        return cue
    name = SPOKEN_BY.format(speaker=cue.speaker, text="").strip()
    begin = cue.words[0].start_s if cue.words else cue.start_s
    before = tuple(Word(begin, begin, part) for part in name.split()) if cue.words else ()
    return replace(
        cue, text=SPOKEN_BY.format(speaker=cue.speaker, text=cue.text), speaker="", words=(*before, *cue.words)
    )


def readings(data: bytes, language: str = "") -> tuple[EncodingGuess, ...]:
    """Ways to read a text that are nearly as likely as each other; none where there is no doubt.

    Parameters
    ----------
    data
        The bytes of a file.
    language
        A language as BCP 47 has it.
    """
    if _marked(data) or _is_utf8(data):
        return ()
    likely = guesses(data, language)
    if len(likely) < 2:
        return ()
    texts = [data.decode(guess.encoding, "replace").splitlines() for guess in likely]
    differing = (row for row in zip(*texts, strict=False) if len(set(row)) == len(row))
    lines = next(differing, tuple(text[0] if text else "" for text in texts))
    return tuple(
        EncodingGuess(guess.encoding, guess.title, line.strip()[:80]) for guess, line in zip(likely, lines, strict=True)
    )


def _marked(data: bytes) -> tuple[int, str] | None:
    """How long the mark at a text's beginning is, and the encoding that it tells; None without one."""
    return next(((len(mark), encoding) for mark, encoding in _MARKS if data.startswith(mark)), None)


def _is_utf8(data: bytes) -> bool:
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return b"\x1b$" not in data[:4096] and b"\0" not in data[:4096]


def _decoded(data: bytes, language: str, repairs: list[str]) -> str:
    if mark := _marked(data):
        return data[mark[0] :].decode(mark[1], "replace")
    if _is_utf8(data):
        return data.decode("utf-8")
    best = guesses(data, language)[0]
    repairs.append(f"The file is not UTF-8; it was read as {best.title}.")
    return data.decode(best.encoding, "replace")


def _format(text: str, suffix: str) -> CueFormat:
    named = next((form for form in CUE_FORMATS.values() if suffix == form.suffix or suffix in form.aliases), None)
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
