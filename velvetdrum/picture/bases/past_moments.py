"""Moments that effects look back to: the last beat, or the last hit of a setting that a signal moves."""

from __future__ import annotations

import numpy as np

from velvetdrum.picture.bases.effect_context import EffectContext

_STEPS = 120
"""Points a second at which hits are looked for."""


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
    # Points of the grid up to now, and now itself; times before the project began have no hits.
    last = int(np.ceil(time_s * _STEPS - 1e-6)) - 1
    first = max(int(np.ceil((time_s - most_s) * _STEPS - 1e-6)), 0)
    times = np.append(np.arange(first, last + 1) / _STEPS, time_s)
    above = context.values(setting, times) > 50
    rises = np.flatnonzero(above[1:] & ~above[:-1])
    return float(max(time_s - times[rises[-1] + 1], 0.0)) if rises.size else None
