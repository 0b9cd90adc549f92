"""The demo's scenes: what a frame of each costs at three sizes and where that goes, and how fast their exports run."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np

from bench.rows import Row
from bench.stages import watched
from velvetdrum.cli import WORKERS_IMPORT
from velvetdrum.deliver.bundle import write_bundle
from velvetdrum.deliver.export import Job, Sources, run_export, used_part
from velvetdrum.deliver.plan import plan_export
from velvetdrum.demo.install import install_demo
from velvetdrum.limits.process import worker_context
from velvetdrum.picture.frame.render import ProjectView, timing
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, Project, media_keys, parse
from velvetdrum.store.projects import listed
from velvetdrum.studio.services import Services

CORES = os.cpu_count() or 1
Scene = tuple[str, Document, Sources]

_SIZES = {1080: (25.0, 60.0, "times"), 360: (12.0, 0.0, "ms"), 136: (5.0, 0.0, "ms")}
"""Limits by the short side: of the median of all scenes, and of the dearest one; in times `cv2.add`, or in ms."""
_FIRST, _FRAMES = 300, 32
_SECONDS = 20
_LEAST = {"quick": (24.0, 12.0), "balanced": (16.0, 9.0)}
"""Frames a second on two cores, once an export runs: of the median of all scenes, and of the slowest one."""


def demo_scenes(folder: Path) -> list[Scene]:
    """The demo's projects, made in a data folder, with their sound, their pictures and their clips."""
    services = Services(folder)
    try:
        install_demo(services)
        rows = sorted(listed(services.db), key=lambda row: row.name)
        projects = [(row.name, row.document, services.sources(row.document)) for row in rows]
    finally:
        services.close()
    return [(name, document, sources) for name, document, sources in projects if sources]


def bench_scenes(scenes: list[Scene]) -> Iterator[Row]:
    """A frame of each scene at three sizes: by stage, with its dearest layer and effect; then all of them."""
    for short, (most, worst, unit) in _SIZES.items():
        figures = []
        for name, document, sources in scenes:
            spent, plain, said = _frame(parse(document), sources, short)
            figures.append(spent / plain if unit == "times" else spent)
            yield Row(
                f"{name}, {short} lines, one frame", spent, "ms", 0.0, f"{spent / plain:.0f} times cv2.add; {said}"
            )
        middle = statistics.median(figures)
        shown = "times cv2.add of the frame's size" if unit == "times" else "ms"
        yield Row(
            f"{short} lines, median of {len(scenes)} scenes",
            middle,
            "ms" if unit == "ms" else "",
            most,
            f"{most:g} {shown}",
        )
        if worst:
            yield Row(f"{short} lines, the dearest", max(figures), "", worst, f"{worst:g} {shown}")


def _frame(project: Project, sources: Sources, short: int) -> tuple[float, float, str]:
    """Processor time of a frame and of `cv2.add` of two of its size in ms, and what the frame's goes to."""
    frame = project.frame
    size = frame.scaled_to(round(frame.width * short / min(frame.width, frame.height) / 2) * 2)
    media = sources.media if short > 1000 else sources.small
    view, canvas = ProjectView(project, used_part(project, sources), media), Canvas(size.width, size.height)
    one = np.full((size.height, size.width, 4), 7, np.uint8)
    other = one.copy()

    def draw(number: int) -> None:
        view.at(project.time_of(min(_FIRST + number, project.frame_count - 1)), size).draw_frame(canvas)

    for number in range(6):
        draw(number)
    mine, plain = [], []
    for number in range(_FRAMES):
        begin = time.process_time()
        draw(6 + number)
        middle = time.process_time()
        cv2.add(one, other, dst=other)
        plain.append(time.process_time() - middle)
        mine.append(middle - begin)
    parts: dict[str, float] = defaultdict(float)

    def note(name: str, seconds: float) -> None:
        parts[name] += seconds * 1000 / 8

    with watched() as stages, timing(note):
        for number in range(8):
            draw(6 + _FRAMES + number)
    return statistics.median(mine) * 1000, statistics.median(plain) * 1000, _summary(project, stages, parts)


