"""How beats make bars: a constant number of them, or meters that change."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]
_HAIR = 1e-6


@dataclass(frozen=True)
class BeatBars:
    """Stretches of bars of one length each: the beat and the bar that they begin with, ascending, and beats in a bar.
    Bars before the first stretch are as long as its own."""

    beats: Numbers
    bars: Numbers
    lengths: Numbers

    @classmethod
    def even(cls, length: int) -> BeatBars:
        """Bars of one length, the first at beat 0.

        Parameters
        ----------
        length
            Beats in a bar.
        """
        return cls(np.zeros(1), np.zeros(1), np.array([float(length)]))

    @classmethod
    def begun_at(cls, beats: list[int]) -> BeatBars:
        """Bars that begin at given beats; the last one goes on.

        Parameters
        ----------
        beats
            Two numbers of beats or more, ascending.
        """
        lengths = np.diff(np.array(beats, float))
        return cls(np.array(beats[:-1], float), np.arange(len(lengths), dtype=float), lengths)

    def bar_at(self, beats: Numbers) -> Numbers:
        """The bar, from 0 on and with its fraction, at numbers of beats.

        Parameters
        ----------
        beats
            Numbers of beats, with fractions.
        """
        index = np.maximum(np.searchsorted(self.beats, np.asarray(beats) + _HAIR, "right") - 1, 0)
        return self.bars[index] + (beats - self.beats[index]) / self.lengths[index]

    def beat_of(self, bars: Numbers) -> Numbers:
        """The beat at numbers of bars.

        Parameters
        ----------
        bars
            Numbers of bars from 0 on, with fractions.
        """
        index = np.maximum(np.searchsorted(self.bars, np.asarray(bars) + _HAIR, "right") - 1, 0)
        return self.beats[index] + (bars - self.bars[index]) * self.lengths[index]

    def begins(self, beats: Numbers) -> NDArray[np.bool_]:
        """Whether a bar begins at each beat.

        Parameters
        ----------
        beats
            Numbers of beats.
        """
        bars = self.bar_at(beats)
        return np.abs(bars - np.rint(bars)) < _HAIR
