"""What is checked of cues before anybody has to read them: how fast, how long, how close, and whether they are seen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from velvetdrum.words.cues import Cue

READING_SPEED = 20.0
"""Characters a second that are read with ease."""
SHORTEST_GAP_S = 0.083
"""Two frames at 24 frames a second: a shorter gap flickers."""
SHORTEST_S = 0.5
DOUBTFUL = 0.5
"""Confidence of a word under which it is shown as doubtful."""


@dataclass(frozen=True)
class CueFinding:
    """Something to mend: which check found it, the cue's id, a sentence, and the mending that is offered (split, close,
    lengthen, trim or listen; empty for none)."""

    check: str
    cue: str
    sentence: str
    mending: str = ""


def check_cues(
    cues: Mapping[str, Cue],
    *,
    length_s: float,
    speed: float = READING_SPEED,
    chars: int = 42,
    lines: int = 2,
) -> list[CueFinding]:
    """What there is to mend of cues by their ids, in order of time; `length_s` is how long the used part is, and times
    count from its start.

    Parameters
    ----------
    cues
        Cues.
    length_s
        Length of the project, in seconds.
    speed
        Characters a second that are read with ease.
    chars
        Characters a line, at the most.
    lines
        Lines a cue, at the most.
    """
    ordered = sorted(cues.items(), key=lambda item: item[1].start_s)
    out: list[CueFinding] = []
    for index, (ident, cue) in enumerate(ordered):
        following = ordered[index + 1][1] if index + 1 < len(ordered) else None
        out += _alone(ident, cue, speed, chars, lines)
        out += _beside(ident, cue, following)
        if cue.start_s < -1e-6 or cue.end_s > length_s + 1e-6:
            side = "begins before" if cue.start_s < 0 else "ends after"
            out.append(CueFinding("used part", ident, f"It {side} the part that is used.", "trim"))
    return out


def _alone(ident: str, cue: Cue, speed: float, chars: int, lines: int) -> list[CueFinding]:
    out = []
    rows = cue.text.split("\n")
    count = len(cue.text.replace("\n", " ").strip())
    if not count:
        return [CueFinding("text", ident, "It has no words yet.")]
    length = cue.end_s - cue.start_s
    if count / max(length, 1e-3) > speed:
        rate = count / max(length, 1e-3)
        mending = "lengthen" if length < SHORTEST_S else "split"
        out.append(
            CueFinding(
                "reading speed", ident, f"{rate:.0f} characters a second; {speed:.0f} are read with ease.", mending
            )
        )
    elif length < SHORTEST_S:
        out.append(CueFinding("length", ident, f"It stands for {length:.2f} s only.", "lengthen"))
    longest = max(len(row) for row in rows)
    if longest > chars:
        out.append(CueFinding("line length", ident, f"{longest} characters in a line; {chars} fit.", "split"))
    if len(rows) > lines:
        out.append(CueFinding("line length", ident, f"It has {len(rows)} lines; {lines} fit.", "split"))
    doubtful = [word.text for word in cue.words if word.confidence < DOUBTFUL]
    if doubtful:
        named = ", ".join(f"“{text.strip('.,;:!?')}”" for text in doubtful[:3]) + (" …" if len(doubtful) > 3 else "")
        what = "1 word is" if len(doubtful) == 1 else f"{len(doubtful)} words are"
        out.append(CueFinding("words", ident, f"{what} unsure: {named}.", "listen"))
    return out


def _beside(ident: str, cue: Cue, following: Cue | None) -> list[CueFinding]:
    if following is None:
        return []
    gap = following.start_s - cue.end_s
    if gap < -1e-3 and following.speaker == cue.speaker:
        return [CueFinding("overlap", ident, f"It goes on for {-gap:.2f} s over the next one.", "close")]
    if 1e-3 < gap < SHORTEST_GAP_S:
        return [CueFinding("gap", ident, f"The gap of {gap:.2f} s to the next one flickers.", "close")]
    return []


def luminance_contrast(one: Sequence[float], other: Sequence[float]) -> float:
    """Contrast of two colours (red, green, blue, 0 to 1, sRGB) from 1 to 21 (WCAG 2.2, contrast ratio).

    Parameters
    ----------
    one
        One of the two.
    other
        The other one.
    """
    low, high = sorted((relative_luminance(one), relative_luminance(other)))
    return (high + 0.05) / (low + 0.05)


def relative_luminance(rgb: Sequence[float]) -> float:
    """Relative luminance of an sRGB colour, 0 to 1 (WCAG 2.2).

    Parameters
    ----------
    rgb
        Red, green and blue.
    """
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in rgb]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
