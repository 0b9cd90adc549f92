"""A whole export in a folder: segments that are there are kept, missing ones are made, then all is joined.

The folder is the only memory. Whoever runs `run_export` again on it, after a crash or a kill, goes on where the
segments end. Work is done on any `concurrent.futures.Executor`.
"""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Executor, Future, wait
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.errors import Cancelled
from velvetdrum.deliver.checkpoints import observed
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.extras import extras_of
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.sound import HeardSound, encode_sound
from velvetdrum.deliver.sound_ends import SoundEnds
from velvetdrum.deliver.video import encode_segment
from velvetdrum.deliver.video_format import FORMATS
from velvetdrum.limits.cache import MOST_BYTES, SHARED_CACHE
from velvetdrum.limits.process import limited_time
from velvetdrum.mix.mixdown import Mixdown, SourceFiles
from velvetdrum.mix.placed_track import mix_of
from velvetdrum.picture.media.clips.preparation import PROXY
from velvetdrum.scene.document import Document, Project, parse
from velvetdrum.signals.audio_range import AudioRange

_FRAMES_KEPT, _LEAST_KEPT = 5, 60_000_000
"""What a worker keeps between frames: bytes of so many frames, and so many more."""

_JOIN_S, _JOIN_FRAME_S = 300.0, 8.0
"""Processor time in which a file is put together: at the least, and for each picture that is gone through."""
_SAID_S = 0.3
"""How often a worker says how far it is."""


@dataclass(frozen=True)
class Sources:
    """Where a project's media lie, as paths: the recording's original and the folder of its analysis (empty without
    one); by their content hash its pictures and clips, and the folders in which clips were prepared.

    Of a project whose sound is a sum, `analysis` is that of the sum, and `mix` says what it is made of, with the
    originals and the analyses of its recordings. `heard` are analyses of what else layers and signals hear, by name."""

    original: str = ""
    analysis: str = ""
    media: dict[str, str] = field(default_factory=dict)
    clips: dict[str, str] = field(default_factory=dict)
    mix: dict[str, Any] | None = None
    originals: dict[str, str] = field(default_factory=dict)
    analyses: dict[str, str] = field(default_factory=dict)
    heard: dict[str, str] = field(default_factory=dict)

    @property
    def sound(self) -> Path | Mixdown | None:
        """What is heard: a file, or the sum of several; None without a sound."""
        if self.mix is not None:
            return Mixdown(mix_of(self.mix), SourceFiles(self.originals, self.analyses))
        return Path(self.original) if self.original else None

    @property
    def small(self) -> dict[str, str]:
        """Pictures and clips for previews: of each clip its proxy, once there is one."""
        proxies = {key: str(Path(folder) / PROXY) for key, folder in self.clips.items()}
        return self.media | {key: path for key, path in proxies.items() if key in self.media and Path(path).exists()}


@dataclass(frozen=True)
class Job:
    """All that a worker needs to make one segment. Plain values: it travels to other processes and machines."""

    document: Document
    sources: Sources | None
    plan: ExportPlan
    folder: str

    @property
    def has_track(self) -> bool:
        """True when there is a sound to be heard."""
        return self.sources is not None and self.sources.sound is not None

    @property
    def has_sound(self) -> bool:
        """True when a sound is heard in what is made."""
        return self.has_track and bool(FORMATS[self.plan.format].sound)


def used_part(project: Project, sources: Sources | None) -> AudioRange | None:
    """The used stretch of a project's recording, opened from its stored analysis.

    Parameters
    ----------
    project
        The project.
    sources
        Files of the project: its analysis, its media; None where there are none.
    """
    track = project.track
    if track is None or sources is None or not sources.analysis:
        return None
    return AudioRange(Analysis(Path(sources.analysis)), track.in_s, track.out_s, tuple(sources.heard.items()))


