"""How loud each word was said, and words as large as that."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.text.cue_view import word_spans
from velvetdrum.picture.text.drawn_text import WordTimes
from velvetdrum.picture.text.glyph_marks import Glyphs
from velvetdrum.picture.typesetting.layout import Layout
from velvetdrum.scene.cue_tracks import CueTrack
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.detect import READ_RATE, DetectedBand, level_db
from velvetdrum.words.cues import Cue

_VOICE = DetectedBand("mix", 150.0, 4000.0, 0.5, "level")
_QUIET, _LOUD = 10.0, 95.0
"""Per cent of a track's words that are quieter than what is shown smallest, and largest."""

Values = NDArray[np.float64]


def word_levels(use: AudioRange, cue: Cue, length_s: float) -> Values:
    """The mean level of the voice over each word of a cue, dBFS, shape (words,).

    Parameters
    ----------
    use
        The used stretch of a recording.
    cue
        The cue.
    length_s
        Length of the project in seconds.
    """
    begins, ends = word_spans(cue)
    levels = level_db(use, _VOICE, length_s)
    first = np.clip(np.rint((begins - use.in_s) * READ_RATE), 0, len(levels) - 1).astype(int)
    last = np.clip(np.rint((ends - use.in_s) * READ_RATE), first + 1, len(levels)).astype(int)
    # Only what the words cover is looked at, however long the recording is.
    means = [np.mean(10.0 ** (levels[a:b].astype(np.float64) / 10.0)) for a, b in zip(first, last, strict=True)]
    return 10.0 * np.log10(np.maximum(np.array(means), 1e-16))


def loudness_range(use: AudioRange, track: CueTrack, length_s: float) -> tuple[float, float]:
    """The level of a track's quiet words and of its loud ones in dBFS, at least 3 dB apart.

    Parameters
    ----------
    use
        The used stretch of a recording.
    track
        The cues.
    length_s
        Length of the project in seconds.
    """

    def make() -> tuple[float, float]:
        levels = np.concatenate([np.zeros(0), *(word_levels(use, cue, length_s) for cue in track.row)])
        if not len(levels):
            return -60.0, -20.0
        quiet, loud = np.percentile(levels, [_QUIET, _LOUD])
        return float(min(quiet, loud - 3.0)), float(loud)

    return SHARED_CACHE.get(
        ("loudness of words", use.recording.identity, use.in_s, use.out_s, length_s, track.row), make
    )


def as_loud_as_said(glyphs: Glyphs, layout: Layout, loudness: Values, times: WordTimes, amount: float) -> Glyphs:
    """Words that swell as they are said: from smaller by `amount` to a size by how loud they are.

    Parameters
    ----------
    glyphs
        The glyphs of a cue.
    layout
        What they stand in.
    loudness
        How loud each word is, 0 to 1.
    times
        How far each word has been said.
    amount
        How much smaller a word is that is not said, or is quiet, 0 to 1.
    """
    if not len(loudness) or len(loudness) != len(times.said):
        return glyphs
    # Half of a word's time is enough to swell.
    way = np.clip(times.said * 2.0, 0.0, 1.0)
    factors = 1.0 - amount * (1.0 - loudness * way * way * (3.0 - 2.0 * way))
    owners = np.clip(layout.word, 0, len(factors) - 1)
    factor = factors[owners]
    x, y = glyphs.x.copy(), glyphs.y
    for word, row in sorted(set(zip(layout.word.tolist(), layout.row.tolist(), strict=True))):
        here = (layout.word == word) & (layout.row == row)
        middle = (glyphs.x[here].min() + glyphs.x[here].max()) / 2
        x[here] = middle + (glyphs.x[here] - middle) * factor[here]
    return glyphs.changed(x=x, y=y, scale=glyphs.scale * factor)
