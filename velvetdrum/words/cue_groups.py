"""Timed words made into cues: by sentence, by pause, by word, within a length that is read with ease."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from velvetdrum.words.breaks import CLAUSE_END, SENTENCE_END, WITHIN_GROUP, break_cost
from velvetdrum.words.cues import Cue, Word

By = Literal["sentence", "pause", "word", "line"]
_BREAK = 0.5
"""How a good or a bad place to break weighs against lines that are uneven."""
_MOST_ROWS = 30
"""A row of words without any end is cut after so many cues of them, wherever that is."""


@dataclass(frozen=True)
class CueShape:
    """How cues are made: where one ends (`by`), how long its lines are in characters, how many it has, and how long it
    stands in seconds, at the least and at the most. Pauses longer than `pause_s` end a cue, too."""

    by: By = "sentence"
    chars: int = 32
    lines: int = 2
    shortest_s: float = 0.8
    longest_s: float = 7.0
    pause_s: float = 0.6
    language: str = "en"
    """BCP 47: its small words say where a reader would break."""


@dataclass(frozen=True)
class Token:
    """A word as it is written, its times where they are known, and the line of the text that it stands in."""

    text: str
    word: Word | None
    line: int = 0


def cues_of(tokens: Sequence[Token], shape: CueShape, *, speaker: str = "") -> list[Cue]:
    """Cues of words in order. Words without times go with those around them; cues without any time between two that
    have some get the stretch between those.

    Parameters
    ----------
    tokens
        Words with their times.
    shape
        Bounds of cues: lines, characters, seconds.
    speaker
        Who speaks; empty where nobody is named.
    """
    rows = _split(tokens, shape)
    cues: list[Cue | None] = [_cue(row, shape, speaker) for row in rows]
    return _lasting(list(_filled(rows, cues, shape, speaker)), shape)


def broken(texts: Sequence[str], chars: int, lines: int, language: str = "en") -> str:
    """Words in up to `lines` lines that are about even, broken where a reader would.

    Parameters
    ----------
    texts
        The texts, in order.
    chars
        Characters a line, at the most.
    lines
        Lines a cue, at the most.
    language
        A language as BCP 47 has it.
    """
    whole = " ".join(texts)
    if lines < 2 or len(whole) <= chars or len(texts) < 2:
        return whole
    count = min(lines, max(2, -(-len(whole) // chars)))
    return "\n".join(" ".join(part) for part in _evenly(list(texts), count, chars, language))


def _evenly(texts: list[str], count: int, chars: int, language: str) -> list[list[str]]:
    """Words in `count` rows: what makes them uneven, what is too long, and where they are broken weighed together."""
    if count < 2 or len(texts) < 2:
        return [texts]
    best: tuple[float, int] | None = None
    ends = list(itertools.accumulate(len(text) + 1 for text in texts))
    whole = ends[-1] - 1
    for place in range(1, len(texts)):
        first = ends[place - 1] - 1
        rest = (whole - first - 1) / (count - 1)
        cost = abs(first - rest) / chars + (1000 if first > chars else 0) + 12 * max(rest / chars - 1, 0)
        cost += _BREAK * break_cost(texts[place - 1], texts[place], language)
        if best is None or cost < best[0]:
            best = (cost, place)
    assert best
    return [texts[: best[1]], *_evenly(texts[best[1] :], count - 1, chars, language)]


def _split(tokens: Sequence[Token], shape: CueShape) -> list[list[Token]]:
    rows: list[list[Token]] = [[]]
    length = 0
    for token in tokens:
        length += len(token.text) + 1
        if rows[-1] and (_ends(rows[-1], token, shape) or _is_endless(length, shape)):
            rows.append([])
            length = len(token.text) + 1
        rows[-1].append(token)
    out: list[list[Token]] = []
    for row in rows:
        out += _halved(row, shape)
    return [row for row in out if row]


def _ends(row: Sequence[Token], following: Token, shape: CueShape) -> bool:
    """True when a cue ends before a word, by the way that cues are made."""
    last = row[-1]
    if shape.by == "word":
        return True
    if shape.by == "line":
        return following.line != last.line
    paused = bool(last.word and following.word and following.word.start_s - last.word.end_s >= shape.pause_s)
    if shape.by == "pause":
        return paused
    return (
        bool(SENTENCE_END.search(last.text))
        or following.line > last.line + 1
        or (paused and bool(CLAUSE_END.search(last.text)))
    )


def _is_endless(length: int, shape: CueShape) -> bool:
    """True for a row of so many characters that nothing ends it; lines of a lyric are never cut."""
    return shape.by != "line" and length > shape.chars * shape.lines * _MOST_ROWS


def _halved(row: list[Token], shape: CueShape) -> list[list[Token]]:
    """A row in parts that fit: cut where a clause ends or a pause is, near the middle."""
    texts = [token.text for token in row]
    lines = broken(texts, shape.chars, shape.lines, shape.language).split("\n")
    timed = [token.word for token in row if token.word]
    long = bool(timed) and timed[-1].end_s - timed[0].start_s > shape.longest_s
    fits = max(len(line) for line in lines) <= shape.chars and not long and not _cuts_groups(lines, shape.language)
    if shape.by == "line" or len(row) < 2 or fits:
        return [row]
    ends = list(itertools.accumulate(len(text) + 1 for text in texts))
    whole = ends[-1] - 1
    best: tuple[float, int] | None = None
    for place in range(1, len(row)):
        before, after = row[place - 1], row[place]
        cost = abs(ends[place - 1] - 1 - whole / 2) / whole
        cost += _BREAK * break_cost(before.text, after.text, shape.language)
        if before.word and after.word:
            cost -= min(after.word.start_s - before.word.end_s, 0.6) * 0.5
        cost += 0.2 if place in (1, len(row) - 1) else 0.0
        if best is None or cost < best[0]:
            best = (cost, place)
    assert best
    return [*_halved(row[: best[1]], shape), *_halved(row[best[1] :], shape)]


def _cuts_groups(lines: Sequence[str], language: str) -> bool:
    """True where a line ends with a word that belongs to the next one."""
    ends = ((one.split()[-1], other.split()[0]) for one, other in itertools.pairwise(lines))
    return any(break_cost(before, after, language) >= WITHIN_GROUP for before, after in ends)


def _cue(row: Sequence[Token], shape: CueShape, speaker: str) -> Cue | None:
    words = [token.word for token in row if token.word]
    if not words:
        return None
    text = (
        " ".join(token.text for token in row)
        if shape.by == "line"
        else broken([token.text for token in row], shape.chars, shape.lines, shape.language)
    )
    # Words count as timed only where all of them are.
    timed = tuple(words) if len(words) == len(row) else ()
    return Cue(words[0].start_s, max(words[-1].end_s, words[0].start_s + 0.02), text, speaker, timed)


def _filled(
    rows: Sequence[Sequence[Token]], cues: Sequence[Cue | None], shape: CueShape, speaker: str
) -> Iterable[Cue]:
    """Cues without times take their share, by letters, of the stretch between those that have some."""
    last, waiting = 0.0, []
    ends = [cue.start_s for cue in cues if cue]
    for row, cue in zip(rows, cues, strict=True):
        if cue is None:
            waiting.append(broken([token.text for token in row], shape.chars, shape.lines, shape.language))
            continue
        yield from _spread(waiting, last, max(cue.start_s, last + 0.1 * len(waiting)), speaker)
        waiting, last = [], cue.end_s
        yield cue
    if waiting and ends:
        yield from _spread(waiting, last, last + 2.0 * len(waiting), speaker)


def _spread(texts: Sequence[str], start_s: float, end_s: float, speaker: str) -> Iterable[Cue]:
    letters = sum(len(text) for text in texts)
    at = start_s
    for text in texts:
        until = at + (end_s - start_s) * len(text) / letters
        yield Cue(at, until, text, speaker)
        at = until


def _lasting(cues: list[Cue], shape: CueShape) -> list[Cue]:
    """Cues that stand for the shortest time where the next one leaves room, and close small gaps to it."""
    out = []
    for index, cue in enumerate(cues):
        room = cues[index + 1].start_s if index + 1 < len(cues) else float("inf")
        end = max(cue.end_s, min(cue.start_s + shape.shortest_s, room))
        if 0 < room - end < 0.12:
            end = room
        out.append(Cue(cue.start_s, max(end, cue.start_s + 0.02), cue.text, cue.speaker, cue.words))
    return out
