"""A project looked at before it is exported: every frame drawn small, and what is seen of it kept in a few numbers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.deliver.checks.flashes import FlashMeter, FlashSpan, as_bytes, as_light, cells_of
from velvetdrum.deliver.checks.stretches import BLACK, BLACK_S, FROZEN_S, Spans, is_same, spans_of
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.deliver.video import Step, drawn_frames
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.scene.document import Project
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange

LOOKED_AT = 256
"""Pixels of the longer side that frames are drawn with: flashes are judged by areas of a third of a side."""

_STEP_S = 0.1
"""Between two points of the curve of flashes."""

Values = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class FrameMeasures:
    """What is seen of frames: their colours in a grid of cells, shape (frames, 54, 96, 3); how light the lightest of
    each is, and how much it differs within, 0 to 255; and whether it is the same as the one before it."""

    cells: NDArray[np.uint8]
    light: Values
    spread: Values
    same: NDArray[np.bool_]


@dataclass(frozen=True)
class Findings:
    """What a look has found; times in seconds from the start of what is exported. `curve` has general and red flashes a
    second, the most in each tenth of a second."""

    frames: int
    rate: float
    curve: tuple[tuple[float, ...], tuple[float, ...]]
    flashes: tuple[FlashSpan, ...]
    black: Spans
    frozen: Spans
    moves_s: float | None
    """When the picture first moves; None for one that never does."""
    first_spread: float
    usual_spread: float

    def values(self) -> dict[str, Any]:
        """As plain values."""
        return asdict(self)


def small_plan(plan: ExportPlan) -> ExportPlan:
    """The plan of an export with frames as small as they are looked at.

    Parameters
    ----------
    plan
        What is exported: frames, size, rate, format.
    """
    size = FrameSize(plan.width, plan.height)
    scale = min(LOOKED_AT / max(size.width, size.height), 1.0)
    small = size.scaled_to(max(round(size.width * scale), 64))
    return replace(plan, width=small.width, height=small.height, format="mp4", megabytes=None, transparent=False)


def see(
    project: Project,
    use: AudioRange | None,
    plan: ExportPlan,
    first: int,
    last: int,
    step: Step = lambda done: None,
    media: Mapping[str, str] | None = None,
) -> FrameMeasures:
    """Draw frames `first` to `last` (exclusive) of a small plan, and the one before them.

    Parameters
    ----------
    project
        The project.
    use
        The used stretch of a recording.
    plan
        What is exported: frames, size, rate, format.
    first
        The first one, counted from 0.
    last
        The last one, counted from 0.
    step
        Called with every frame that is done.
    media
        Paths of the project's files by content hash.
    """
    cells: list[NDArray[np.uint8]] = []
    light: list[float] = []
    spread: list[float] = []
    same: list[bool] = []
    before: NDArray[np.int16] | None = None
    begin = max(first - 1, plan.first)
    for number, pixels in enumerate(drawn_frames(project, use, plan, begin, last, step, media), begin):
        grey = _grey(pixels)
        if number >= first:
            cells.append(as_bytes(cells_of(np.ascontiguousarray(pixels[..., :3]))))
            light.append(float(np.percentile(grey, 99)))
            spread.append(float(grey.std()))
            same.append(before is not None and is_same(grey, before))
        before = grey
    return FrameMeasures(np.array(cells, np.uint8), np.array(light), np.array(spread), np.array(same, bool))


def keep_seen(seen: FrameMeasures, path: Path) -> None:
    """Keep what was seen of a segment; the file appears when it is whole.

    Parameters
    ----------
    seen
        What was measured of frames.
    path
        The file.
    """
    with written_whole(path, "What was seen") as beside, beside.open("wb") as file:
        np.savez_compressed(file, cells=seen.cells, light=seen.light, spread=seen.spread, same=seen.same)


def kept_seen(path: Path) -> FrameMeasures:
    """What was kept of a segment.

    Parameters
    ----------
    path
        The file.
    """
    with np.load(path, allow_pickle=False) as held:
        return FrameMeasures(held["cells"], held["light"], held["spread"], held["same"])


def findings_of(parts: list[FrameMeasures], rate: float) -> Findings:
    """What is found of all segments, in their order.

    Parameters
    ----------
    parts
        Measures of stretches, in order.
    rate
        Frames or samples a second.
    """
    meter, number = FlashMeter(), 0
    for part in parts:
        for cells in part.cells:
            meter.feed_cells(as_light(cells), number / rate)
            number += 1
    light = np.concatenate([part.light for part in parts])
    spread = np.concatenate([part.spread for part in parts])
    same = np.concatenate([part.same for part in parts])
    times = [n / rate for n in range(number)]
    moving = np.flatnonzero(~same[1:]) + 1
    curve = tuple(_tenths(meter.rates(kind), rate) for kind in ("general", "red"))
    return Findings(
        number,
        rate,
        (curve[0], curve[1]),
        tuple(meter.spans()),
        spans_of(light / 255 < BLACK, times, 1 / rate, BLACK_S),
        spans_of(same, times, 1 / rate, FROZEN_S),
        float(moving[0] / rate) if len(moving) else None,
        float(spread[0]) if number else 0.0,
        float(np.median(spread)) if number else 0.0,
    )


def _tenths(values: Values, rate: float) -> tuple[float, ...]:
    count = max(int(np.ceil(len(values) / rate / _STEP_S)), 1)
    edges = np.minimum(np.floor(np.arange(count) * _STEP_S * rate).astype(int), max(len(values) - 1, 0))
    return tuple(np.maximum.reduceat(values, edges).tolist()) if len(values) else ()


def _grey(pixels: Pixels) -> NDArray[np.int16]:
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGRA2GRAY), np.int16)
