"""Lines guessed from pauses, where there is no text at all: empty cues to type into."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from velvetdrum.words.alignment.pieces import pauses, speech_samples
from velvetdrum.words.cues import Cue

_LONGEST_S = 6.0


def guessed_lines(
    pcm: NDArray[np.int16], start_s: float, end_s: float, *, pause_s: float = 0.35, song: bool = False
) -> list[Cue]:
    """Empty cues between the pauses of a stretch of a recording; times are seconds of the recording. Long ones are cut
    at shorter pauses.

    Parameters
    ----------
    pcm
        Samples as int16, shape (channels, count).
    start_s
        Seconds at which it begins.
    end_s
        Seconds at which it ends.
    pause_s
        Seconds between two lines.
    song
        True for a song, False for speech alone.
    """
    samples = speech_samples(pcm, start_s, end_s, song=song)
    length = end_s - start_s
    quiet = pauses(samples, shortest_s=0.15)
    edges = [(0.0, 0.0), *((pause.start_s, pause.end_s) for pause in quiet), (length, length)]
    out: list[tuple[float, float]] = []
    for before, after in itertools.pairwise(edges):
        low, high = before[1], after[0]
        if high - low < 0.15:
            continue
        joined = out and low - out[-1][1] < pause_s and high - out[-1][0] <= _LONGEST_S
        if joined:
            out[-1] = (out[-1][0], high)
        else:
            out.append((low, high))
    return [Cue(start_s + low, start_s + high, "") for low, high in out]