def _summary(project: Project, stages: dict[str, float], parts: dict[str, float]) -> str:
    """Stages, the dearest first, then the dearest layer and effect."""
    by_stage = ", ".join(
        f"{stage} {took / 8 * 1000:.1f}" for stage, took in sorted(stages.items(), key=lambda it: -it[1])
    )
    names = {placed.id: placed.name for placed in project.layers}
    for placed in project.layers:
        names |= {f"{placed.id}/{item.id}": item.part.title for item in placed.parts.get("effect", ())}
    layer = max((name for name in parts if "/" not in name), key=parts.__getitem__, default="")
    effect = max((name for name in parts if "/" in name), key=parts.__getitem__, default="")
    dearest = [f"{names.get(name, name)} {parts[name]:.1f}" for name in (layer, effect) if name]
    return f"{by_stage}; dearest: {', '.join(dearest)}"


def bench_delivery(folder: Path, scenes: list[Scene]) -> Iterator[Row]:
    """Exports of each scene, quick and balanced: frames a second once they run, and the time that is fixed."""
    with ProcessPoolExecutor(CORES, mp_context=worker_context(*WORKERS_IMPORT)) as pool:
        list(pool.map(abs, range(4 * CORES)))
        for speed, (middle, least) in _LEAST.items():
            rates = []
            for name, document, sources in scenes:
                rate, fixed = _rate(pool, folder / f"{len(rates)}-{speed}", document, sources, speed)
                rates.append(rate)
                yield Row(
                    f"{name}, {speed}, {CORES} cores", rate, "/s", 0.0, f"frames/s once it runs; {fixed:.1f} s fixed"
                )
            # A limit that is to be passed: its ratio is the limit to what was measured.
            told = f"frames/s wanted; {statistics.median(rates):.1f} measured"
            yield Row(f"{speed}, median of {len(scenes)} scenes", middle, "/s", statistics.median(rates), told)
            yield Row(f"{speed}, the slowest", least, "/s", min(rates), f"frames/s wanted; {min(rates):.1f} measured")
    yield from _commands(folder, scenes[0])


def _rate(
    pool: ProcessPoolExecutor, folder: Path, document: Document, sources: Sources, speed: str
) -> tuple[float, float]:
    """Frames a second between an export of a second and one of so many more, and what is fixed, in seconds."""
    folder.mkdir()
    times = []
    last = parse(document).length_s
    for number, seconds in enumerate((1, 1, 1 + _SECONDS)):
        to_s = min(2 + seconds, last)
        plan = plan_export(document, from_s=2, to_s=to_s, speed=speed)  # type: ignore[arg-type]
        begin = time.perf_counter()
        run_export(Job(document, sources, plan, str(folder / f"{number}")), pool, CORES, folder / f"{number}.mp4")
        times.append((time.perf_counter() - begin, plan.frames))
    (short, few), (long, many) = times[1:]
    rate = (many - few) / max(long - short, 1e-6)
    return rate, short - few / rate


def _commands(folder: Path, scene: Scene) -> Iterator[Row]:
    """What the command line takes for a short export and for one frame of a sound that it knows."""
    _, document, sources = scene
    path = folder / "known.vdrum"
    files = {key: Path(sources.media[key]) for key in media_keys(document) if key in sources.media}
    recording = document["tracks"][0]["media"]
    write_bundle(path, document, files | {recording: Path(sources.original)})
    environment = os.environ | {"VELVETDRUM_ANALYSES": str(folder / "analyses")}
    short = ["render", str(path), "-o", str(folder / "known.mp4"), "--from", "2", "--to", "2.2", "--speed", "quick"]
    still = ["frame", str(path), "--at", "2", "-o", str(folder / "known.png")]
    for what, words, most in (("an export of six frames", short, 2.5), ("one frame", still, 1.5)):
        times = []
        for _ in range(4):
            begin = time.perf_counter()
            subprocess.run(
                [sys.executable, "-m", "velvetdrum", *words], check=True, env=environment, capture_output=True
            )
            times.append(time.perf_counter() - begin)
        yield Row(
            f"{what} of a known sound, at the command line", statistics.median(times[1:]), "s", most, f"{most:g} s"
        )
