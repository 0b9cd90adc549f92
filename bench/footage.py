"""What designed scenes cost: footage, a figure, a logo and masks together, and the demo's own scene."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator, Mapping
from fractions import Fraction
from pathlib import Path

import numpy as np

from bench.rows import Row
from velvetdrum.audio.analysis import Analysis
from velvetdrum.deliver.export import Job, Sources
from velvetdrum.deliver.formats.mp4 import X264, encode_frames
from velvetdrum.deliver.plan import plan_export
from velvetdrum.demo.harbour import harbour_night
from velvetdrum.demo.pictures import lamp_svg, water_clip
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.media.clips.preparation import PROXY, prepare_clip
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, new_document, new_layer, new_track, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.masks import new_mask
from velvetdrum.signals.audio_range import AudioRange

LAMP, CLIP = "a" * 64, "b" * 64
SMALL, LARGE = FrameSize(640, 360), FrameSize(1920, 1080)


def large_clip(path: Path) -> Path:
    """Two seconds of a drifting pattern, 1920x1080 at 30/s."""
    y, x = np.mgrid[0:1080, 0:1920].astype(np.float32)

    def frame(number: int) -> np.ndarray:
        out = np.full((1080, 1920, 4), 255, np.uint8)
        for channel, (along, down) in enumerate(((0.011, 0.017), (0.014, 0.006), (0.008, 0.012))):
            out[..., channel] = 90 + 70 * np.sin(x * along + y * down + number / 7 + channel)
        return out

    encode_frames(
        (frame(n) for n in range(60)), path, width=1920, height=1080, rate=Fraction(30), work=X264("veryfast", 20)
    )
    return path


def bench_footage(folder: Path, recording: Analysis) -> Iterator[Row]:
    use = AudioRange(recording, 0.0, recording.facts.duration_s)
    lamp = folder / "lamp.svg"
    lamp.write_text(lamp_svg())
    clip = large_clip(folder / "clip.mp4")
    prepare_clip(clip, folder / "clip")
    proxied = {LAMP: str(lamp), CLIP: str(folder / "clip" / PROXY)}
    whole = {LAMP: str(lamp), CLIP: str(clip)}
    footage = new_layer("footage", clip=CLIP)
    graded = new_layer("footage", clip=CLIP, brightness=50.0, saturation=30.0, shake=6.0, zoom_rate=20.0)
    ring = fitted_layer("spectrum", "Ring", {"base": "ring", "grow": "out", "radius": 26.0, "reach": 18.0}, use)
    ring["masks"] = [new_mask("shape", form="ring", width=90.0, height=90.0, feather=3.0)]
    logo = new_layer("logo", image=LAMP) | {"masks": [new_mask("shape", width=40.0, height=40.0, feather=2.0)]}
    for size, media, limit in ((SMALL, proxied, 6.0), (LARGE, whole, 30.0)):
        name = f"{size.width}x{size.height}"
        first = _frame_ms(use, [footage, ring, logo], size, media)
        told = f"{limit:.3g} ms on one core"
        yield Row(f"footage, figure, logo, two masks, {name}", first, "ms", limit, told)
        second = _frame_ms(use, [graded, ring, logo], size, media)
        yield Row(f"the same, graded, zoomed and shaken, {name}", second, "ms", limit, told)


def designed_job(folder: Path, song: Path, recording: Analysis) -> Job:
    """An export of three seconds of the demo's designed scene."""
    lamp, water = folder / "lamp.svg", folder / "water.mp4"
    lamp.write_text(lamp_svg())
    water_clip(water)
    document = harbour_night(new_track("0" * 64, "song.wav", recording.facts.duration_s), recording, LAMP, CLIP)
    sources = Sources(str(song), str(recording.folder), {LAMP: str(lamp), CLIP: str(water)})
    return Job(document, sources, plan_export(document, from_s=8, to_s=11), str(folder / "designed"))


def _frame_ms(use: AudioRange, layers: list[Document], size: FrameSize, media: Mapping[str, str]) -> float:
    """Median time of a frame while the sound plays, in ms."""
    document = new_document("Bench", frame=size, rate=Fraction(30), layers=layers)
    project = parse(document | {"length_s": use.out_s})
    canvas = Canvas(size.width, size.height)
    times = []
    for number in range(50):
        at = Fraction(20) + Fraction(number, 30)
        start = time.perf_counter()
        render(project, use, at, size, canvas, media)
        times.append(time.perf_counter() - start)
    return statistics.median(times[10:]) * 1000
