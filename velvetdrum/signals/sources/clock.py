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
        length = self.every * (context.grid.bar if self.unit == "bars" else 1)
        delay = self.phase / 100.0
        # A hair: so that a frame that falls on a beat shows the new turn, whichever way the last bit rounded.
        turn = context.grid.beat_at(times + 1e-6) / length - delay
        begun = np.floor(turn)
        since = times - context.grid.time_of((begun + delay) * length)
        return waveshape(self.shape, turn - begun, np.maximum(since, 0.0), self.decay_ms, self.width)
