"""`make bench`: how fast and how lean, each beside a limit that is measured or stated in the same run.

Medians of several rounds; machines differ and are noisy, so the last column, the ratio to the limit, is what
counts: 1.00 or less is within it.
"""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor, wait
from dataclasses import replace
from fractions import Fraction
from functools import cached_property
from multiprocessing import get_context
from pathlib import Path

import numpy as np
import psutil
import soundfile

from bench.clips import bench_clips
from bench.delivery import bench_cluster, bench_hour, bench_speeds, bench_workers, encode_ready
from bench.edits import bench_edits
from bench.effects import bench_effects
from bench.figures import bench_figures
from bench.footage import bench_footage, designed_job
from bench.hands import bench_hands
from bench.load import bench_load
from bench.mix import bench_mix
from bench.motion import bench_motion
from bench.particles import bench_particles
from bench.pixels import bench_blend, bench_pixels
from bench.playing import bench_playing
from bench.rows import HEAD, Row, median
from bench.scenes import Scene, bench_delivery, bench_scenes, demo_scenes
from bench.space import bench_space
from bench.stages import bench_kept, bench_real_time
from bench.words import bench_words
from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.audio.bands import HOP, MARGIN
from velvetdrum.audio.beats import find_beats
from velvetdrum.audio.decode import decode_blocks
from velvetdrum.audio.onsets import onset_strength
from velvetdrum.deliver.export import Job, Sources, run_export, used_part
from velvetdrum.deliver.plan import plan_export
from velvetdrum.demo.designs import song_design
from velvetdrum.demo.song import paper_lighthouse
from velvetdrum.picture.frame.render import render
from velvetdrum.scene.document import new_track, parse
from velvetdrum.signals import bars
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import BarSettings, bar_heights
from velvetdrum.signals.sources.pickup import Pickup

CORES = os.cpu_count() or 1


def three_minutes(folder: Path) -> dict[str, Path]:
    """The demo song repeated to three minutes, in three forms."""
    song = paper_lighthouse()
    long = np.tile(song, (5, 1))[: 180 * 48_000]
    paths = {"WAV": folder / "long.wav", "FLAC": folder / "long.flac", "MP3": folder / "long.mp3"}
    soundfile.write(paths["WAV"], long, 48_000, subtype="PCM_16")
    soundfile.write(paths["FLAC"], long, 48_000)
    soundfile.write(paths["MP3"], long, 48_000)
    at_44 = folder / "long-44.wav"
    soundfile.write(at_44, long[: 180 * 44_100], 44_100, subtype="PCM_16")
    return paths | {"WAV 44.1 kHz": at_44}


def bench_analysis(folder: Path, files: dict[str, Path]) -> Iterator[Row]:
    result: dict[str, float] = {}
    for name, path in files.items():
        seconds = median(lambda path=path: analyse(path, folder / "analysis"), 2)  # type: ignore[misc]
        result[name] = seconds
        yield Row(f"analysis of 3 min stereo, {name}", seconds, "s", 180 / 60, "60 times faster than it plays")
    silence = folder / "silence.wav"
    quiet = np.zeros((60 * 48_000, 2), np.int16)
    quiet[:4800] = 3000
    soundfile.write(silence, quiet, 48_000)
    seconds = median(lambda: analyse(silence, folder / "analysis"))
    limit = result["WAV"] / 3 * 1.5
    yield Row("analysis of a minute of silence", seconds, "s", limit, "1.5 times a minute of music, this run")
    analyse(files["WAV"], folder / "analysis")
    decode = median(lambda: sum(b.shape[1] for b in decode_blocks(files["MP3"])))
    yield Row("analysis, MP3, to decoding it alone", result["MP3"], "s", decode * 8, "8 times decoding, this run")


