"""Settings that many kinds have, each declared once: one label, one unit, one line of help."""

from __future__ import annotations

from typing import Any

from velvetdrum.declare.setting import PanelGroup, When
from velvetdrum.declare.types.number import number, whole

LEVEL_UNIT = "dBFS"
"""Levels that a figure or a signal reads: full scale is a sine at 0 dBFS."""

TILT_UNIT = "dB/oct"
"""Slopes over frequency."""

CHANNELS = {"mix": "Mix", "left": "Left", "right": "Right", "mid": "Mid", "side": "Side"}
"""What of a stereo sound is heard or read."""


def position_x(default: float = 50, *, of: str, **more: Any) -> Any:
    """Where something lies across the frame, in per cent of its width; `more` as for `number`."""
    return _position("X", "across", default, of, **more)


def position_y(default: float = 50, *, of: str, **more: Any) -> Any:
    """Where something lies down the frame, in per cent of its height; `more` as for `number`."""
    return _position("Y", "down", default, of, **more)


def _position(axis: str, way: str, default: float, of: str, lo: float = -50, hi: float = 150, **more: Any) -> Any:
    about = f"Position of {of}, {way} the frame."
    return number(default, lo=lo, hi=hi, unit="%", label=f"Position {axis}", help=about, **more)


def degrees(default: float = 0, *, help: str, lo: float = -360, hi: float = 360, **more: Any) -> Any:
    """An angle in degrees, clockwise as in CSS, in whole steps; `more` as for `number`."""
    return number(default, lo=lo, hi=hi, unit="°", step=1, help=help, **more)


def percent(default: float, *, help: str, **more: Any) -> Any:
    """A part of a whole, from none of it to all of it, in per cent; `more` as for `number`."""
    return number(default, lo=0, hi=100, unit="%", help=help, **more)


def clip_time(*, label: str, help: str, lo: float = 0, when: When = ()) -> Any:
    """A time in something that runs by a clock of its own, in its seconds."""
    return number(0, lo=lo, hi=10_800, unit="s", step=0.01, label=label, group="motion", when=when, help=help)


def quiet(default: float, *, help: str, lo: float = -120, hi: float = 20, step: float = 1) -> Any:
    """The level from which something is heard."""
    return number(default, lo=lo, hi=hi, unit=LEVEL_UNIT, step=step, label="Quiet", group="sound", help=help)


def loud(default: float, *, help: str, lo: float = -110, hi: float = 30, step: float = 1) -> Any:
    """The level from which on there is no more to be heard."""
    return number(default, lo=lo, hi=hi, unit=LEVEL_UNIT, step=step, label="Loud", group="sound", help=help)


def attack(default: float, *, of: str, group: PanelGroup = "motion") -> Any:
    """How quickly something follows a rise."""
    return _following(default, "Attack", 2000, f"Time in which {of} covers 63 % of a rise.", group)


def release(default: float, *, of: str, group: PanelGroup = "motion") -> Any:
    """How quickly something follows a fall."""
    return _following(default, "Release", 5000, f"Time in which {of} covers 63 % of a fall.", group)


def _following(default: float, label: str, most: float, about: str, group: PanelGroup) -> Any:
    return number(default, lo=0, hi=most, unit="ms", step=1, label=label, group=group, curve="log", help=about)


def seed(default: int = 1, *, of: str, group: PanelGroup = "shape", advanced: bool = True, when: When = ()) -> Any:
    """What names the chance: equal seeds give equal pictures."""
    about = f"Another number, {of}."
    return whole(default, lo=0, hi=9999, group=group, help=about, advanced=advanced, when=when)
