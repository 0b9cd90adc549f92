"""How long each figure takes to draw at its default, beside a plain row of bars."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from fractions import Fraction

from bench.rows import Row
from velvetdrum.audio.analysis import Analysis
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.masks import new_mask
from velvetdrum.signals.audio_range import AudioRange

SIZES = (("640x360", FrameSize(640, 360), 5.0), ("1920x1080", FrameSize(1920, 1080), 15.0))
KINDS = ("spectrum", "scope", "phase", "whole-track", "rolling-strip", "meter", "graticule")
STYLES = ("segments", "dots", "hairlines", "line", "area", "line-area")
MASKS = {"spectrum": {"form": "ellipse", "feather": 6.0}, "scope": {"form": "ring"}}
"""The masks of figures that are drawn with one."""

WHOLES: dict[str, list[tuple[str, dict[str, object]]]] = {
    "haze": [("haze", {})],
    "two masked and blended figures": [
        ("spectrum", {"blend": "screen"}),
        ("scope", {"blend": "plus-lighter", "layer_opacity": 70.0}),
    ],
    "a turned and scaled figure": [("spectrum", {"spin": 20.0, "scale_x": 80.0, "scale_y": 80.0})],
}
"""Scenes that are drawn apart and joined, by what they are called."""

_FRAMES = 40
_WARM = 8


def bench_figures(recording: Analysis) -> Iterator[Row]:
    """Every kind at its default and every style of the spectrum, without the backdrop that they stand on."""
    use = AudioRange(recording, 0.0, recording.facts.duration_s)
    designs = [(kind, {}) for kind in KINDS] + [("spectrum", {"style": style}) for style in STYLES]
    for name, size, limit in SIZES:
        empty = _frame_ms(use, [], size)
        bars = 0.0
        for kind, settings in designs:
            result = max(_frame_ms(use, [fitted_layer(kind, kind, settings, use)], size) - empty, 0.0)
            bars = bars or result
            what = " as ".join([kind, *settings.values()])
            yield Row(f"{what}, {name}", result, "ms", limit, f"{limit:g} ms; {result / bars:.1f} times plain bars")
        for what, layers in WHOLES.items():
            documents = [fitted_layer(kind, kind, settings, use) for kind, settings in layers]
            for document in documents if "masked" in what else []:
                document["masks"] = [new_mask("shape", **MASKS[document["kind"]])]
            result = max(_frame_ms(use, documents, size) - empty, 0.0)
            # Twenty milliseconds are what a whole scene may take in a small frame.
            most = 20.0 if size.width == 640 else 33.3
            yield Row(f"{what}, {name}", result, "ms", most, f"{most:g} ms; {result / bars:.1f} times plain bars")


def _frame_ms(use: AudioRange, layers: list[Document], size: FrameSize) -> float:
    """Median time of a frame while the sound plays, in ms."""
    ground = new_layer("backdrop", fill="plain")
    document = new_document("Bench", frame=size, rate=Fraction(30), layers=[ground, *layers])
    project = parse(document | {"length_s": use.out_s})
    canvas = Canvas(size.width, size.height)
    times = []
    for number in range(_FRAMES):
        at = Fraction(20) + Fraction(number, 30)
        start = time.perf_counter()
        render(project, use, at, size, canvas)
        times.append(time.perf_counter() - start)
    return statistics.median(times[_WARM:]) * 1000
