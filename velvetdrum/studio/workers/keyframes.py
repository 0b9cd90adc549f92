"""Keyframes made in a worker: what moves a setting, as few of them."""

from __future__ import annotations

from typing import Any

import numpy as np

from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.picture.frame.render import signals_of
from velvetdrum.scene.keyframes import MOST_KEYFRAMES
from velvetdrum.signals.polyline import simplified
from velvetdrum.studio.workers.scenes import Scene, project_of


def simplified_keyframes(
    scene: Scene, sources: Sources | None, layer: str, place: str, tolerance: float
) -> list[dict[str, Any]]:
    """What keyframes and signals make of a number of a layer, by its address, over the project: few keyframes that keep
    it within a share of the setting's range."""
    project = project_of(scene)
    placed = project.by_id[layer]
    signals = signals_of(project, used_part(project, sources))
    times = np.array([float(project.time_of(number)) for number in range(project.frame_count)])
    values = SettingCurves(placed, signals, project.frame.shape).values(place, times)
    setting = placed.setting_at(place)
    assert setting is not None
    chosen = simplified(times, values, tolerance * (setting.hi - setting.lo), MOST_KEYFRAMES)
    frames = zip(times[chosen], values[chosen], strict=True)
    return [
        {"time_s": round(float(time), 6), "value": round(float(value), 6), "ease": "linear"} for time, value in frames
    ]
