"""Times inside of a line, as the captions texts and the lyric texts write them: a tag before what begins there.

A tag with nothing but a space after it ends the word before it, so that pauses between words are kept.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from velvetdrum.words.cues import Cue, Word

_NEAR_S = 5e-4  # less than the formats write
_TOKEN = re.compile(r"\S+")


def words_from_tags(pieces: Sequence[tuple[float | None, str]], end_s: float) -> tuple[str, tuple[Word, ...]]:
    """The plain text, and its timed words, of pieces that each begin at a time (None: at none that is known).

    `end_s` ends the last word. Words within one piece share its time by their letters.

    Parameters
    ----------
    pieces
        Seconds, or None, and the text that follows.
    end_s
        Seconds at which it ends.
    """
    text = "".join(piece for _, piece in pieces)
    timed = [(at, piece) for at, piece in pieces if at is not None]
    if not timed:
        return text, ()
    words: list[Word] = []
    for index, (at, piece) in enumerate(timed):
        until = timed[index + 1][0] if index + 1 < len(timed) else end_s
        tokens = _TOKEN.findall(piece)
        if not tokens:
            continue
        letters = sum(len(token) for token in tokens)
        gone = 0
        for token in tokens:
            begin = at + (until - at) * gone / letters
            gone += len(token)
            words.append(Word(begin, at + (until - at) * gone / letters, token))
    return text, tuple(words)


def tagged(cue: Cue, tag: Callable[[float], str], escape: Callable[[str], str] = str, *, first: bool = True) -> str:
    """The cue's text with a tag before each timed word, where its words stand in it in order; else its plain text.

    `first`: a tag for a word that begins with the cue, too.

    Parameters
    ----------
    cue
        A cue with its words.
    tag
        Writes a time as the format has it.
    escape
        What makes a text safe in the format.
    first
        True where the first word is tagged, too.
    """
    places, at = [], 0
    for word in cue.words:
        result = cue.text.find(word.text, at)
        if result < 0:
            return escape(cue.text)
        places.append(result)
        at = result + len(word.text)
    if not cue.words or _TOKEN.findall(cue.text) != [word.text for word in cue.words]:
        return escape(cue.text)
    out, last = [], 0
    for index, (word, place) in enumerate(zip(cue.words, places, strict=True)):
        out.append(escape(cue.text[last:place]))
        if first or word.start_s > cue.start_s + _NEAR_S:
            out.append(tag(word.start_s))
        out.append(escape(word.text))
        last = place + len(word.text)
        until = cue.words[index + 1].start_s if index + 1 < len(cue.words) else cue.end_s
        if word.end_s < until - _NEAR_S:
            out.append(tag(word.end_s))
    out.append(escape(cue.text[last:]))
    return "".join(out)
