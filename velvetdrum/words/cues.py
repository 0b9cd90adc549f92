"""A cue: a timed piece of text, with the times of its words where they are known."""

from __future__ import annotations

import itertools
from bisect import bisect_right
from dataclasses import dataclass, replace

MOST_CUES = 20_000
"""Cues in one file, and in one project."""
MOST_WORDS = 400
"""Timed words in one cue."""
LONGEST_TEXT = 2000
"""Characters in one cue."""
LONGEST_SPEAKER = 120
LONGEST_S = 24 * 3600.0


class CueError(ValueError):
    """A file of cues, or words to align, can't be used. The text is a sentence for the person who gave it."""


@dataclass(frozen=True)
class Word:
    """A word of a cue: its start and end in seconds, and how sure its place is, 0 to 1."""

    start_s: float
    end_s: float
    text: str
    confidence: float = 1.0


@dataclass(frozen=True)
class Cue:
    """A text that stands from `start_s` to `end_s`, in seconds of the recording; lines are parted by line feeds."""

    start_s: float
    end_s: float
    text: str
    speaker: str = ""
    words: tuple[Word, ...] = ()

    def moved(self, seconds: float) -> Cue:
        """The cue later by `seconds`, with its words.

        Parameters
        ----------
        seconds
            By how much, in seconds.
        """
        return self.mapped(1.0, seconds)

    def mapped(self, factor: float, offset: float) -> Cue:
        """The cue with every time t at `factor` * t + `offset`.

        Parameters
        ----------
        factor
            What times are multiplied by.
        offset
            Seconds that are added.
        """
        words = tuple(
            replace(word, start_s=factor * word.start_s + offset, end_s=factor * word.end_s + offset)
            for word in self.words
        )
        return replace(self, start_s=factor * self.start_s + offset, end_s=factor * self.end_s + offset, words=words)


@dataclass(frozen=True)
class CueList:
    """Cues in order of time, and the language that they are in (BCP 47; empty where it is not known)."""

    cues: tuple[Cue, ...]
    language: str = ""


@dataclass(frozen=True)
class EncodingGuess:
    """A text in one encoding: its name, what people call it, and a line in which it differs from others."""

    encoding: str
    title: str
    line: str


@dataclass(frozen=True)
class ReadCues:
    """What was read from a file: the cues, and what had to be repaired, each as a sentence."""

    found: CueList
    repairs: tuple[str, ...]
    readings: tuple[EncodingGuess, ...] = ()
    """Ways to read its bytes that are nearly as likely as each other, the one that was taken first; none where there is
    no doubt."""


def mended(cues: list[Cue], repairs: list[str]) -> tuple[Cue, ...]:
    """Cues in order of time, each ending after it starts, with words inside of it. What is changed is added to
    `repairs`; cues that overlap stay as they are and are told of.

    Parameters
    ----------
    cues
        Cues.
    repairs
        Sentences of what was repaired are added to it.
    """
    out = []
    starts = sorted(cue.start_s for cue in cues)
    for number, cue in enumerate(cues, 1):
        if cue.start_s < 0 or cue.end_s < 0:
            repairs.append(f"Cue {number} began before the start; it begins at 0.")
            cue = replace(cue, start_s=max(cue.start_s, 0.0), end_s=max(cue.end_s, 0.0))
        if cue.end_s <= cue.start_s:
            following = bisect_right(starts, cue.start_s)
            end = min([cue.start_s + 2.0, *starts[following : following + 1]])
            repairs.append(f"Cue {number} ended before it began; it ends at {end:.2f} s now.")
            cue = replace(cue, end_s=end)
        words = tuple(
            word for word in cue.words if cue.start_s - 1e-6 <= word.start_s <= word.end_s <= cue.end_s + 1e-6
        )
        if len(words) != len(cue.words):
            repairs.append(f"Cue {number} has {len(cue.words) - len(words)} word times outside of it; left out.")
            cue = replace(cue, words=())
        out.append(cue)
    ordered = sorted(out, key=lambda cue: cue.start_s)
    if [id(cue) for cue in ordered] != [id(cue) for cue in out]:
        repairs.append("The cues were not in order of time; they are now.")
    over = sum(1 for one, other in itertools.pairwise(ordered) if other.start_s < one.end_s - 1e-6)
    if over:
        repairs.append(f"{over} cues begin before the one before them ends; they are kept so.")
    return tuple(ordered)
