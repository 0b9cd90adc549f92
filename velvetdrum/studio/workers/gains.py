"""Made of tracks in a worker: gains that do what a signal does, and the sum before voices were made even."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.mix.mixdown import Mixdown, SourceFiles
from velvetdrum.mix.placed_track import VoiceChain, mix_of
from velvetdrum.picture.frame.render import signals_of
from velvetdrum.scene.tracks import MOST_POINTS
from velvetdrum.signals.polyline import simplified
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


def mix_before(sources: Sources, first: int, count: int) -> bytes:
    """A stretch of the sum with its voices as they were recorded: float samples of both channels in turn."""
    assert sources.mix is not None
    spec = mix_of(sources.mix)
    plain = replace(spec, tracks=tuple(replace(track, voice=VoiceChain()) for track in spec.tracks))
    files = SourceFiles(sources.originals, sources.analyses)
    blocks = list(Mixdown(plain, files).blocks(first, count))
    samples = np.concatenate(blocks, axis=1) if blocks else np.zeros((2, 0), np.float32)
    both = samples if len(samples) == 2 else np.repeat(samples, 2, axis=0)
    return both.T.astype(np.float32).tobytes()
