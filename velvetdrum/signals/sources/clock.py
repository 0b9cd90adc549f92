"""The clock: a shape that repeats on the beats."""

from __future__ import annotations

import numpy as np

from velvetdrum.kinds.settings import choice, number, whole
from velvetdrum.signals.kinds import Around, Signal, Times, Values, signal_kind
from velvetdrum.signals.waveshapes import SHAPES, waveshape


@signal_kind("clock", "Clock")
class Clock(Signal):
    """A shape that repeats every so many beats or bars, locked to the beats of the recording."""

    every: int = whole(1, lo=1, hi=64, label="Every", help="How many beats or bars one turn takes.")
    unit: str = choice("beats", {"beats": "Beats", "bars": "Bars"}, label="Counted in", help="What is counted.")
    shape: str = choice("pulse", SHAPES, label="Form", help="The form of one turn.")
    decay_ms: float = number(220, lo=5, hi=5000, unit="ms", step=1, label="Decay", curve="log", group="motion",
                             help="Time in which a pulse falls by 63 %.", when=("shape", ("pulse",)))  # fmt: skip
    width: float = number(50, lo=1, hi=99, unit="%", step=1, label="Up for", group="motion",
                          help="Part of a turn for which a square is up.", when=("shape", ("square",)))  # fmt: skip
    phase: float = number(0, lo=-100, hi=100, unit="%", step=1, label="Phase", group="motion",
                          help="Part of a turn by which it begins later.")  # fmt: skip

    def values(self, times: Times, around: Around) -> Values:
        if around.grid is None:
            return np.zeros(len(times))
        length = self.every * (around.grid.bar if self.unit == "bars" else 1)
        later = self.phase / 100.0
        # A hair: so that a frame that falls on a beat shows the new turn, whichever way the last bit rounded.
        turn = around.grid.beat_at(times + 1e-6) / length - later
        begun = np.floor(turn)
        since = times - around.grid.time_of((begun + later) * length)
        return waveshape(self.shape, turn - begun, np.maximum(since, 0.0), self.decay_ms, self.width)
