"""The shapes that clocks and LFOs repeat: pulse, saw, triangle, sine, square; each from 0 to 1."""

from __future__ import annotations

import numpy as np

from velvetdrum.signals.kinds import Times, Values

SHAPES = {"pulse": "Pulse", "saw": "Saw", "triangle": "Triangle", "sine": "Sine", "square": "Square"}


def waveshape(shape: str, phase: Times, since_s: Times, decay_ms: float, width: float) -> Values:
    """One period of a shape at `phase` (0 to 1).

    `since_s`: seconds since the period began; a pulse has fallen by 63 % after `decay_ms`. `width`: per cent of
    the period for which a square is up.
    """
    match shape:
        case "pulse":
            return np.exp(-since_s * 1000.0 / max(decay_ms, 1e-3))
        case "saw":
            return phase
        case "triangle":
            return 1.0 - np.abs(2.0 * phase - 1.0)
        case "sine":
            return 0.5 - 0.5 * np.cos(2.0 * np.pi * phase)
        case _:
            return np.where(phase < width / 100.0, 1.0, 0.0)
