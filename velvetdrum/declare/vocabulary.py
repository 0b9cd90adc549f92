"""Settings that many kinds have, each declared once: one label, one unit, one line of help."""

from __future__ import annotations

from typing import Any

from velvetdrum.declare.setting import PanelGroup, When
from velvetdrum.declare.types.number import number, whole


def position_x(
    default: float = 50,
    *,
    of: str,
    lo: float = -50,
    hi: float = 150,
    group: PanelGroup = "shape",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """Where something lies across the frame, in per cent of its width."""
    about = f"Position of {of}, across the frame."
    return number(
        default, lo=lo, hi=hi, unit="%", label="Position X", help=about, group=group, advanced=advanced, when=when
    )


def position_y(
    default: float = 50,
    *,
    of: str,
    lo: float = -50,
    hi: float = 150,
    group: PanelGroup = "shape",
    advanced: bool = False,
    when: When = (),
) -> Any:
    """Where something lies down the frame, in per cent of its height."""
    about = f"Position of {of}, down the frame."
    return number(
        default, lo=lo, hi=hi, unit="%", label="Position Y", help=about, group=group, advanced=advanced, when=when
    )


def seed(default: int = 1, *, of: str, group: PanelGroup = "shape", advanced: bool = True, when: When = ()) -> Any:
    """What names the chance: equal seeds give equal pictures."""
    about = f"Another number, {of}."
    return whole(default, lo=0, hi=9999, group=group, help=about, advanced=advanced, when=when)


LEVEL_UNIT = "dBFS"
"""Levels that a figure or a signal reads: full scale is a sine at 0 dBFS."""

TILT_UNIT = "dB/oct"
"""Slopes over frequency."""
