"""Moments that effects look back to: the last beat, or the last hit of a setting that a signal moves."""

from __future__ import annotations

from typing import Any

import numpy as np

from velvetdrum.picture.bases.effect_context import EffectContext

_STEP_S = 1 / 120
"""How finely hits are looked for."""


def since_beat(context: EffectContext, every: float) -> float | None:
    """Seconds since the last of every so many beats, counted from a bar; None without a beat."""
    grid, time_s = context.moment.beats, context.time_s
    if grid is None:
        return None
    beat = float(grid.beat_at(np.array([time_s]))[0])
    last = np.floor(beat / every + 1e-6) * every
    return max(time_s - float(grid.time_of(np.array([last]))[0]), 0.0)


def since_hit(context: EffectContext, setting: str, most_s: float) -> float | None:
    """Seconds since a setting of the effect last rose beyond 50, looked for in the last `most_s` seconds on a grid of
    1/120 s that does not depend on the time; None where it did not."""
    time_s = context.time_s
    # The grid's last point before now; times before the project began have no hits.
    first = time_s - np.floor(time_s / _STEP_S) * _STEP_S
    above = _value(context, 0.0, setting) > 50
    back = first if first > 1e-9 else _STEP_S
    result: float | None = None
    while back <= most_s and time_s - back >= -1e-9:
        before = _value(context, back, setting) > 50
        if above and not before:
            result = back - _STEP_S if back > _STEP_S else 0.0
            break
        above, back = before, back + _STEP_S
    return None if result is None else max(result, 0.0)


def _value(context: EffectContext, seconds: float, setting: str) -> float:
    then: Any = context.effect_earlier(seconds)
    return float(getattr(then.effect, setting))