def bench_curves(folder: Path) -> Iterator[Row]:
    use = AudioRange(Analysis(folder / "analysis"), 0.0, 180.0)
    settings = BarSettings(64, 40.0, 14_000.0, "log", "mix", -60.0, -10.0, 3.0, 12.0, 170.0)
    turn = iter(range(10_000))

    def whole() -> None:
        chosen = replace(settings, loud_db=-10.0 - next(turn) / 100)
        for second in range(0, 180, 8):
            bar_heights(use, chosen, Fraction(second))

    def one() -> None:
        bar_heights(use, replace(settings, loud_db=-20.0 - next(turn) / 100), Fraction(90))

    bars._chunks.clear()
    yield Row(
        "64 bars solved anew, 3 min", median(whole, 3) * 1000, "ms", 180_000 / 60, "60 times faster than it plays"
    )
    yield Row("64 bars solved anew for one frame", median(one, 20) * 1000, "ms", 100, "a tenth of a second")


def bench_signals(folder: Path) -> Iterator[Row]:
    """A pickup solved anew over three minutes after a turn of a knob; the sound is open already."""
    use = AudioRange(Analysis(folder / "analysis"), 0.0, 180.0)
    turn = iter(range(10_000))

    def solve(detector: str, low: float, high: float, name: str) -> Callable[[], object]:
        def once() -> None:
            value = next(turn) / 50
            changed = {name: {"low_hz": low + value, "release_ms": 150 + value}[name]}
            Pickup({"low_hz": low, "high_hz": high, "detector": detector, "release_ms": 150} | changed).curve(
                use, 180.0
            )

        return once

    for what, detector, low, high, name in (
        ("level, a band of two octaves, other edge", "level", 40.0, 160.0, "low_hz"),
        ("level, the whole spectrum, other edge", "level", 40.0, 16_000.0, "low_hz"),
        ("hits, the whole spectrum, other edge", "hits", 40.0, 16_000.0, "low_hz"),
        ("peak, a band of two octaves, other edge", "peak", 40.0, 160.0, "low_hz"),
        ("peak, other release", "peak", 40.0, 160.0, "release_ms"),
    ):
        once = solve(detector, low, high, name)
        once()
        yield Row(f"3 min pickup: {what}", median(once, 15) * 1000, "ms", 30, "30 ms")
    strength = np.concatenate([onset_strength(piece, 300) for piece in _pieces(use.recording)])
    yield Row(
        "3 min, beats from the onsets",
        median(lambda: find_beats(strength, 0, 180)),
        "s",
        180 / 60 / 10,
        "a tenth of the analysis' limit",
    )


def _pieces(recording: Analysis) -> Iterator[np.ndarray]:
    samples = np.asarray(recording.pcm, np.float32).T / 32767
    for start in range(0, samples.shape[1] - 300 * HOP - 2 * MARGIN, 300 * HOP):
        yield samples[:, start : start + 300 * HOP + 2 * MARGIN]


def bench_export(folder: Path, job: Job, what: str, most: float) -> Iterator[Row]:
    """An export beside encoding the same frames, which lie ready; it may take `most` times as long."""
    plan, project = job.plan, parse(job.document)
    use = used_part(parse(job.document), job.sources)
    shape = (plan.frames, plan.height, plan.width, 4)
    store = folder / "frames.raw"
    ready = np.memmap(store, np.uint8, "w+", shape=shape)
    for index in range(plan.frames):
        ready[index] = render(project, use, project.time_of(plan.first + index), media=job.sources.media)
    ready.flush()
    with ProcessPoolExecutor(CORES, mp_context=get_context("spawn")) as pool:
        wait([pool.submit(time.sleep, 1.5) for _ in range(CORES)])

        def alone() -> None:
            parts = [(a - plan.first, b - plan.first) for a, b in plan.segments]
            done = [
                pool.submit(encode_ready, str(store), shape, a, b, str(folder / f"alone-{a}.mp4"), job)
                for a, b in parts
            ]
            for future in done:
                future.result()

        turn = iter(range(100))

        def export() -> None:
            number = next(turn)
            run_export(replace(job, folder=str(folder / f"{job.folder}-{number}")), pool, CORES, folder / "out.mp4")

        alone()
        export()
        baseline, whole = [], []
        for _ in range(2):  # in turns, so that a slow minute of the machine meets both
            baseline.append(median(alone, 1))
            whole.append(median(export, 1))
    yield Row(
        f"export of {plan.frames} frames at 1080p, {CORES} cores{what}",
        statistics.median(whole),
        "s",
        most * statistics.median(baseline),
        f"{most} times encoding ready frames, this run",
    )