def run_export(
    job: Job,
    executor: Executor,
    workers: int,
    output: Path,
    progress: Callable[[int], None] = lambda done: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Make what is missing of an export and join it into `output`.

    `progress` is called with the number of finished frames, a few times a second.

    Parameters
    ----------
    job
        An export: document, sources, plan, folder.
    executor
        What runs the tasks: processes here, or a cluster.
    workers
        How many processes.
    output
        The file that is written.
    progress
        Called with how many frames are done.
    cancelled
        True once the work is no longer wanted; asked at every picture.

    Raises
    ------
    Cancelled
        When `cancelled()` turns true, and whatever a worker raised.
    """
    folder = Path(job.folder)
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "cancel").unlink(missing_ok=True)
    plan = job.plan
    key = plan.key(job.document)
    stamp = folder / "plan.json"
    if _stamped(stamp) != key:
        for old in (*folder.glob("segment-*"), *folder.glob("sound.*")):
            old.unlink()
        with written_whole(stamp, "The plan of this export") as beside:
            beside.write_text(json.dumps({"key": key, "plan": asdict(plan)}))
    missing = [n for n in range(len(plan.segments)) if not segment_path(folder, n, plan).exists()]
    sound = sound_path(job)
    waiting: set[Future[None]] = set()
    if job.has_sound and not sound.exists():
        waiting.add(executor.submit(make_sound, job))
    joined = False
    try:
        while missing or waiting or not joined:
            while missing and len(waiting) < workers + 1:
                waiting.add(executor.submit(make_segment, job, missing.pop(0)))
            if not waiting:
                waiting.add(executor.submit(join_export, job, str(output)))
                joined = True
            done, waiting = wait(waiting, timeout=0.2, return_when=FIRST_COMPLETED)
            if cancelled():
                raise Cancelled
            for future in done:
                future.result()
            progress(frames_done(folder, plan))
    except BaseException:
        (folder / "cancel").touch()
        for future in waiting:
            future.cancel()
        wait(waiting, timeout=30)
        raise
    progress(plan.frames)


def join_export(job: Job, output: str) -> None:
    """Worker task: put the file together from finished segments and the sound, under a limit of processor time.

    Parameters
    ----------
    job
        An export: document, sources, plan, folder.
    output
        The file that is written.
    """
    folder, plan = Path(job.folder), job.plan
    form, share = FORMATS[plan.format], joined_share(folder)
    pictures = sum(last - first for first, last in plan.segments)
    steps, done, said = pictures * form.passes(plan), 0, 0.0

    def step() -> None:
        nonlocal done, said
        done += 1
        if (folder / "cancel").exists():
            raise Cancelled
        if time.monotonic() - said > _SAID_S:
            said = time.monotonic()
            share.write_text(f"{min(done / max(steps, 1), 1.0):.4f}")

    segments = [(segment_path(folder, n, plan), first - plan.first) for n, (first, _) in enumerate(plan.segments)]
    try:
        with limited_time(_JOIN_S + _JOIN_FRAME_S * steps), observed(step):
            form.join(segments, sound_path(job) if job.has_sound else None, plan, Path(output), extras_of(job))
    finally:
        share.unlink(missing_ok=True)


def joined_share(folder: Path) -> Path:
    """Where it stands how far the putting together of an export is, 0 to 1, while that lasts.

    Parameters
    ----------
    folder
        The folder that it lies in.
    """
    return folder / "joined"


def _stamped(stamp: Path) -> str:
    """The key of the plan that a folder's segments belong to; nothing where none can be read."""
    try:
        result = json.loads(stamp.read_text())
    except (OSError, ValueError):
        return ""
    return str(result.get("key", "")) if isinstance(result, dict) else ""


def make_segment(job: Job, number: int) -> None:
    """Worker task: draw and encode one segment.

    Parameters
    ----------
    job
        An export: document, sources, plan, folder.
    number
        Which one, counted from 0.
    """
    folder = Path(job.folder)
    count = folder / f"count-{number:05d}"
    said = time.monotonic()

    def step(done: int) -> None:
        nonlocal said
        if (folder / "cancel").exists():
            raise Cancelled
        now = time.monotonic()
        if now - said > _SAID_S:
            said = now
            count.write_text(str(done))

    # What is kept from frame to frame is not to fill the memory of as many workers as there are cores.
    SHARED_CACHE.resize(min(MOST_BYTES, _LEAST_KEPT + _FRAMES_KEPT * job.plan.width * job.plan.height * 4))
    try:
        use = used_part(parse(job.document), job.sources)
        media = job.sources.media if job.sources else {}
        encode_segment(job.document, use, job.plan, number, segment_path(folder, number, job.plan), step, media)
    finally:
        count.unlink(missing_ok=True)


def make_sound(job: Job) -> None:
    """Worker task: encode the sound.

    Parameters
    ----------
    job
        An export: document, sources, plan, folder.
    """
    form = FORMATS[job.plan.format].sound
    encode_sound(heard_by(job), sound_path(job), form=form, lufs=job.plan.loudness, ceiling_db=job.plan.true_peak)


def heard_by(job: Job) -> HeardSound:
    """What is heard in an export.

    Parameters
    ----------
    job
        An export: document, sources, plan, folder.

    Raises
    ------
    DeliverError
        Where there is no sound.
    """
    project, plan = parse(job.document), job.plan
    track = project.track
    sound = job.sources.sound if job.sources else None
    if track is None or job.sources is None or sound is None:
        raise DeliverError("There is no sound in this project.")
    return HeardSound(
        sound,
        track.in_s,
        track.out_s,
        plan.start_s,
        plan.stop_s,
        project,
        used_part(project, job.sources),
        job.sources.clips,
        SoundEnds(plan.fade_in, plan.fade_out, plan.seam),
    )


def sound_path(job: Job) -> Path:
    """Where the file of an export's sound lies.

    Parameters
    ----------
    job
        An export: document, sources, plan, folder.
    """
    return Path(job.folder) / f"sound.{FORMATS[job.plan.format].sound}"


def segment_path(folder: Path, number: int, plan: ExportPlan) -> Path:
    """Where a segment's file lies, by its number from 0.

    Parameters
    ----------
    folder
        The folder that it lies in.
    number
        Which one, counted from 0.
    plan
        What is exported: frames, size, rate, format.
    """
    form = FORMATS[plan.format]
    return folder / f"segment-{number:05d}{form.part_suffix or form.suffix}"


def frames_done(folder: Path, plan: ExportPlan) -> int:
    """Frames in finished segments and, as far as their workers have said, in those being made.

    Parameters
    ----------
    folder
        The folder that it lies in.
    plan
        What is exported: frames, size, rate, format.
    """
    total = 0
    for number, (first, last) in enumerate(plan.segments):
        if segment_path(folder, number, plan).exists():
            total += last - first
            continue
        try:
            total += int((folder / f"count-{number:05d}").read_text() or 0)
        except (OSError, ValueError):
            continue
    return min(total, plan.frames)
