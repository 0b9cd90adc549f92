"""What worker processes do for exports besides making them: reckoning, looking at what was made."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.deliver.batch import parse_episodes
from velvetdrum.deliver.checks.flashes import FlashSpan
from velvetdrum.deliver.checks.frame_measures import findings_of, keep_seen, kept_seen, see
from velvetdrum.deliver.checks.report import check_video
from velvetdrum.deliver.checks.softener import softened
from velvetdrum.deliver.checks.watch_outs import watch_outs
from velvetdrum.deliver.estimate import estimated
from velvetdrum.deliver.excerpts import excerpts
from velvetdrum.deliver.export import Job, Sources, used_part
from velvetdrum.limits.door import Bounds
from velvetdrum.limits.process import MEMORY_BYTES, limited_time
from velvetdrum.scene.document import parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.grid import BeatGrid
from velvetdrum.studio.workers.scenes import Scene, project_of
from velvetdrum.studio.workers.word_tasks import with_ids
from velvetdrum.words.alignment.aligner import align
from velvetdrum.words.cue_files import read_text
from velvetdrum.words.cue_groups import CueShape, Token, cues_of

_LOOK_S = 900.0
_ESTIMATE_S = 40.0
_SEGMENT_S, _SOFTEN_S, _EXCERPTS_S = 300.0, 90.0, 30.0


def estimate(job: Job, workers: int) -> dict[str, Any]:
    """Seconds and bytes of an export."""
    with limited_time(_ESTIMATE_S):
        return asdict(estimated(job, workers))


def look_at_file(path: str) -> dict[str, Any]:
    """What a finished video was found to be."""
    with limited_time(_LOOK_S):
        return check_video(Path(path)).values()


def see_segment(job: Job, number: int, path: str) -> None:
    """Draw the frames of a small plan's segment and keep what is seen of them."""
    project = parse(job.document)
    first, last = job.plan.segments[number]
    media = job.sources.small if job.sources else {}
    with limited_time(_SEGMENT_S):
        keep_seen(see(project, used_part(project, job.sources), job.plan, first, last, media=media), Path(path))


def judge_seen(job: Job, paths: list[str], sizes: list[tuple[int, int]]) -> dict[str, Any]:
    """What was found of all segments, and what to watch out for in frames of several sizes."""
    project = parse(job.document)
    use = used_part(project, job.sources)
    media = job.sources.media if job.sources else {}
    with limited_time(_SEGMENT_S):
        result = findings_of([kept_seen(Path(path)) for path in paths], float(job.plan.fraction))
        told = watch_outs(project, use, job.plan, result, [FrameSize(*size) for size in sizes], media)
    return result.values() | {"watch": [item.values() for item in told]}


def soften(job: Job, span: dict[str, Any]) -> dict[str, Any] | None:
    """The patch that makes a stretch flash, turned down; None where there is none."""
    use = used_part(parse(job.document), job.sources)
    media = job.sources.small if job.sources else {}
    with limited_time(_SOFTEN_S):
        held = FlashSpan(**span)
        result = softened(job.document, use, job.plan, (held.start_s, held.end_s), held.kind, media)
    return None if result is None else asdict(result) | {"label": result.label, "steps": result.patches}


def find_excerpts(scene: Scene, sources: Sources | None, length_s: float) -> list[dict[str, Any]]:
    """Stretches that carry best."""
    project = project_of(scene)
    use = used_part(project, sources)
    if use is None:
        return []
    with limited_time(_EXCERPTS_S):
        return [asdict(result) for result in excerpts(project, use, length_s, BeatGrid.of(project.beats, use))]


def read_episodes(data: bytes, name: str) -> list[dict[str, Any]]:
    """The rows of a table of episodes as plain values. Raises DeliverError."""
    return [
        {
            "line": item.line,
            "title": item.title,
            "speaker": item.speaker,
            "look": item.look,
            "files": {kind: str(path) for kind, path in item.files.items()},
        }
        for item in parse_episodes(data, name, Path())
    ]


def alignment_bounds(seconds: float) -> Bounds:
    """What aligning words to so many seconds of sound may use."""
    return Bounds(120.0 + 3.0 * seconds, MEMORY_BYTES)


def align_transcript(folder: str, data: bytes) -> dict[str, Any]:
    """Cues of a transcript, aligned to a recording, by new ids. Raises CueError."""
    recording = Analysis(Path(folder))
    result = align(recording.pcm, read_text(data, []))
    tokens = [Token(item.token, item.word, item.line) for item in result.tokens]
    return with_ids(cues_of(tokens, CueShape(by="sentence", chars=32, lines=2)))
