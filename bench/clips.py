"""Looking back over footage."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from pathlib import Path

from bench.footage import large_clip
from bench.rows import Row
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.media.clips.clip import Clip

_STEP = 3
"""Frames in 100 ms."""


def bench_clips(folder: Path) -> Iterator[Row]:
    """A frame of a clip with four looks back of 100 ms each, beside that frame alone."""
    path = folder / "look.mp4"
    if not path.exists():
        large_clip(path)
    for what, numbers in (("forward", list(range(15, 55))), ("in any order", [47, 15, 33, 58, 21, 52, 18, 40])):
        alone, looking = (_frame_ms(path, numbers, looks) for looks in (0, 4))
        yield Row(f"1080p clip, four looks back, {what}", looking, "ms", 4.5 * alone, "4.5 times one frame, this run")


def _frame_ms(path: Path, numbers: list[int], looks: int) -> float:
    SHARED_CACHE.drop("clip")
    clip, times = Clip(str(path)), []
    for number in numbers:
        start = time.process_time()
        for look in range(looks + 1):
            clip.pixels(max(number - look * _STEP, 0), (1920, 1080))
        times.append(time.process_time() - start)
    return statistics.median(times[2:]) * 1000
