"""The sound of clips, mixed with the track: as their layers show them, at their times and speeds, with their fades."""

from __future__ import annotations

from collections.abc import Mapping
from copy import copy
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE
from velvetdrum.audio.filters import Samples
from velvetdrum.picture.bases.layer import DrawnLayer
from velvetdrum.picture.bases.setting_curves import SettingCurves
from velvetdrum.picture.frame.animation import settle_rates
from velvetdrum.picture.frame.render import signals_of
from velvetdrum.picture.media.clips.clip import TIMES
from velvetdrum.picture.media.clips.preparation import clip_sound
from velvetdrum.picture.media.clips.timing import Timing
from velvetdrum.scene.document import Project
from velvetdrum.scene.placed_layers import PlacedLayer
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.waves import sounding

_RAMP = 480
"""Samples between two readings of a fade."""


@dataclass(frozen=True)
class Voice:
    """One clip that is heard: its samples, shape (n, 2), 16 bit; its timing; and the layers that it fades with."""

    samples: NDArray[np.int16]
    timing: Timing
    gain: float
    layers: tuple[PlacedLayer, ...]


def voices(project: Project, use: AudioRange | None, clips: Mapping[str, str]) -> list[Voice]:
    """The clips of a project that are heard. `clips` are the folders in which they were prepared, by content hash.

    Parameters
    ----------
    project
        The project.
    use
        The used stretch of a recording.
    clips
        Paths of prepared clips by content hash.
    """
    sound = sounding(use) if use else None
    out = []
    for layers in project.drawn.values():
        for placed in layers:
            layer = placed.layer
            if not isinstance(layer, DrawnLayer) or layer.heard is None:
                continue
            if placed.moves:
                layer = copy(layer)
                curves = SettingCurves(placed, signals_of(project, use), project.frame.shape)
                settle_rates(placed, layer, {}, curves, project.length_s)
            own = layer.heard
            if own is None or own.clip not in clips:
                continue
            folder = Path(clips[own.clip])
            samples = clip_sound(folder)
            chain = _chain(project, placed)
            if samples is None or not all(item.visible for item in chain):
                continue
            times = folder / TIMES
            length = float(np.load(times)[-1]) if times.exists() else len(samples) / RATE
            timing = own.timing(layer.time_span(project.length_s, sound)[0], length, project.begin_s)
            out.append(Voice(samples, timing, 10 ** (own.gain_db / 20), chain))
    return out


def mixed(project: Project, use: AudioRange | None, heard: list[Voice], first: int, count: int) -> Samples:
    """All voices together, shape (2, count), from sample `first` of the project on, at 48 kHz. Full scale is 1.

    Parameters
    ----------
    project
        The project.
    use
        The used stretch of a recording.
    heard
        What is heard: sounds with their places and gains.
    first
        The first one, counted from 0.
    count
        How many.
    """
    out = np.zeros((2, count), np.float64)
    sound = sounding(use) if use else None
    times = (first + np.arange(count)) / RATE
    coarse = (first + np.arange(0, count + _RAMP, _RAMP)) / RATE
    for voice in heard:
        strength = np.full(len(coarse), voice.gain)
        for placed in voice.layers:
            strength *= placed.layer.fade_envelope(coarse, project.length_s, sound)
        if not strength.any():
            continue
        there = np.interp(times, coarse, strength)
        for placed in voice.layers:
            # Ends without a fade are sharp to the sample.
            begin, end = placed.layer.time_span(project.length_s, sound)
            there *= (times >= begin) & (times < end)
        places = voice.timing.source(times) * RATE
        whole = np.floor(places + 1e-6).astype(np.int64)
        part = np.clip(places - whole, 0.0, 1.0)
        last = len(voice.samples) - 1
        inside = whole <= last
        low, high = np.clip(whole, 0, last), np.clip(whole + 1, 0, last)
        for channel in range(2):
            data = voice.samples[:, channel]
            result = data[low] * (1 - part) + data[high] * part
            out[channel] += np.where(inside, result, 0.0) * there / 32767
    return out.astype(np.float32)


def _chain(project: Project, placed: PlacedLayer) -> tuple[PlacedLayer, ...]:
    """A layer and the groups that it is in."""
    out = [placed]
    while out[-1].group:
        out.append(project.by_id[out[-1].group])
    return tuple(out)
