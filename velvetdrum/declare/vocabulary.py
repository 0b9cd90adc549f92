"""Settings that many kinds have, each declared once: one label, one unit, one line of help."""

from __future__ import annotations

from typing import Any

from velvetdrum.declare.setting import PanelGroup, When
from velvetdrum.declare.types.number import number, whole


def position_x(default: float = 50, *, of: str, **more: Any) -> Any:
    """Where something lies across the frame, in per cent of its width; `more` as for `number`."""
    return _position("X", "across", default, of, **more)


def position_y(default: float = 50, *, of: str, **more: Any) -> Any:
    """Where something lies down the frame, in per cent of its height; `more` as for `number`."""
    return _position("Y", "down", default, of, **more)


def _position(axis: str, way: str, default: float, of: str, lo: float = -50, hi: float = 150, **more: Any) -> Any:
    about = f"Position of {of}, {way} the frame."
    return number(default, lo=lo, hi=hi, unit="%", label=f"Position {axis}", help=about, **more)


def seed(default: int = 1, *, of: str, group: PanelGroup = "shape", advanced: bool = True, when: When = ()) -> Any:
    """What names the chance: equal seeds give equal pictures."""
    about = f"Another number, {of}."
    return whole(default, lo=0, hi=9999, group=group, help=about, advanced=advanced, when=when)


LEVEL_UNIT = "dBFS"
"""Levels that a figure or a signal reads: full scale is a sine at 0 dBFS."""

TILT_UNIT = "dB/oct"
"""Slopes over frequency."""
