"""The low-frequency oscillator: a shape that repeats so many times a second."""

from __future__ import annotations

import numpy as np

from velvetdrum.kinds.settings import choice, number
from velvetdrum.signals.kinds import Around, Signal, Times, Values, signal_kind
from velvetdrum.signals.waveshapes import SHAPES, waveshape


@signal_kind("lfo", "LFO")
class Lfo(Signal):
    """A shape that repeats so many times a second, free of the sound."""

    rate_hz: float = number(0.5, lo=0.01, hi=30, unit="Hz", step=0.01, label="Rate", curve="log",
                            help="Turns per second.")  # fmt: skip
    shape: str = choice("sine", SHAPES, label="Form", help="The form of one turn.")
    decay_ms: float = number(220, lo=5, hi=5000, unit="ms", step=1, label="Decay", curve="log", group="motion",
                             help="Time in which a pulse falls by 63 %.", when=("shape", ("pulse",)))  # fmt: skip
    width: float = number(50, lo=1, hi=99, unit="%", step=1, label="Up for", group="motion",
                          help="Part of a turn for which a square is up.", when=("shape", ("square",)))  # fmt: skip
    phase: float = number(0, lo=-100, hi=100, unit="%", step=1, label="Phase", group="motion",
                          help="Part of a turn by which it begins later.")  # fmt: skip

    def values(self, times: Times, around: Around) -> Values:
        turn = (times + 1e-6) * self.rate_hz - self.phase / 100.0
        phase = turn - np.floor(turn)
        return waveshape(self.shape, phase, phase / self.rate_hz, self.decay_ms, self.width)
