"""The low-frequency oscillator: a shape that repeats so many times a second."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.waveshapes import decay, duty_cycle, form, phase_offset, waveshape


@signal_kind("lfo", "LFO")
class Lfo(Signal):
    """A shape that repeats so many times a second, free of the sound."""

    order: ClassVar[int] = 3
    summary: ClassVar[str] = "{rate_hz} · {shape}"

    rate_hz: float = number(
        0.5, lo=0.01, hi=30, unit="Hz", step=0.01, label="Rate", curve="log", help="Periods per second."
    )
    shape: str = form("sine")
    decay_ms: float = decay()
    width: float = duty_cycle()
    phase: float = phase_offset()

    def values(self, times: Times, context: SignalContext) -> Values:
        turn = (times + 1e-6) * self.rate_hz - self.phase / 100.0
        phase = turn - np.floor(turn)
        return waveshape(self.shape, phase, phase / self.rate_hz, self.decay_ms, self.width)
