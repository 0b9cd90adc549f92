"""Words whose times were tapped along with the sound: how late the hand is, and where the words of a line lie."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from velvetdrum.words.cues import Cue, CueError, Word

FEWEST_TAPS = 4
LONGEST_DELAY_S = 0.4
_LAST_LINE_S = 4.0
_REACH_S = 0.12


def tap_delay(clicks_s: Sequence[float], taps_s: Sequence[float]) -> float:
    """How late taps come after the clicks that they answer, in seconds: the median of those that answer one. Raises
    CueError when too few do.

    Parameters
    ----------
    clicks_s
        When the clicks sounded, in seconds, ascending.
    taps_s
        When was tapped, in seconds, ascending.
    """
    clicks = np.asarray(sorted(clicks_s), float)
    late = []
    for tap in taps_s:
        near = clicks[np.argmin(np.abs(clicks - tap))] if clicks.size else np.inf
        if abs(tap - near) <= LONGEST_DELAY_S:
            late.append(tap - near)
    if len(late) < FEWEST_TAPS:
        raise CueError(f"Only {len(late)} taps fell near a click; tap with at least {FEWEST_TAPS} of them.")
    if float(np.std(late)) > 0.12:
        raise CueError("The taps were too uneven to tell how late they are; try once more, with the clicks.")
    return float(np.clip(np.median(late), -LONGEST_DELAY_S, LONGEST_DELAY_S))


def tapped_cues(
    lines: Sequence[str],
    taps_s: Sequence[float],
    *,
    delay_s: float = 0.0,
    end_s: float,
    by_word: bool = False,
    attacks_s: NDArray[np.float64] | None = None,
) -> list[Cue]:
    """Cues of lines from one tap a line, or one a word. `delay_s` is taken off each tap; `attacks_s`, strokes in the
    voice's band, draw the starts of words that were spread by letters to them. Lines without a tap are left out. Raises
    CueError without any tap.

    Parameters
    ----------
    lines
        The texts, in order.
    taps_s
        When was tapped, in seconds, ascending.
    delay_s
        Seconds by which a person taps late.
    end_s
        Seconds at which it ends.
    by_word
        True where each tap is a word, in place of a line.
    attacks_s
        Onsets that taps may be drawn to, in seconds, ascending; None for none.
    """
    said = [line.split() for line in lines if line.split()]
    times = [max(tap - delay_s, 0.0) for tap in sorted(taps_s)]
    if not times:
        raise CueError("Nothing was tapped: press the key when a line begins.")
    if by_word:
        return _by_word(said, times, end_s)
    out = []
    for index, (words, at) in enumerate(zip(said, times, strict=False)):
        until = times[index + 1] if index + 1 < min(len(times), len(said)) else min(at + _LAST_LINE_S, end_s)
        if until - at < 0.05:
            continue
        out.append(Cue(at, until, " ".join(words), "", _spread(words, at, until, attacks_s)))
    return out


def _by_word(said: Sequence[Sequence[str]], times: Sequence[float], end_s: float) -> list[Cue]:
    out, gone = [], 0
    for words in said:
        taps = times[gone : gone + len(words) + 1]
        if not taps:
            break
        begins = list(taps[: len(words)])
        last = taps[len(words)] if len(taps) > len(words) else min(begins[-1] + 1.0, end_s)
        ends = [*begins[1:], min(last, begins[-1] + 1.2)]
        timed = tuple(
            Word(low, max(high, low + 0.02), text) for low, high, text in zip(begins, ends, words, strict=False)
        )
        out.append(
            Cue(timed[0].start_s, timed[-1].end_s, " ".join(words), "", timed if len(timed) == len(words) else ())
        )
        gone += len(words)
    return out


def _spread(
    words: Sequence[str], start_s: float, end_s: float, attacks: NDArray[np.float64] | None
) -> tuple[Word, ...]:
    """Words of a line by their letters, the starts inside of it drawn to the attacks near them."""
    letters = np.cumsum([0, *(len(word) + 1 for word in words)]) / sum(len(word) + 1 for word in words)
    begins = start_s + letters[:-1] * (end_s - start_s)
    moved = [float(begins[0])]
    for at in begins[1:]:
        near = attacks[np.argmin(np.abs(attacks - at))] if attacks is not None and len(attacks) else np.inf
        place = float(near) if abs(near - at) <= _REACH_S else float(at)
        moved.append(max(place, moved[-1] + 0.03))
    ends = [*moved[1:], end_s]
    return tuple(Word(low, max(high, low), text, 0.5) for low, high, text in zip(moved, ends, words, strict=True))
