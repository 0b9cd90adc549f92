"""What is said, aligned to its recording: every word gets a start, an end and a confidence.

The recording is cut at its pauses. Each piece is decoded against the words that come next, free to take as many of them
as it holds; where what it takes does not sound like it, the piece is left open and its words are tried on the next one.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.words.alignment.decoder import BEAMS, Spoken, WordDecoder
from velvetdrum.words.alignment.pieces import (
    SPEECH_RATE,
    STEP_S,
    Pause,
    cut_places,
    levels_db,
    middle_pause,
    pauses,
    speech_samples,
)
from velvetdrum.words.alignment.pronunciation import distinct, spelled, spoken
from velvetdrum.words.cues import CueError, Word

MOST_WORDS = 30_000
UNFIT = 5.5
"""Mean distance, in nats a frame, from which on a piece does not say the words. Seen: words that are said 1.5 to 2.5 on
synthesised voices, other words 3.3 to 6."""
_FIT = 2.2
_FILLED = 0.7
"""Share of a piece's voice that its words fill at the least. Seen: words that are said 0.95 to 1, others up to 0.85."""
_FILLED_SONG = 0.1
_WORTH = 0.5
"""What is left of that share at the least when a tenth of the mean distance is taken off."""
_LONGEST_GAP_S = 0.5
"""A stretch of voice without words that is longer asks for a wider search."""
_WORDS_A_SECOND = 6.0
_SILENT_DB = -50.0
_MOST_LEFT = 4
_MOST_FILLED, _LONGEST_FILLED_S = 16, 12.0
"""Words that are looked for between others, and the longest stretch for that."""
_RATES = (1.16, 0.88)
"""How much longer a voice is made to last where words are missing: it sounds as much lower, or higher, then."""
_ENOUGH, _HOPELESS = 0.98, 0.1
"""Shares of words from which on nothing is missing, and below which another text is said."""
_ROUGH_LESS = 0.2
"""How much less a piece must be worth in languages whose sounds the model has not learnt: they fit 2.8 to 3.6."""
_SMALLEST_S = 3.0
"""A piece that is longer is parted before it is left open."""
_BREATH_S = 0.03
"""What a word keeps of a pause beside it."""
_SENTENCE_END = re.compile(r"[.!?…:;][\"'”’)\]]*$")


@dataclass(frozen=True)
class Aligned:
    """A token of the text; without a word where its place was not found."""

    token: str
    word: Word | None
    line: int
    """The line of the text that it stands in, from 0."""


@dataclass(frozen=True)
class Alignment:
    """The tokens in order; stretches of the recording, in seconds, that do not say the words; and whether all of it is
    a guess, or rough."""

    tokens: tuple[Aligned, ...]
    open: tuple[tuple[float, float], ...]
    guess: bool
    rough: bool

    @property
    def found(self) -> tuple[Word, ...]:
        """The words whose places were found."""
        return tuple(item.word for item in self.tokens if item.word)


def align(
    pcm: NDArray[np.int16],
    text: str,
    *,
    language: str = "en",
    start_s: float = 0.0,
    end_s: float | None = None,
    song: bool = False,
    progress: Callable[[float], None] = lambda share: None,
) -> Alignment:
    """Align a text to a stretch of a recording (its samples at 48 kHz, shape (channels, n) or (n, channels)). Times are
    seconds of the recording. `song`: the voice's band only, and the result is a guess.

    Parameters
    ----------
    pcm
        Samples as int16, shape (channels, count).
    text
        The text.
    language
        A language as BCP 47 has it.
    start_s
        Seconds at which it begins.
    end_s
        Seconds at which it ends.
    song
        True for a song, False for speech alone.
    progress
        Called with how far the work is, 0 to 1.

    Raises
    ------
    CueError
        When there is nothing to align, and when the text is not what is said.
    """
    tokens = [(token, number) for number, line in enumerate(text.split("\n")) for token in line.split()]
    if not any(spelled(token) for token, _ in tokens):
        raise CueError("There are no words to align yet: paste what is said.")
    if len(tokens) > MOST_WORDS:
        raise CueError(f"These are {len(tokens)} words; up to {MOST_WORDS} are aligned at once.")
    if end_s is None:
        end_s = max(pcm.shape) / 48_000
    samples = speech_samples(pcm, start_s, end_s, song=song)
    if not len(samples) or levels_db(samples).max() < _SILENT_DB:
        raise CueError("There is no sound in this stretch to align words to.")
    rough = not language.lower().startswith("en")
    work = _Work([token for token, _ in tokens], language, song, rough)
    result, left_open = _best_run(work, samples, progress)
    result = _trimmed(result, pauses(samples, shortest_s=0.12))
    out = []
    for (token, line), place in zip(tokens, work.places, strict=True):
        spot = result.get(place) if place is not None else None
        word = None
        if spot:
            sure = _confidence(spot) * (0.6 if song else 0.8 if rough else 1.0)
            word = Word(start_s + spot.start_s, start_s + spot.end_s, token, round(sure, 3))
        out.append(Aligned(token, word, line))
    if len(result) < 0.25 * len(work.names):
        raise CueError(
            "These words do not sound like this recording; nothing was changed. Check that the text, the language and "
            "the recording belong together."
        )
    return Alignment(
        tuple(_with_marks(out)),
        tuple((start_s + low, start_s + high) for low, high in left_open),
        song,
        rough,
    )


