"""The shapes that clocks and LFOs repeat: pulse, saw, triangle, sine, square; each from 0 to 1."""

from __future__ import annotations

from typing import Any

import numpy as np

from velvetdrum.declare.settings import choice, number
from velvetdrum.signals.kinds import Times, Values

_SHAPES = {"pulse": "Pulse", "saw": "Saw", "triangle": "Triangle", "sine": "Sine", "square": "Square"}


def form(default: str) -> Any:
    """The setting that names the shape; `decay`, `duty_cycle` and `phase_offset` go with it.

    Parameters
    ----------
    default
        The form where none is given.
    """
    return choice(default, _SHAPES, label="Form", help="The form of one turn.")


def decay() -> Any:
    """The setting for how fast a decaying shape falls, in ms."""
    return number(
        220,
        lo=5,
        hi=5000,
        unit="ms",
        step=1,
        label="Decay",
        curve="log",
        group="motion",
        help="Time in which a pulse falls by 63 %.",
        when=("shape", ("pulse",)),
    )


def duty_cycle() -> Any:
    """The setting for the share of a turn that a square or a gate is up, in per cent."""
    return number(
        50,
        lo=1,
        hi=99,
        unit="%",
        step=1,
        label="Duty cycle",
        group="motion",
        help="Part of a turn for which a square is up.",
        when=("shape", ("square",)),
    )


def phase_offset() -> Any:
    """The setting for where in its turn a shape begins, in per cent."""
    return number(
        0,
        lo=-100,
        hi=100,
        unit="%",
        step=1,
        label="Phase",
        group="motion",
        help="Part of a turn by which it begins later.",
    )


def waveshape(shape: str, phase: Times, since_s: Times, decay_ms: float, width: float) -> Values:
    """One period of a shape at `phase` (0 to 1).

    `since_s`: seconds since the period began; a pulse has fallen by 63 % after `decay_ms`. `width`: per cent of
    the period for which a square is up.

    Parameters
    ----------
    shape
        Name of the form.
    phase
        Turns since the form began.
    since_s
        Seconds since the trigger.
    decay_ms
        Time to 1/e, in ms.
    width
        Share of the turn that a pulse is high, 0 to 1.
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
