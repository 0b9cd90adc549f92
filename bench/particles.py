"""What particles cost, beside adding two frames with OpenCV; and who is alive, early and late."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any

import cv2
import numpy as np

from bench.rows import Row
from tests.picture.effects.effect_sources import busy
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.particles import draw_discs, draw_sprites, form_picture, premultiplied
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize

_ROUNDS = 11
LARGE, SMALL = FrameSize(1920, 1080), FrameSize(640, 360)


def bench_particles() -> Iterator[Row]:
    """Marks alone, then whole layers."""
    pixels, other = busy(1920, 1080), busy(1920, 1080, 2)
    out = np.empty_like(pixels)
    add = _median(lambda: cv2.add(pixels, other, out))
    for count, most in ((3_000, 3), (20_000, 11)):
        yield Row(f"{count:,} soft discs, 1920x1080", _discs_ms(count), "ms", add * most, f"{most} times cv2.add")
    yield Row("500 turned, tinted sprites of 48 px, 1920x1080", _sprites_ms(500), "ms", add * 11, "11 times cv2.add")
    yield Row("5,000 alive, 640x360", _layer_ms(5_000, SMALL, 20.0), "ms", 4.0, "4 ms")
    early, late = _layer_ms(3_000, SMALL, 60.0), _layer_ms(3_000, SMALL, 3_600.0)
    yield Row("3,000 alive at minute 60", late, "ms", early * 1.2, "1.2 times those at minute 1")


def _discs_ms(count: int) -> float:
    draws = np.random.Generator(np.random.PCG64(1))
    canvas = Canvas(1920, 1080)
    canvas.clear()
    x, y, radii = draws.random(count) * 1920, draws.random(count) * 1080, draws.uniform(1.5, 6, count)
    colours = premultiplied(draws.random((count, 3)), draws.random(count))
    return _median(lambda: draw_discs(canvas, x, y, radii, colours, "soft", True))


def _sprites_ms(count: int) -> float:
    draws = np.random.Generator(np.random.PCG64(2))
    canvas = Canvas(1920, 1080)
    canvas.clear()
    x, y, angles = draws.random(count) * 1920, draws.random(count) * 1080, draws.random(count) * 7
    sizes = np.full(count, 48.0), np.full(count, 48.0)
    colours = premultiplied(draws.random((count, 3)), draws.random(count))
    star = form_picture("star")
    return _median(lambda: draw_sprites(canvas, star, x, y, sizes, angles, colours, tint="form", adds=False))


def _layer_ms(count: int, size: FrameSize, time_s: float) -> float:
    """A layer with so many alive at a time, less a frame without it."""
    both = []
    for layers in ([], [new_layer("particles", rate=count / 2.0, life=2.0, life_spread=0.0)]):
        document = new_document("Bench", frame=LARGE, rate=Fraction(30), layers=[new_layer("backdrop"), *layers])
        document["length_s"] = time_s + 10
        view, canvas = ProjectView(parse(document), None), Canvas(size.width, size.height)
        result = []
        for number in range(_ROUNDS + 3):
            begin = time.perf_counter()
            view.at(Fraction(time_s) + Fraction(number, 30), size).draw_frame(canvas)
            result.append((time.perf_counter() - begin) * 1000)
        both.append(statistics.median(result[3:]))
    return both[1] - both[0]


def _median(work: Callable[[], Any]) -> float:
    result = []
    for _ in range(_ROUNDS):
        begin = time.perf_counter()
        work()
        result.append((time.perf_counter() - begin) * 1000)
    return statistics.median(result)