def _best_run(
    work: _Work, samples: NDArray[np.int16], progress: Callable[[float], None]
) -> tuple[dict[int, Spoken], list[tuple[float, float]]]:
    """Where each word is, and the stretches that say none of them. A voice that is quicker and higher, or slower and
    lower, than those that the model learnt from is brought nearer to them where words are missing."""
    rates = (1.0, *_RATES)
    best: tuple[dict[int, Spoken], list[tuple[float, float]]] = ({}, [])
    for number, rate in enumerate(rates):

        def told(share: float, number: int = number) -> None:
            progress((number + share) / len(rates))

        at_rate = samples if rate == 1.0 else _at_rate(samples, rate)
        result, left_open = work.run(at_rate, told)
        if len(result) > len(best[0]):
            moved = {
                index: replace(spot, start_s=spot.start_s / rate, end_s=spot.end_s / rate)
                for index, spot in result.items()
            }
            best = moved, [(low / rate, high / rate) for low, high in left_open]
        hopeless = not work.rough and len(best[0]) < _HOPELESS * len(work.names)
        if hopeless or len(best[0]) >= _ENOUGH * len(work.names):
            break
    progress(1.0)
    return best


def _at_rate(samples: NDArray[np.int16], rate: float) -> NDArray[np.int16]:
    """Samples that last `rate` times as long, and sound as much lower."""
    ratio = Fraction(rate).limit_denominator(50)
    slower = scipy.signal.resample_poly(samples.astype(np.float32), ratio.numerator, ratio.denominator)
    return np.clip(np.rint(slower), -32767, 32767).astype(np.int16)


