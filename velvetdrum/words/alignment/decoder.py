"""The acoustic model: one piece of a recording against the words that may be said in it."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from tempfile import NamedTemporaryFile

import numpy as np
from numpy.typing import NDArray
from pocketsphinx import Decoder, get_model_path

BEAMS = ((1e-60, 1e-40, 1e-60), (1e-80, 1e-60, 1e-80), (1e-120, 1e-90, 1e-120), (1e-200, 1e-160, 1e-200))
"""Widths of the search, from the narrowest on: how unlikely a way may be at a frame, at the end of a word, and in a
phone, before it is given up."""
_FRAME_S = 0.01
_ROOM = np.rint(np.random.default_rng(5).standard_normal(4800) * 65).astype(np.int16)
"""Three tenths of a second of a quiet room."""
_LEAP = 1e-60
"""How likely it is that words are left out before a piece."""
_SILENCE = 1e-4
"""How likely a silence is between two words: above this, the search takes voice for silence where it can."""
_MOST_LEAPT = 4
_VARIANT = re.compile(r"\(\d+\)$")
_SILENT = "<"
_FILLERS = "<s> SIL\n</s> SIL\n<sil> SIL\n"
"""What may stand between words: silence alone. The model's own noises would be taken for words."""


@dataclass(frozen=True)
class Spoken:
    """A word that was found in a piece: its place among the words that were given, its start and end in seconds of the
    piece, and its distance: how much less likely its sounds are than the likeliest sounds there, in nats a frame."""

    index: int
    start_s: float
    end_s: float
    distance: float


class WordDecoder:
    """Decodes pieces at one width of the search. Words are added with their phones before they are asked for."""

    def __init__(self, width: int) -> None:
        beam, wbeam, pbeam = BEAMS[width]
        model = get_model_path("en-us")
        with NamedTemporaryFile("w", suffix=".dict") as fillers:
            fillers.write(_FILLERS)
            fillers.flush()
            self._decoder = Decoder(
                hmm=f"{model}/en-us",
                dict=f"{model}/cmudict-en-us.dict",
                fdict=fillers.name,
                lm=None,
                beam=beam,
                wbeam=wbeam,
                pbeam=pbeam,
                lw=1.0,
                cmn="batch",
                silprob=_SILENCE,
                loglevel="FATAL",
            )
        self._known: set[str] = set()

    def phones(self, word: str) -> str | None:
        """Phones of a word of the model's dictionary; None where it has none.

        Parameters
        ----------
        word
            A word in lower case.
        """
        result = self._decoder.lookup_word(word)
        return None if result is None else str(result)

    def add(self, name: str, phones: str) -> None:
        """Make a word known.

        Parameters
        ----------
        name
            What it is known as.
        phones
            Its sounds, in the model's alphabet.
        """
        if name not in self._known and self._decoder.lookup_word(name) is None:
            self._decoder.add_word(name, phones, True)
        self._known.add(name)

    def find(
        self, samples: NDArray[np.int16], names: Sequence[str], entries: Sequence[int], *, whole: bool
    ) -> list[Spoken] | None:
        """The words of `names` that are said in the samples, from the first on and as far as they go; from there, and
        from the beginnings of sentences (`entries`), it may go on at that of a later one. `whole`: all
        of them are said. None where the search lost its way.

        Parameters
        ----------
        samples
            The next samples, shape (channels, n).
        names
            Names of known words, in order.
        entries
            Where words may begin.
        whole
            True where all of the samples must be taken up.
        """
        count = len(names)
        ways: list[tuple[int, int, float, str] | tuple[int, int, float]] = [
            (place, place + 1, 1.0, name) for place, name in enumerate(names)
        ]
        if not whole:
            ways += [(place, count, 1.0) for place in range(count)]
            ways += [(place, later, _LEAP) for place, later in _leaps(entries, count)]
        grammar = self._decoder.create_fsg("words", 0, count, ways)
        self._decoder.add_fsg("words", grammar)
        self._decoder.activate_search("words")
        self._decoder.start_utt()
        # A recording that ends with its last word would cut that word's end off.
        self._decoder.process_raw(np.concatenate([samples, _ROOM]).tobytes(), full_utt=True)
        self._decoder.end_utt()
        if self._decoder.hyp() is None:
            return None if whole else self._lost(samples)
        length_s = len(samples) / 16_000
        result = self._words(names, entries)
        if result is None:
            return None
        return [replace(spot, end_s=min(spot.end_s, length_s)) for spot in result if spot.start_s < length_s - 0.01]

    def _lost(self, samples: NDArray[np.int16]) -> list[Spoken] | None:
        return [] if len(samples) < 1600 else None

    def _words(self, names: Sequence[str], entries: Sequence[int]) -> list[Spoken] | None:
        """The decoded words with their place in the row: they come in order, but may have begun later in it."""
        segments = [(_VARIANT.sub("", part.word), part) for part in self._decoder.seg()]
        said = [(word, part) for word, part in segments if not word.startswith((_SILENT, "[", "+", "("))]
        if not said:
            return []
        places = _places([word for word, _ in said], names, set(_leaps(entries, len(names))))
        if places is None:
            return None
        out = []
        for place, (_, part) in zip(places, said, strict=True):
            frames = part.end_frame - part.start_frame + 1
            score = -math.log(part.ascore) if part.ascore > 0 else 700.0
            out.append(Spoken(place, part.start_frame * _FRAME_S, (part.end_frame + 1) * _FRAME_S, score / frames))
        return out


def _leaps(entries: Sequence[int], count: int) -> list[tuple[int, int]]:
    """From where to where words may be left out: from the first word, or the beginning of a sentence, to the beginning
    of one of the next sentences."""
    begins = sorted({0, *(place for place in entries if 0 < place < count)})
    return [(place, later) for n, place in enumerate(begins) for later in begins[n + 1 : n + 1 + _MOST_LEAPT]]


def _places(said: Sequence[str], names: Sequence[str], leaps: set[tuple[int, int]]) -> list[int] | None:
    """Where decoded words stand in the row of words: one after the other, but for leaps."""
    paths: dict[int, list[int]] = {0: []}
    for word in said:
        following: dict[int, list[int]] = {}
        for at, path in paths.items():
            for begin in [at, *(later for place, later in leaps if place == at)]:
                if begin < len(names) and names[begin] == word and begin + 1 not in following:
                    following[begin + 1] = [*path, begin]
        paths = following
    return next(iter(paths.values()), None) if paths else None
