"""What exports cost beside encoding alone, on one worker, on several and on a cluster; and what memory they take."""

from __future__ import annotations

import os
import socket
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor, wait
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path

import numpy as np
import soundfile

from bench.rows import Row
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.deliver.cluster import ClusterExecutor, packed, parcels_of
from velvetdrum.deliver.export import Job, Sources, make_segment, run_export, used_part
from velvetdrum.deliver.formats.mp4 import WORK, encode_frames
from velvetdrum.deliver.plan import plan_export
from velvetdrum.demo.designs import song_design
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_track, parse
from velvetdrum.scene.frames import FrameSize

CORES = os.cpu_count() or 1
_BARS = {"quick": 1.35, "balanced": 1.2}
_ROUNDS = 2
HOUR_S = 3600


def encode_ready(store: str, shape: tuple[int, ...], first: int, last: int, path: str, job: Job) -> None:
    """Baseline task: frames that lie ready in memory, encoded as the export does."""
    frames = np.memmap(store, np.uint8, "r", shape=shape)
    plan = job.plan
    size = {"width": plan.width, "height": plan.height}
    encode_frames(
        (frames[n] for n in range(first, last)), Path(path), **size, rate=plan.fraction, work=WORK[plan.speed]
    )


def bench_speeds(folder: Path, jobs: dict[str, Job]) -> Iterator[Row]:
    """Plain and designed, at each speed: beside encoding their ready frames, and beside real time."""
    with _pool(CORES) as pool:
        for what, job in jobs.items():
            store, shape = _ready(folder, job)
            for speed, most in _BARS.items():
                asked = replace(job, plan=replace(job.plan, speed=speed))  # type: ignore[arg-type]
                alone, whole = [], []
                for number in range(_ROUNDS + 1):  # in turns, so that a slow minute of the machine meets both
                    alone.append(_alone(pool, store, shape, folder, asked))
                    whole.append(_whole(pool, CORES, folder, asked, f"{what}-{speed}-{number}"))
                took, limit = statistics.median(whole[1:]), most * statistics.median(alone[1:])
                seconds = float(job.plan.stop_s - job.plan.start_s)
                told = (
                    f"{most} times encoding ready frames; {job.plan.frames / took:.1f} frames/s, {seconds / took:.2f}"
                )
                yield Row(f"{what} at 1080p, {speed}, {CORES} cores", took, "s", limit, f"{told} of real time")


def bench_workers(folder: Path, job: Job) -> Iterator[Row]:
    """One worker, and two; and what a worker takes of memory, at two sizes, early and late in an hour."""
    job = replace(job, plan=replace(job.plan, speed="quick", last=job.plan.first + 240))
    with _pool(1) as one:
        single = statistics.median(_whole(one, 1, folder, job, f"one-{n}") for n in range(_ROUNDS))
    with _pool(2) as two:
        double = statistics.median(_whole(two, 2, folder, job, f"two-{n}") for n in range(_ROUNDS))
    yield Row("8 s at 1080p, quick, two workers", double, "s", single / 1.8, "one worker's time over 1.8")
    for size, most in ((FrameSize(1920, 1080), 700.0), (FrameSize(3840, 2160), 1500.0)):
        plan = replace(job.plan, width=size.width, height=size.height, last=job.plan.first + 60)
        with _pool(1) as pool:
            _whole(pool, 1, folder, replace(job, plan=plan), f"memory-{size.width}")
            peak = max(pool.submit(_peak_mb).result(), 1.0)
        yield Row(f"memory of a worker at {size.width}x{size.height}", peak, "MB", most, "its bound")


def bench_hour(folder: Path, song: Path) -> Iterator[Row]:
    """The pictures of four seconds of an hour's last round of the demo song, beside those of its first. The sound is
    read from its beginning once, whatever part is exported."""
    samples, rate = soundfile.read(song, dtype="int16")
    rounds = HOUR_S * rate // len(samples)
    path = folder / "hour.flac"
    with soundfile.SoundFile(path, "w", rate, 2) as file:
        for _ in range(rounds):
            file.write(samples)
    recording = analyse(path, folder / "hour", key="hour")
    length = recording.facts.duration_s
    document = song_design(new_track("0" * 64, "hour.flac", length), recording)
    sources = Sources(str(path), str(folder / "hour"))
    last = (rounds - 1) * len(samples) / rate
    times: dict[str, list[float]] = {"first": [], "last": []}
    with _pool(1) as pool:
        for turn in range(_ROUNDS + 1):
            for name, start in (("first", 8.0), ("last", last + 8.0)):
                plan = plan_export(document, from_s=start, to_s=start + 4.0, size=FrameSize(1280, 720), speed="quick")
                job = Job(document, sources, plan, str(folder / f"hour-{name}-{turn}"))
                Path(job.folder).mkdir()
                begin = time.perf_counter()
                wait([pool.submit(make_segment, job, number) for number in range(len(plan.segments))])
                times[name].append(time.perf_counter() - begin)
    first, took = (statistics.median(times[name][1:]) for name in ("first", "last"))
    told = f"1.05 times the first {first:.2f} s"
    yield Row(f"4 s at minute {last / 60:.0f}, 720p, one worker", took, "s", 1.05 * first, told)