def peak_memory(path: Path, folder: Path) -> float:
    """Highest resident memory of a process that analyses a file, in MB."""
    code = (
        "import sys, pathlib\nfrom velvetdrum.audio.analysis_writer import analyse\n"
        "analyse(pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2]))\n"
        "print(next(s for s in open('/proc/self/status') if s.startswith('VmHWM')).split()[1])"
    )
    out = subprocess.run(
        [sys.executable, "-c", code, str(path), str(folder)], capture_output=True, text=True, check=True
    )
    return float(out.stdout) / 1024


def bench_memory(folder: Path, files: dict[str, Path]) -> Iterator[Row]:
    short = peak_memory(files["FLAC"], folder / "memory")
    samples, rate = soundfile.read(files["FLAC"], dtype="int16")
    with soundfile.SoundFile(folder / "half-hour.flac", "w", rate, 2) as file:
        for _ in range(10):
            file.write(samples)
    long = peak_memory(folder / "half-hour.flac", folder / "memory")
    yield Row("memory to analyse half an hour", long, "MB", 1.25 * short, "1.25 times that for 3 min, this run")


def bench_studio(folder: Path, files: dict[str, Path]) -> Iterator[Row]:
    """A changed setting, from the request to the picture's bytes, through the studio and its workers."""
    from velvetdrum.demo.install import install_demo
    from velvetdrum.studio.app import create_app

    app = create_app(folder / "data")
    services = app.extensions["services"]
    install_demo(services)
    client = app.test_client()
    project, designed = (
        services.db.execute("SELECT id FROM project WHERE name = ?", (name,)).fetchone()[0]
        for name in ("Still water", "Paper Lighthouse")
    )
    headers = {"X-Velvet-Drum": "1"}
    turn = iter(range(1000))

    def to_picture(project: str, frame: int, path: str, first: float) -> float:
        """Median time in ms from a value being dragged to the picture's bytes."""

        def drag() -> None:
            draft = [{"op": "replace", "path": path, "value": first + next(turn) / 10}]
            answer = client.post(
                f"/projects/{project}/frames",
                headers=headers,
                json={"frames": [frame], "width": 640, "form": "jpeg", "draft": draft},
            )
            assert answer.status_code == 200

        for _ in range(6):
            drag()
        return median(drag, 40) * 1000

    changed = to_picture(project, 600, "/layers/2/settings/release_ms", 150)
    scene = to_picture(designed, 600, "/layers/4/settings/release_ms", 150)
    with files["WAV"].open("rb") as file:
        key, recording = services.bring_now(iter([file.read()]), "long.wav")
    long = services.store_document(song_design(new_track(key, "long.wav", 180.0), recording))
    pulled = to_picture(long, 3000, "/signals/0/settings/low_hz", 100)
    services.close()

    def start() -> None:
        command = [
            sys.executable,
            "-m",
            "velvetdrum",
            "serve",
            "--demo",
            "--data",
            str(folder / "data"),
            "--port",
            "8799",
        ]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert process.stdout is not None
        assert "http" in process.stdout.readline()
        begun.append(time.perf_counter())
        for child in psutil.Process(process.pid).children(recursive=True):
            child.kill()
        process.kill()
        process.wait()

    begun: list[float] = []
    times = []
    for _ in range(3):
        at = time.perf_counter()
        start()
        times.append(begun[-1] - at)
    yield Row("changed pickup of 3 min to picture, 640x360", pulled, "ms", 100, "a tenth of a second")
    yield Row("changed setting to picture, 640x360", changed, "ms", 100, "a tenth of a second")
    yield Row("changed setting of the designed scene to picture", scene, "ms", 100, "a tenth of a second")
    yield Row("second start of the studio", statistics.median(times), "s", 5, "five seconds")


