"""How long an export will take and how large its file will be, from a few frames made on this machine."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path

from velvetdrum.deliver.export import Job, used_part
from velvetdrum.deliver.sound_format import SOUND_FORMATS
from velvetdrum.deliver.video import drawn_frames
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.limits import openers
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.scene.document import parse

_SPOTS = (0.12, 0.38, 0.62, 0.88)
"""Where frames are taken, as shares of the stretch."""

_FRAMES = 16
_START_S, _SOUND_SHARE = 2.5, 0.012
"""Seconds until the first worker draws; how long sound takes, against its length."""

_TWICE = 1.6
"""How much longer a frame takes that is encoded again, in two passes."""

_TOGETHER = 1.12
"""By how much a frame takes longer while all cores draw: they share their caches and memory."""


@dataclass(frozen=True)
class Estimate:
    """Seconds that an export will take, and bytes that its file will have."""

    seconds: float
    bytes: int
    frame_ms: float
    """Of one frame on one core, drawn and encoded."""


def estimated(job: Job, workers: int) -> Estimate:
    """Draw and encode a few frames at several places, in this process, and reckon the rest.

    Parameters
    ----------
    job
        An export: document, sources, plan, folder.
    workers
        How many processes.
    """
    plan, form = job.plan, FORMATS[job.plan.format]
    length = float(plan.stop_s - plan.start_s)
    sound = _sound_bytes(job, length)
    if form.group == "sound":
        return Estimate(_START_S + length * _SOUND_SHARE * 3, sound, 0.0)
    if form.group == "still":
        result = _sampled(job, [first for first, _ in plan.segments][:3], 1)
        count = len(plan.segments)
        each = result.frame_s + result.written_s
        return Estimate(_START_S + each * count / min(workers, count), int(result.written * count), each * 1e3)
    count = min(_FRAMES, max(plan.frames // len(_SPOTS), 1))
    spots = sorted({plan.first + int(share * max(plan.frames - count, 0)) for share in _SPOTS})
    result = _sampled(job, spots, count)
    keys = sum(max(1, -(-(last - begin) // round(2 * plan.fraction))) for begin, last in plan.segments)
    total = keys * result.first + (plan.frames - keys) * result.other
    each = result.frame_s
    if plan.megabytes is not None:
        total = plan.megabytes * 1e6 - sound
        each *= _TWICE
    if form.rewrites:
        total = plan.frames * result.written
    # Many segments fill all cores to the end; few leave some of them waiting.
    lanes = min(workers, len(plan.segments))
    seconds = _START_S + plan.frames * each * (_TOGETHER if lanes > 1 else 1.0) / lanes + length * _SOUND_SHARE
    return Estimate(seconds + plan.frames * result.written_s, int(total + sound), each * 1e3)


@dataclass(frozen=True)
class _Sample:
    """In the mean: seconds in which a frame is drawn and encoded; bytes of the first one at a place, and of those after
    it; and where all is written anew at the end, seconds and bytes of a frame there."""

    frame_s: float
    first: float
    other: float
    written_s: float
    written: float


def _sampled(job: Job, spots: list[int], count: int) -> _Sample:
    plan, form = job.plan, FORMATS[job.plan.format]
    project = parse(job.document)
    use = used_part(project, job.sources)
    media = job.sources.media if job.sources else {}
    times: list[float] = []
    firsts: list[float] = []
    others: list[float] = []
    written, took, frames = 0, 0.0, 0
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as folder:
        for number, spot in enumerate(spots):
            part = replace(plan, first=spot, last=min(spot + count, plan.last))
            clock: list[float] = [time.perf_counter()]
            path = Path(folder) / f"part-{number}{form.part_suffix or form.suffix}"
            drawn = drawn_frames(project, use, plan, spot, part.last, media=media)
            form.encode(_clocked(drawn, clock), path, part)
            # The first frames pay for what is kept afterwards.
            steps = [b - a for a, b in pairwise(clock)]
            times += steps[3:] or steps
            sizes = _packet_sizes(path)
            firsts.append(sizes[0] if sizes else 0.0)
            others += sizes[1:]
            if form.rewrites:
                begin, whole = time.perf_counter(), Path(folder) / f"whole-{number}{form.suffix}"
                form.join([(path, 0)], None, replace(part, moments=1), whole)
                took, written = took + time.perf_counter() - begin, written + whole.stat().st_size
                frames += part.frames
    first = statistics.fmean(firsts)
    mean = statistics.fmean(times) if times else 0.1
    other = statistics.fmean(others) if others else first
    return _Sample(mean, first, other, took / max(frames, 1), written / max(frames, 1))


def _clocked(frames: Iterable[Pixels], clock: list[float]) -> Iterator[Pixels]:
    """Frames as they are; when each was taken and encoded is noted."""
    for pixels in frames:
        yield pixels
        clock.append(time.perf_counter())


def _packet_sizes(path: Path) -> list[float]:
    with openers.own_media(path) as container:
        return [float(packet.size) for packet in container.demux() if packet.size]


def _sound_bytes(job: Job, length: float) -> int:
    name = FORMATS[job.plan.format].sound
    if not name or not job.has_track:
        return 0
    bits = SOUND_FORMATS[name].bit_rate(2)
    # Without a rate of its own, sound is kept in 24 bits; what is packed without loss takes about six tenths.
    return int(length * (bits or 48_000 * 2 * 24 * (0.6 if name == "flac" else 1.0)) / 8)
