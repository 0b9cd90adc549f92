"""The moments at which a design is judged: first and last sound, the quietest and the loudest place."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.limits.cache import cached
from velvetdrum.scene.document import Document, parse


def moments_of(document: Document, analysis: str | None) -> list[dict[str, Any]]:
    """The moments of a project as name, label and frame, in the order in which they are shown.

    Without a recording there are only the first and the last frame.
    """
    project = parse(document)
    last = project.frame_count - 1
    track = project.track
    if track is None or analysis is None:
        return [_moment("first", "first frame", 0), _moment("last", "last frame", last)]
    first_s, quiet_s, loud_s, last_s = _places(analysis, track.in_s, min(track.out_s, track.in_s + project.length_s))

    def frame(seconds: float) -> int:
        return min(max(round((seconds - track.in_s) * float(project.rate)), 0), last)

    return [
        _moment("first", "first sound", frame(first_s)),
        _moment("quietest", "quietest", frame(quiet_s)),
        _moment("loudest", "loudest", frame(loud_s)),
        _moment("last", "last sound", frame(last_s)),
    ]


@cached
def _places(analysis: str, in_s: float, out_s: float) -> tuple[float, float, float, float]:
    recording = Analysis(Path(analysis))
    facts = recording.facts
    loud, quiet = recording.loudest_and_quietest_s(in_s, out_s)
    return max(facts.first_sound_s, in_s), quiet, loud, min(facts.last_sound_s, out_s)


def _moment(name: str, label: str, frame: int) -> dict[str, Any]:
    return {"name": name, "label": label, "frame": frame}
