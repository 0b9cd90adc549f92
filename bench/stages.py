"""Where the time of a frame goes: the demo's scenes by stage, and how fast their exports run against real time."""

from __future__ import annotations

import os
import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor, wait
from contextlib import contextmanager
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from bench.rows import Row
from velvetdrum.deliver.export import Job, Sources, run_export
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.video_format import SPEEDS
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.frame import compositing
from velvetdrum.scene.document import Document

CORES = os.cpu_count() or 1
Scene = tuple[str, Document, Sources]

_STAGES = {"_alone": "draw", "composite": "draw", "transformed": "transform", "masked": "mask", "laid": "blend"}
"""Functions of the compositing module by the stage that they are."""


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


def bench_real_time(folder: Path, job: Job) -> Iterator[Row]:
    """How long an export of eight seconds takes at each speed, beside eight seconds."""
    document, sources = job.document, job.sources
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
            yield Row(f"{document['name']}, 8 s at 1080p, {speed}, {CORES} cores", took, "s", limit, told)


def bench_kept() -> Iterator[Row]:
    """What the cache of a process holds after all of that."""
    held = SHARED_CACHE.held()
    yield Row("kept by one process in all", sum(held.values()) / 1e6, "MB", SHARED_CACHE.most_bytes / 1e6, "its bound")
    for name, size in list(held.items())[:8]:
        yield Row(f"of that: {name}", size / 1e6, "MB")