class Bench:
    """What the families measure on, made when one first asks for it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    @cached_property
    def files(self) -> dict[str, Path]:
        """Three minutes of sound in several forms, the WAV analysed."""
        result = three_minutes(self.folder)
        analyse(result["WAV"], self.folder / "analysis")
        return result

    @cached_property
    def song(self) -> Path:
        path = self.folder / "song.wav"
        soundfile.write(path, paper_lighthouse(), 48_000, subtype="PCM_16")
        return path

    @cached_property
    def recording(self) -> Analysis:
        return analyse(self.song, self.folder / "song", key="song")

    @cached_property
    def job(self) -> Job:
        """An export of three seconds of the plain demo."""
        document = song_design(new_track("0" * 64, "song.wav", self.recording.facts.duration_s), self.recording)
        sources = Sources(str(self.song), str(self.folder / "song"))
        return Job(document, sources, plan_export(document, from_s=8, to_s=11), str(self.folder / "export"))

    @cached_property
    def designed(self) -> Job:
        """The same of the designed scene."""
        return designed_job(self.folder, self.song, self.recording)

    @cached_property
    def scenes(self) -> list[Scene]:
        """The demo's projects."""
        return demo_scenes(self.folder / "data")


FAMILIES: dict[str, Callable[[Bench], Iterator[Row]]] = {
    "blend": lambda bench: bench_blend(),
    "pixels": lambda bench: bench_pixels(),
    "figures": lambda bench: bench_figures(bench.recording),
    "motion": lambda bench: bench_motion(bench.recording),
    "mix": lambda bench: bench_mix(bench.recording),
    "footage": lambda bench: bench_footage(bench.folder, bench.recording),
    "scenes": lambda bench: bench_scenes(bench.scenes),
    "words": lambda bench: bench_words(bench.recording),
    "effects": lambda bench: bench_effects(),
    "particles": lambda bench: bench_particles(),
    "space": lambda bench: bench_space(),
    "clips": lambda bench: bench_clips(bench.folder),
    "kept": lambda bench: bench_kept(),
    "real-time": lambda bench: bench_real_time(bench.folder, bench.designed),
    "export": lambda bench: bench_export(bench.folder, bench.job, "", 1.25),
    "designed-export": lambda bench: bench_export(bench.folder, bench.designed, ", designed scene", 1.4),
    "speeds": lambda bench: bench_speeds(bench.folder, {"plain": bench.job, "designed": bench.designed}),
    "delivery": lambda bench: bench_delivery(bench.folder, bench.scenes),
    "workers": lambda bench: bench_workers(
        bench.folder, replace(bench.designed, plan=plan_export(bench.designed.document))
    ),
    "hour": lambda bench: bench_hour(bench.folder, bench.song),
    "cluster": lambda bench: bench_cluster(
        bench.folder, replace(bench.designed, plan=plan_export(bench.designed.document))
    ),
    "curves": lambda bench: bench_curves(bench.folder) if bench.files else iter(()),
    "signals": lambda bench: bench_signals(bench.folder) if bench.files else iter(()),
    "analysis": lambda bench: bench_analysis(bench.folder, bench.files),
    "memory": lambda bench: bench_memory(bench.folder, bench.files),
    "studio": lambda bench: bench_studio(bench.folder, bench.files),
    # Three times each where it is asked for alone; a whole run has time for one.
    "play": lambda bench: bench_playing(bench.folder / "data", 3 if "play" in sys.argv else 1),
    "edits": lambda bench: bench_edits(bench.folder / "data"),
    "hands": lambda bench: bench_hands(bench.folder / "data"),
    "load": lambda bench: bench_load(bench.folder / "data"),
}
"""What can be measured by itself, in the order of a whole run."""
_BY_NAME = {"delivery"}
"""What takes half an hour, and is measured only where it is asked for."""


def main() -> None:
    """Print the rows of the families named in the arguments, or of all, each as it comes."""
    chosen = sys.argv[1:] or [name for name in FAMILIES if name not in _BY_NAME]
    unknown = [name for name in chosen if name not in FAMILIES]
    if unknown:
        sys.exit(f"There is no family called {unknown[0]}. There are {', '.join(FAMILIES)}.")
    begun = time.monotonic()
    with tempfile.TemporaryDirectory(prefix="velvetdrum-bench-") as name:
        bench = Bench(Path(name))
        print(HEAD, flush=True)
        for family in chosen:
            for row in FAMILIES[family](bench):
                print(row, flush=True)
    print(f"{(time.monotonic() - begun) / 60:.1f} minutes")


if __name__ == "__main__":
    main()
