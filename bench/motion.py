"""What is repeated, traced and blurred by its movement: arrays, traces and motion blur at 1920x1080."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from bench.rows import Row, beside_add
from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, new_document, new_layer, parse
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.envelope import CHUNK
from velvetdrum.signals.pitch_bands import semitone_power, tuning

_SIZE = FrameSize(1920, 1080)
_ARRAYS: tuple[tuple[str, float, dict[str, Any]], ...] = (
    ("array of 40 copies", 10, {"count": 40, "copy_size": 12}),
    ("array of 500 copies", 25, {"count": 500, "copy_size": 5, "arrange": "sunflower"}),
    ("array of 5,000 copies", 0, {"count": 5000, "copy_size": 2, "arrange": "sunflower"}),
)
_TRACES: tuple[tuple[str, dict[str, Any]], ...] = (
    ("trace, a sweep with a tail of 3 s", {"form": "sweep"}),
    ("trace round a ring, a tail of 8 s", {"form": "ring", "tail_s": 8}),
    ("four traces in lanes", {"form": "strip", "lines": 4, "stacked": "apart", "tail_s": 6}),
)


def bench_motion(recording: Analysis) -> Iterator[Row]:
    """Arrays beside adding two frames; traces; motion blur beside drawing its layer as often as it does."""
    use = AudioRange(recording, 0.0, recording.facts.duration_s)
    star = new_layer("shape", form="polygon", sides=5, radius=12, plain="#e0ac55") | {"visible": False}
    for what, most, settings in _ARRAYS:
        view = _view(use, [star, new_layer("array", source=star["id"], **settings)])
        spent, add = beside_add(_frames(view), rounds=9)
        yield Row(f"{what}, 1920x1080", spent, "ms", most * add, f"{most:g} times cv2.add" if most else "")
    signal = {"id": "s1", "kind": "lfo", "name": "Wave", "colour": "#5fc4b4", "settings": {"rate_hz": 1.3}}
    for what, settings in _TRACES:
        trace = new_layer("trace", **settings)
        trace["patches"] = [{"setting": "level", "signal": "s1", "from": 0, "to": 100}]
        spent, add = beside_add(_frames(_view(use, [trace], [signal])), rounds=9)
        yield Row(f"{what}, 1920x1080", spent, "ms", 8 * add, "8 times cv2.add")
    begun = time.perf_counter()
    seconds = min(use.out_s, 60.0)
    tuning(use)
    for start in range(0, round(seconds * FRAME_RATE), CHUNK):
        semitone_power(use, "mix", start, start + CHUNK)
    spent = time.perf_counter() - begun
    yield Row(
        f"semitones of {seconds:.0f} s of sound, with its tuning", spent, "s", seconds / 20, "a 20th of its length"
    )
    way = {"x": [{"time_s": 0.0, "value": 0.0}, {"time_s": 4.0, "value": 100.0}]}
    ring = new_layer("spectrum", base="ring") | {"keyframes": way}
    plain = _median(_frames(_view(use, [ring])))
    blurred = ring | {"effects": [new_effect("shutter", angle=180)]}
    spent = _median(_frames(_view(use, [blurred])))
    yield Row("motion blur of a moving ring of bars", spent, "ms", plain * 8 + 40, "8 times drawing it, and 40 ms")


def _view(use: AudioRange, layers: list[Document], signals: list[Document] | None = None) -> ProjectView:
    document = new_document("Bench", frame=_SIZE, rate=Fraction(30), layers=layers)
    return ProjectView(parse(document | {"length_s": 20.0, "signals": signals or []}), use)


def _frames(view: ProjectView) -> Any:
    """A function that draws the next frame at each call, from a time at which all is at work."""
    canvas, times = Canvas(_SIZE.width, _SIZE.height), iter(Fraction(240 + n, 30) for n in range(10_000))

    def draw() -> None:
        canvas.clear_through()
        view.at(next(times), _SIZE).draw_frame(canvas, "transparent")

    draw()
    return draw


def _median(draw: Any, rounds: int = 9) -> float:
    spent = []
    for _ in range(rounds):
        begun = time.perf_counter()
        draw()
        spent.append((time.perf_counter() - begun) * 1000)
    return statistics.median(spent)
