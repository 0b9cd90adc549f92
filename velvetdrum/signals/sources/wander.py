"""Wander: smooth noise from a seed."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number
from velvetdrum.declare.vocabulary import percent, seed
from velvetdrum.signals.kinds import Signal, SignalContext, Times, Values, signal_kind
from velvetdrum.signals.noise import lattice_noise

_OCTAVES = 5


@signal_kind("wander", "Wander")
class Wander(Signal):
    """Smooth noise: goes its own way, the same way each time."""

    order: ClassVar[int] = 4
    summary: ClassVar[str] = "wander · {rate_hz}"

    rate_hz: float = number(
        0.5, lo=0.01, hi=20, unit="Hz", step=0.01, label="Rate", curve="log", help="New directions per second."
    )
    roughness: float = percent(25, step=1, help="Strength of quicker trembling on top.")
    seed: int = seed(of="another way", advanced=False)

    def values(self, times: Times, context: SignalContext) -> Values:
        gain, total, weight = self.roughness / 100.0, np.zeros(len(times)), 0.0
        for octave in range(_OCTAVES):
            amount = gain**octave if octave else 1.0
            if amount < 1e-4:
                break
            total += amount * (lattice_noise(times * self.rate_hz * 2**octave, self.seed * _OCTAVES + octave) - 0.5)
            weight += amount**2
        # Uniform lattice values have a spread that shrinks where they are blended and added; this evens it out.
        return np.clip(0.5 + 1.25 * total / np.sqrt(weight), 0.0, 1.0)
