"""What depth costs, beside adding two frames with OpenCV: solids, marks out of focus, plates, fields."""

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
from velvetdrum.picture.raster.viewport import Box
from velvetdrum.picture.space.camera import Camera, Lens, Pose
from velvetdrum.picture.space.clouds import Brush, Cloud, draw_clouds
from velvetdrum.picture.space.plates import draw_plate
from velvetdrum.picture.space.solids import Lights, boxes, draw_solids
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize

_ROUNDS = 11


def bench_space() -> Iterator[Row]:
    """Kernels with their projection first, then whole layers."""
    pixels, other = busy(1920, 1080), busy(1920, 1080, 2)
    out = np.empty_like(pixels)
    add = _median(lambda: cv2.add(pixels, other, out))
    canvas = Canvas(1920, 1080)
    camera = Camera.standing(canvas, Pose(orbit_deg=-24, elevation_deg=20))
    for count, most in ((64, 5), (512, 16)):
        yield Row(
            f"{count} boxes, 1920x1080", _boxes_ms(canvas, camera, count), "ms", add * most, f"{most} times cv2.add"
        )
    yield Row("5,000 blurred discs, mean radius 13, 1920x1080", _blurred_ms(canvas), "ms", add * 10, "10 times cv2.add")
    place = np.eye(4)
    plate = _median(
        lambda: draw_plate(
            canvas,
            lambda onto: onto.blend(cv2.resize(pixels, (onto.width, onto.height)), onto.frame),
            _whole,
            camera,
            place,
            None,
        )
    )
    yield Row("a full-frame plate, 1920x1080", plate, "ms", add * 8, "8 times cv2.add")
    for kind, settings in (("dot-field", {}), ("ridges", {}), ("spectrogram", {})):
        yield Row(f"{kind}, 1920x1080", _layer_ms(kind, settings), "ms")


def _whole(view: Any) -> Box:
    return Box(0.0, 0.0, float(view.width), float(view.height))


def _boxes_ms(canvas: Canvas, camera: Camera, count: int) -> float:
    # Rows of 64, one behind another, as wide as the frame is high.
    rows = count // 64
    x, z = np.meshgrid((np.arange(64) - 31.5) * 110 / 64, -np.arange(rows) * 8.0)
    heights = np.random.Generator(np.random.PCG64(3)).uniform(4, 38, count)
    centres = np.stack([x.ravel(), 18 - heights / 2, z.ravel()], axis=1)
    wide = np.full(count, 110 / 64 * 0.38)
    halves = np.stack([wide, heights / 2, wide], axis=1)
    colours = np.random.Generator(np.random.PCG64(4)).random((count, 3))

    def work() -> None:
        mesh = boxes(centres, halves, colours, "box", 0.4)
        draw_solids(canvas, [mesh], camera, Lights())

    return _median(work)


def _blurred_ms(canvas: Canvas) -> float:
    draws = np.random.Generator(np.random.PCG64(5))
    places = np.concatenate([draws.uniform(-80, 80, (5_000, 2)), draws.uniform(-60, 60, (5_000, 1))], axis=1)
    # An opening that gives a mean radius of 13 pixels.
    camera = Camera.standing(canvas, Pose(), Lens(40.0, 0.0, 4.6))
    cloud = Cloud(places, np.full(5_000, 0.6), draws.random((5_000, 3)), np.ones(5_000), Brush())
    return _median(lambda: draw_clouds(canvas, [cloud], camera))


def _layer_ms(kind: str, settings: dict[str, Any]) -> float:
    size = FrameSize(1920, 1080)
    document = new_document("Bench", frame=size, rate=Fraction(30), layers=[new_layer(kind, **settings)])
    document["length_s"] = 20.0
    view, canvas = ProjectView(parse(document), None), Canvas(size.width, size.height)
    number = iter(range(10_000))
    return _median(lambda: view.at(Fraction(10) + Fraction(next(number), 30), size).draw_frame(canvas))


def _median(work: Callable[[], Any]) -> float:
    work()
    result = []
    for _ in range(_ROUNDS):
        begin = time.perf_counter()
        work()
        result.append((time.perf_counter() - begin) * 1000)
    return statistics.median(result)