class _Work:
    """The words of a text by the names that the decoders know them by."""

    def __init__(self, tokens: Sequence[str], language: str, song: bool = False, rough: bool = False) -> None:
        self._song, self.rough = song, rough
        self._decoders: dict[int, WordDecoder] = {}
        parts = [spelled(token) for token in tokens]
        self.places: list[int | None] = []
        self.names: list[str] = []
        self.begins: list[int] = [0]
        for token, part in zip(tokens, parts, strict=True):
            self.places.append(len(self.names) if part else None)
            if part:
                self.names.append("-".join(part))
                if _SENTENCE_END.search(token):
                    self.begins.append(len(self.names))
        self._phones = self._pronounced(distinct(self.names), language)

    def _pronounced(self, names: Sequence[str], language: str) -> dict[str, str]:
        """Phones of every name: of the dictionary for English, of the spelling for what it lacks."""
        english = language.lower().split("-")[0] == "en"
        known: dict[str, str] = {}
        for name in names:
            parts = [self._decoder(0).phones(part) for part in name.split("-")] if english else [None]
            if all(parts):
                known[name] = " ".join(part for part in parts if part)
        unknown = [name for name in names if name not in known]
        if unknown:
            read = spoken(tuple(name.replace("-", " ") for name in unknown), language)
            # What has no sound at all, a sign perhaps, is taken for a short murmur.
            known |= {name: phones or "AH" for name, phones in zip(unknown, read, strict=True)}
        return known

    def _decoder(self, width: int) -> WordDecoder:
        if width not in self._decoders:
            self._decoders[width] = WordDecoder(width)
        return self._decoders[width]

    def run(
        self, samples: NDArray[np.int16], progress: Callable[[float], None]
    ) -> tuple[dict[int, Spoken], list[tuple[float, float]]]:
        """Where each word is, and the stretches that say none of them, in seconds of the samples."""
        length = len(samples) / SPEECH_RATE
        places = cut_places(samples, length)
        result: dict[int, Spoken] = {}
        left_open: list[tuple[float, float]] = []
        at = 0
        last: tuple[float, NDArray[np.int16], list[Spoken]] | None = None
        waiting = list(itertools.pairwise(places))[::-1]
        while waiting and at < len(self.names):
            low, high = waiting.pop()
            progress(low / length)
            piece = samples[round(low * SPEECH_RATE) : round(high * SPEECH_RATE)]
            row = self._piece(piece, at, high - low)
            if row:
                for spot in row:
                    result[spot.index] = Spoken(spot.index, low + spot.start_s, low + spot.end_s, spot.distance)
                at = row[-1].index + 1
            elif high - low > _SMALLEST_S:
                # A part of it may say the words all the same.
                middle = low + middle_pause(piece)
                waiting += [(middle, high), (low, middle)]
            elif left_open and left_open[-1][1] == low:
                left_open[-1] = (left_open[-1][0], high)
            else:
                left_open.append((low, high))
            last = (low, piece, row) if row else last
        if last and 0 < len(self.names) - at <= _MOST_LEFT:
            self._last_words(*last, result)
        self._fill(samples, result)
        progress(1.0)
        return result, [span for span in left_open if not _holds(span, result)]

    def _fill(self, samples: NDArray[np.int16], found: dict[int, Spoken]) -> None:
        """Words that were left over between others must lie between them: they are looked for there, all of them, where
        that stretch sounds like them."""
        length = len(samples) / SPEECH_RATE
        missing = [index for index in range(len(self.names)) if index not in found]
        for first, last in _runs(missing):
            if last - first >= _MOST_FILLED:
                continue
            low = found[first - 1].end_s if first - 1 in found else 0.0 if first == 0 else None
            high = found[last + 1].start_s if last + 1 in found else length if last == len(self.names) - 1 else None
            if low is None or high is None or not 0.05 * (last - first + 1) < high - low < _LONGEST_FILLED_S:
                continue
            row = self._whole(samples[round(low * SPEECH_RATE) : round(high * SPEECH_RATE)], first, last + 1)
            for spot in row:
                found[spot.index] = replace(spot, start_s=low + spot.start_s, end_s=low + spot.end_s)

    def _whole(self, samples: NDArray[np.int16], first: int, stop: int) -> list[Spoken]:
        """All of some words in a piece; none where it does not sound like them."""
        names = self.names[first:stop]
        for width in range(len(BEAMS)):
            decoder = self._decoder(width)
            for name in distinct(names):
                decoder.add(name, self._phones[name])
            row = decoder.find(samples, names, (), whole=True)
            if row and len(row) == len(names) and _mean(row) < UNFIT:
                return [replace(spot, index=first + spot.index) for spot in row]
        return []

    def _last_words(
        self, low: float, piece: NDArray[np.int16], row: Sequence[Spoken], found: dict[int, Spoken]
    ) -> None:
        """A few words that were left over at the end belong to the last piece, where it sounds like them: a search that
        may end anywhere gives up soft last words."""
        for spot in self._whole(piece, row[0].index, len(self.names)):
            found[spot.index] = replace(spot, start_s=low + spot.start_s, end_s=low + spot.end_s)

    def _piece(self, samples: NDArray[np.int16], at: int, seconds: float) -> list[Spoken]:
        """The words that a piece says, of those from `at` on; none where it does not fit."""
        names = self.names[at : at + int(seconds * _WORDS_A_SECOND) + 6]
        entries = [begin - at for begin in self.begins if at < begin < at + len(names)]
        least = _FILLED_SONG if self._song else _FILLED
        best: tuple[float, list[Spoken]] = (0.0, [])
        for width in range(len(BEAMS)):
            decoder = self._decoder(width)
            for name in distinct(names):
                decoder.add(name, self._phones[name])
            row = decoder.find(samples, names, entries, whole=False)
            if not row or _mean(row) > UNFIT:
                continue
            filled, gap_s = self._filling(row, samples)
            worth = filled - (0.0 if self._song else _mean(row) / 10)
            enough = self._song or worth > self._worth(len(samples)) - (_ROUGH_LESS if self.rough else 0.0)
            if worth > best[0] and filled > least and enough:
                best = (worth, [Spoken(at + spot.index, spot.start_s, spot.end_s, spot.distance) for spot in row])
            if filled > least and gap_s < _LONGEST_GAP_S:
                break
        return best[1]

    @staticmethod
    def _worth(count: int) -> float:
        """What the words of a piece must be worth: short pieces are more easily matched by chance."""
        return _WORTH + 0.15 * float(np.clip(1.5 - count / SPEECH_RATE / 6.0, 0.0, 1.0))

    def _filling(self, row: Sequence[Spoken], samples: NDArray[np.int16]) -> tuple[float, float]:
        """The share of a piece's voice that its words fill, and the longest stretch of voice without a word, in
        seconds: a search that lost its way goes on in silence."""
        steps = int(len(samples) / SPEECH_RATE / STEP_S)
        voiced = np.ones(steps + 1, bool)
        for pause in pauses(samples):
            voiced[round(pause.start_s / STEP_S) : round(pause.end_s / STEP_S)] = False
        empty = voiced.copy()
        for spot in row:
            empty[round(spot.start_s / STEP_S) : round(spot.end_s / STEP_S)] = False
        runs = np.diff(np.flatnonzero(np.diff(np.concatenate([[False], empty, [False]]).astype(np.int8))))[::2]
        return 1.0 - float(empty.sum()) / max(float(voiced.sum()), 1.0), float(runs.max(initial=0)) * STEP_S