def bench_cluster(folder: Path, job: Job) -> Iterator[Row]:
    """The same export on 1, 2 and 4 workers of a Dask cluster on this machine."""
    job = replace(job, plan=replace(job.plan, speed="quick", last=job.plan.first + 360))
    seconds = float(job.plan.stop_s - job.plan.start_s)
    need = sum(len(packed(parcel)) for parcel in parcels_of(job.sources))
    yield Row("what a worker is sent once: analysis, pictures, clips", need / 1e6, "MB")
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    address = f"tcp://127.0.0.1:{port}"
    running = [_dask(folder, "dask_scheduler", "--host", "127.0.0.1", "--port", str(port), "--no-dashboard")]
    first = 0.0
    try:
        for count in (1, 2, 4):
            while len(running) < count + 1:
                more = ("--nthreads", "1", "--no-nanny", "--no-dashboard", "--local-directory")
                running.append(_dask(folder, "dask_worker", address, *more, str(folder / f"worker-{len(running)}")))
            with _pool(1) as local:
                executor = ClusterExecutor(address, local)
                executor._client.wait_for_workers(count, timeout=60)
                for turn in ("warm", "timed"):
                    own = replace(job, folder=str(folder / f"cluster-{count}-{turn}"))
                    Path(own.folder).mkdir()
                    executor._shared[own.folder] = False
                    begin = time.perf_counter()
                    run_export(own, executor, count, folder / "cluster.mp4")
                    took = time.perf_counter() - begin
                made = sum(path.stat().st_size for path in Path(own.folder).glob("segment-*"))
                executor.shutdown()
            first = first or took
            back = made / seconds * 60 / 1e6
            told = f"{job.plan.frames / took:.1f} frames/s, {first / took:.2f} times one; {back:.0f} MB"
            yield Row(f"{seconds:.0f} s at 1080p, quick, cluster of {count}", took, "s", 0.0, f"{told} back a minute")
    finally:
        for process in reversed(running):
            process.kill()
            process.wait()


def _dask(folder: Path, module: str, *words: str) -> subprocess.Popen[bytes]:
    log = (folder / f"{module}-{time.time_ns()}.log").open("wb")
    command = [sys.executable, "-m", f"distributed.cli.{module}", *words]
    return subprocess.Popen(command, stdout=log, stderr=log, cwd=Path(__file__).parents[1])


def _pool(count: int) -> ProcessPoolExecutor:
    pool = ProcessPoolExecutor(count, mp_context=get_context("spawn"))
    wait([pool.submit(time.sleep, 1.0) for _ in range(count)])
    return pool


def _peak_mb() -> float:
    # Not the system's own figure for a process, which begins with that of the process that started it.
    lines = Path("/proc/self/status").read_text().splitlines()
    return next(float(line.split()[1]) / 1e3 for line in lines if line.startswith("VmHWM"))


def _ready(folder: Path, job: Job) -> tuple[str, tuple[int, ...]]:
    plan, project = job.plan, parse(job.document)
    use = used_part(project, job.sources)
    media = job.sources.media if job.sources else {}
    shape = (plan.frames, plan.height, plan.width, 4)
    store = folder / "ready.raw"
    ready = np.memmap(store, np.uint8, "w+", shape=shape)
    for index in range(plan.frames):
        ready[index] = render(project, use, project.time_of(plan.first + index), media=media)
    ready.flush()
    return str(store), shape


def _alone(pool: ProcessPoolExecutor, store: str, shape: tuple[int, ...], folder: Path, job: Job) -> float:
    begin = time.perf_counter()
    for future in [
        pool.submit(encode_ready, store, shape, a - job.plan.first, b - job.plan.first, str(folder / f"a-{a}.mp4"), job)
        for a, b in job.plan.segments
    ]:
        future.result()
    return time.perf_counter() - begin


def _whole(pool: ProcessPoolExecutor, workers: int, folder: Path, job: Job, name: str) -> float:
    begin = time.perf_counter()
    run_export(replace(job, folder=str(folder / f"work-{name}")), pool, workers, folder / "out.mp4")
    return time.perf_counter() - begin
