"""What effects cost: each on a layer that fills a frame of 1920x1080, beside adding two such frames with OpenCV."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Iterator
from typing import Any

import cv2
import numpy as np

from bench.rows import Row
from tests.picture.effects.effect_sources import busy, context_of, effect
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.raster.colour_tables import in_cube
from velvetdrum.picture.raster.layer_image import LayerImage

_ROUNDS = 9

BARS: tuple[tuple[str, str, float, dict[str, Any]], ...] = (
    ("glow", "glow", 14, {}),
    ("light rays", "light-rays", 16, {}),
    (
        "six colour settings",
        "adjust",
        4,
        {"exposure": 0.2, "contrast": 120, "gamma": 1.1, "saturation": 130, "hue": 20, "temperature": 20},
    ),
    ("gradient map", "gradient-map", 2, {}),
    ("kaleidoscope", "kaleidoscope", 8, {}),
    ("mirror", "mirror", 8, {}),
    ("glass ring in its box", "glass-ring", 4, {"dispersion": 0}),
    ("glass ring with dispersion", "glass-ring", 8, {}),
    ("a ripple that moves", "ripple", 10, {}),
    ("turbulence that moves", "turbulence", 10, {}),
    ("bevel", "bevel", 8, {}),
    ("grain", "grain", 3, {}),
)


def bench_effects() -> Iterator[Row]:
    """Each effect beside `cv2.add` of two frames in the same run; medians."""
    pixels = busy(1920, 1080)
    other = pixels.copy()
    out = np.empty_like(pixels)
    add = _median(lambda: cv2.add(pixels, other, out))
    yield Row("cv2.add of two frames, 1920x1080", add, "ms", add, "itself")
    for what, kind, most, settings in BARS:
        took = _effect_ms(effect(kind, **settings), pixels)
        yield Row(f"{what}, 1920x1080", took, "ms", add * most, f"{most:g} times cv2.add")
    points = np.linspace(0, 1, 33, dtype=np.float32)
    cube = np.stack(np.meshgrid(points, points, points, indexing="ij")[::-1], axis=-1) ** np.float32(1.2)
    took = _median(lambda: in_cube(pixels, cube, np.zeros(3), np.ones(3)))
    yield Row("a look-up table of 33 points, 1920x1080", took, "ms", add * 6, "6 times cv2.add")
    after = effect("afterimages", count=8, fade=12)
    took = _effect_ms(after, busy(1920, 1080, opaque=False), 2.0)
    yield Row("afterimages of 8 still pictures, 1920x1080", took, "ms", add * 9, "9 times cv2.add, with drawing them")


def _effect_ms(given: DrawnEffect, pixels: np.ndarray, time_s: float = 1.0) -> float:
    SHARED_CACHE.clear()
    result = []
    for number in range(_ROUNDS + 3):
        context = context_of(pixels, time_s + number / 30)
        image = LayerImage(0, 0, pixels)
        begin = time.perf_counter()
        given.apply(image, context)
        result.append((time.perf_counter() - begin) * 1000)
    return statistics.median(result[3:])


def _median(work: Callable[[], Any]) -> float:
    result = []
    for _ in range(_ROUNDS * 2):
        begin = time.perf_counter()
        work()
        result.append((time.perf_counter() - begin) * 1000)
    return statistics.median(result)