def _runs(places: Sequence[int]) -> list[tuple[int, int]]:
    """Places that follow each other, as the first and the last of each row."""
    out: list[tuple[int, int]] = []
    for place in places:
        if out and out[-1][1] == place - 1:
            out[-1] = (out[-1][0], place)
        else:
            out.append((place, place))
    return out


def _holds(span: tuple[float, float], found: dict[int, Spoken]) -> bool:
    """True for a stretch that words were found in after all."""
    return any(span[0] <= (spot.start_s + spot.end_s) / 2 <= span[1] for spot in found.values())


def _mean(row: Sequence[Spoken]) -> float:
    frames = sum(spot.end_s - spot.start_s for spot in row)
    return sum(spot.distance * (spot.end_s - spot.start_s) for spot in row) / max(frames, 1e-6)


def _trimmed(found: dict[int, Spoken], quiet: Sequence[Pause]) -> dict[int, Spoken]:
    """Words without the pause before or after them: the model counts a pause to a word where that is likelier."""
    out = {}
    for index, spot in found.items():
        low, high = spot.start_s, spot.end_s
        for pause in quiet:
            if pause.start_s - 0.06 <= low and pause.end_s < high - 0.04:
                low = max(low, pause.end_s - _BREATH_S)
            if pause.end_s + 0.06 >= high and pause.start_s > low + 0.04:
                high = min(high, pause.start_s + _BREATH_S)
        out[index] = Spoken(index, low, high, spot.distance)
    return out


def _confidence(spot: Spoken) -> float:
    """How sure a place is, 0 to 1: from a fit that is as good as words have it, down to one that fits nothing."""
    near = 1.0 - (spot.distance - _FIT) / (UNFIT + 1.5 - _FIT)
    # A word of less than 60 ms is more often a gap that had to be filled.
    return float(np.clip(near, 0.05, 1.0)) * min((spot.end_s - spot.start_s) / 0.06, 1.0)


def _with_marks(row: Sequence[Aligned]) -> list[Aligned]:
    """Tokens that are not spoken, a dash perhaps, stand at the end of the word before them."""
    out: list[Aligned] = []
    for item in row:
        before = out[-1].word if out else None
        if item.word is None and not spelled(item.token) and before:
            out.append(Aligned(item.token, Word(before.end_s, before.end_s, item.token, before.confidence), item.line))
        else:
            out.append(item)
    return out
