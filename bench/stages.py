"""Where the time of a frame goes: the demo's scenes by stage, and how fast their exports run against real time."""

from __future__ import annotations

import os
import statistics
import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor, wait
from contextlib import contextmanager
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np

from bench.rows import Row, beside_add
from velvetdrum.deliver.export import Job, Sources, run_export, used_part
from velvetdrum.deliver.formats.mp4 import WORK, encode_frames, video_frame
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.video_format import SPEEDS
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.frame import compositing
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, parse

CORES = os.cpu_count() or 1
Scene = tuple[str, Document, Sources]

_STAGES = {"_alone": "draw", "composite": "draw", "transformed": "transform", "masked": "mask", "laid": "blend"}
"""Functions of the compositing module by the stage that they are."""
_LIMITS = {"Paper Lighthouse": {1920: 30.0, 640: 12.0}}
_SMALL_LIMITS = {640: 12.0, 240: 6.0}


@contextmanager
def watched() -> Iterator[dict[str, float]]:
    """While the block lasts, the time that is spent in each stage adds up, what it calls left out."""
    spent: dict[str, float] = defaultdict(float)
    inside: list[float] = []

    def timed(work: Callable[..., Any], stage: str) -> Callable[..., Any]:
        def run(*given: Any, **named: Any) -> Any:
            start = time.process_time()
            inside.append(0.0)
            try:
                return work(*given, **named)
            finally:
                took = time.process_time() - start
                spent[stage] += took - inside.pop()
                if inside:
                    inside[-1] += took

        return run

    import velvetdrum.picture.frame.render as renderer

    before = {name: getattr(compositing, name) for name in _STAGES}
    for name, stage in _STAGES.items():
        setattr(compositing, name, timed(before[name], stage))
    renderer.composite = compositing.composite  # type: ignore[attr-defined]
    try:
        yield spent
    finally:
        for name, work in before.items():
            setattr(compositing, name, work)
        renderer.composite = before["composite"]  # type: ignore[attr-defined]


def bench_stages(scenes: list[Scene]) -> Iterator[Row]:
    """One frame of each demo scene by stage, in small and at full size, and what its frames take to encode."""
    for name, document, sources in scenes:
        for width in (240, 640, 1920):
            yield from _frame_rows(name, document, sources, width)


def _frame_rows(name: str, document: Document, sources: Sources, width: int) -> Iterator[Row]:
    project = parse(document)
    size = project.frame.scaled_to(width)
    media = sources.media if width > 1000 else sources.small
    view, canvas = ProjectView(project, used_part(project, sources), media), Canvas(size.width, size.height)
    times, kept = [], []
    count = 20 if width > 1000 else 40
    with watched() as spent:
        for number in range(count + 5):
            if number == 5:
                spent.clear()
            start = time.process_time()
            view.at(project.time_of(600 + number), size).draw_frame(canvas)
            times.append(time.process_time() - start)
            if width > 1000:
                kept.append(canvas.pixels.copy())
    whole = statistics.median(times[5:]) * 1000
    shares = {stage: took / count * 1000 for stage, took in spent.items()}
    shares["settle"] = max(statistics.mean(times[5:]) * 1000 - sum(shares.values()), 0.0)
    _, plain = beside_add(lambda: None, size.width, size.height, 9)
    told = ", ".join(f"{stage} {took:.1f}" for stage, took in sorted(shares.items(), key=lambda item: -item[1]))
    limit = _LIMITS.get(name, {}).get(width) or _SMALL_LIMITS.get(width, 0.0)
    where = f"{size.width}x{size.height}"
    yield Row(f"{name}, {where}, one frame", whole, "ms", limit, f"{told}; {whole / plain:.0f} times cv2.add")
    if kept and name in _LIMITS:
        yield Row(f"{name}, {where}, convert", _convert_ms(kept), "ms")
        for speed, work in WORK.items():
            took = _encode_ms(kept, project.rate, work) - _convert_ms(kept)
            yield Row(f"{name}, {where}, encode {speed}", took, "ms")


def _convert_ms(frames: list[np.ndarray]) -> float:
    start = time.process_time()
    for pixels in frames:
        video_frame(pixels)
    return (time.process_time() - start) / len(frames) * 1000


def _encode_ms(frames: list[np.ndarray], rate: Any, work: Any) -> float:
    height, width = frames[0].shape[:2]
    path = Path(os.devnull)
    start = time.process_time()
    encode_frames(iter(frames), path, width=width, height=height, rate=rate, work=work)
    return (time.process_time() - start) / len(frames) * 1000


def bench_real_time(folder: Path, scene: Scene) -> Iterator[Row]:
    """How long an export of eight seconds takes at each speed, beside eight seconds."""
    name, document, sources = scene
    with ProcessPoolExecutor(CORES, mp_context=get_context("spawn")) as pool:
        wait([pool.submit(time.sleep, 1.5) for _ in range(CORES)])
        job = Job(document, sources, plan_export(document, from_s=16, to_s=24), str(folder / "real-time"))
        run_export(replace(job, plan=replace(job.plan, last=job.plan.first + 8)), pool, CORES, folder / "warm.mp4")
        for speed in SPEEDS:
            plan = replace(job.plan, speed=speed)
            start = time.perf_counter()
            run_export(replace(job, plan=plan, folder=str(folder / speed)), pool, CORES, folder / f"{speed}.mp4")
            took = time.perf_counter() - start
            limit = float(plan.stop_s - plan.start_s) if speed == "quick" else 0.0
            told = (
                f"real time; {plan.frames / took:.1f} frames/s, {limit / took if limit else 8 / took:.2f} of real time"
            )
            yield Row(f"{name}, 8 s at 1080p, {speed}, {CORES} cores", took, "s", limit, told)


def bench_kept() -> Iterator[Row]:
    """What the cache of a process holds after all of that."""
    held = SHARED_CACHE.held()
    yield Row("kept by one process in all", sum(held.values()) / 1e6, "MB", SHARED_CACHE.most_bytes / 1e6, "its bound")
    for name, size in list(held.items())[:8]:
        yield Row(f"of that: {name}", size / 1e6, "MB")
