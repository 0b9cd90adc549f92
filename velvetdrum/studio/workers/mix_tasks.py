"""What workers do with tracks: their sum, its levels, gains, and the sum before voices were made even."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.errors import SoundError
from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.mix.mix_analysis import analyse_mix
from velvetdrum.mix.mix_levels import SumLevels, TrackLevels, loudness_curve, sum_levels, track_levels
from velvetdrum.mix.mixdown import Mixdown, SourceFiles, gain_curve_db
from velvetdrum.mix.placed_track import VoiceChain, mix_of
from velvetdrum.picture.frame.render import signals_of
from velvetdrum.scene.tracks import MOST_POINTS
from velvetdrum.signals.polyline import simplified
from velvetdrum.studio.workers.damage import SOUND, damage_as
from velvetdrum.studio.workers.notes import teller
from velvetdrum.studio.workers.scenes import Scene, project_of

_A_SECOND = 60
_TOLERANCE_DB = 0.25


def gain_points(
    scene: Scene, sources: Sources | None, signal: str, low_db: float, high_db: float
) -> list[dict[str, float]]:
    """What a signal makes of a gain over the project: few points of the timeline that keep it within a quarter of a
    decibel, as long as there are not more of them than a track may have."""
    project = project_of(scene)
    use = used_part(project, sources)
    times = np.arange(int(project.length_s * _A_SECOND) + 1) / _A_SECOND
    values = np.clip(signals_of(project, use).values(signal, times), 0.0, 1.0)
    gains = low_db + (high_db - low_db) * values
    chosen = simplified(times, gains, _TOLERANCE_DB, MOST_POINTS)
    begin = use.in_s if use else 0.0
    rows = zip(times[chosen] + begin, gains[chosen], strict=True)
    return [{"time_s": round(float(time), 3), "value": round(float(gain), 2)} for time, gain in rows]


def mixed_now(sources: Sources, first: int, count: int, recorded: bool) -> bytes:
    """A stretch of the sum, mixed just now, or with its voices as they were recorded: float samples of both channels in
    turn."""
    assert sources.mix is not None
    spec = mix_of(sources.mix)
    if recorded:
        spec = replace(spec, tracks=tuple(replace(track, voice=VoiceChain()) for track in spec.tracks))
    files = SourceFiles(sources.originals, sources.analyses)
    blocks = list(Mixdown(spec, files, heard=True).blocks(first, count))
    samples = np.concatenate(blocks, axis=1) if blocks else np.zeros((2, 0), np.float32)
    both = samples if len(samples) == 2 else np.repeat(samples, 2, axis=0)
    return both.T.astype(np.float32).tobytes()


def analyse_sum(
    mix: dict[str, Any], originals: dict[str, str], analyses: dict[str, str], folder: str, notes: str
) -> None:
    """Analyse the sum of tracks, or a part of it, into a folder; progress and stopping as in `analyse_sound`. Raises
    SoundError."""
    with damage_as(SoundError, SOUND):
        analyse_mix(mix_of(mix), SourceFiles(originals, analyses), Path(folder), teller(notes))


def track_gains(
    scene: Scene, analyses: dict[str, str], start_s: float, stop_s: float, count: int
) -> dict[str, list[float]]:
    """Gains of tracks that points and voices move, in dB, at even times of the timeline, by the track's id."""
    sound = project_of(scene).sound
    if sound is None:
        return {}
    spec = sound.mix
    recordings = {key: Analysis(Path(folder)) for key, folder in analyses.items()}
    times = np.linspace(start_s, stop_s, count)
    moved = {track.id: gain_curve_db(track, spec.tracks, recordings) for track in spec.tracks}
    return {ident: np.round(curve(times), 2).tolist() for ident, curve in moved.items() if curve is not None}


def read_levels(
    scene: Scene, sources: Sources | None, analyses: dict[str, str], start: int, count: int
) -> dict[str, Any]:
    """Levels of the tracks and of their sum at readings of the timeline, 60 a second."""
    project = project_of(scene)
    use = used_part(project, sources)
    if project.sound is None or use is None:
        return {"tracks": {}, "sum": {}}
    spec = project.sound.mix
    recordings = {key: Analysis(Path(folder)) for key, folder in analyses.items()}
    tracks = {track.id: track_levels(track, spec, recordings, start, count) for track in spec.tracks}
    both = sum_levels(use.recording, start, count)
    return {
        "tracks": {ident: _rounded(levels, 1) for ident, levels in tracks.items()},
        "sum": _rounded(both, 2),
    }


def _rounded(readings: SumLevels | TrackLevels, digits: int) -> dict[str, list[float]]:
    return {name: np.round(values, digits).tolist() for name, values in vars(readings).items()}


def read_loudness(scene: Scene, sources: Sources | None, count: int) -> list[float]:
    """Short-term loudness of a project at even times from its begin to its end, in LUFS."""
    use = used_part(project_of(scene), sources)
    return [] if use is None else np.round(loudness_curve(use.recording, use.in_s, use.out_s, count), 1).tolist()
