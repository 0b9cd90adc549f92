"""The clock: a shape that repeats on the beats."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import choice, whole
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.waveshapes import decay, duty_cycle, form, phase_offset, waveshape


@signal_kind("clock", "Clock")
class Clock(Signal):
    """A shape that repeats every so many beats or bars, locked to the beats of the recording."""

    order: ClassVar[int] = 2
    keeps_beats: ClassVar[bool] = True
    summary: ClassVar[str] = "every {every} {unit} · {shape}"

    every: int = whole(1, lo=1, hi=64, label="Period", help="How many beats or bars one turn takes.")
    unit: str = choice("beats", {"beats": "Beats", "bars": "Bars"}, label="Unit", help="Unit that is counted.")
    shape: str = form("pulse")
    decay_ms: float = decay()
    width: float = duty_cycle()
    phase: float = phase_offset()

    def values(self, times: Times, context: SignalContext) -> Values:
        if context.grid is None:
            return np.zeros(len(times))
        grid = context.grid
        # Bars are counted as they are long: a meter may change.
        count, begin = (grid.bar_at, grid.time_of_bar) if self.unit == "bars" else (grid.beat_at, grid.time_of)
        delay = self.phase / 100.0
        # A hair: so that a frame that falls on a beat shows the new turn, whichever way the last bit rounded.
        turn = count(times + 1e-6) / self.every - delay
        begun = np.floor(turn)
        since = times - begin((begun + delay) * self.every)
        return waveshape(self.shape, turn - begun, np.maximum(since, 0.0), self.decay_ms, self.width)
