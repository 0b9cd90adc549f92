"""Flashes after WCAG 2.2, success criterion 2.3.1: general ones and red ones, by luminance, area and rate.

A flash is a pair of opposing changes of relative luminance by a tenth or more, where the darker state is below 0.80; a
red flash is such a pair of a saturated red. They count where they cover a quarter of any 10 degrees of the visual
field: a window of 341 by 256 in a picture of 1024 by 768, a third of each side. More than three in any second are too
many.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.recolouring import linear

GRID = (96, 54)
"""Cells that a picture is looked at in."""

_STEP, _DARK = 0.1, 0.8
_RED_STEP, _RED_SHARE = 20.0, 0.8
_AREA = 0.25
MOST_PER_S = 3.0
_TOGETHER_S = 0.1
"""Changes that come within this time are one: what fades within a few frames is seen as one change."""

Values = NDArray[np.float64]
Cells = NDArray[np.bool_]


@dataclass(frozen=True)
class FlashSpan:
    """A stretch in which there are too many flashes: seconds, general or red, and how many a second at the most."""

    start_s: float
    end_s: float
    kind: str
    per_s: float


class FlashMeter:
    """Feed pictures in order, shape (height, width, 3), blue, green and red bytes, with their times in seconds."""

    def __init__(self) -> None:
        self._general, self._red = _Turns(_STEP, _DARK), _Turns(_RED_STEP, np.inf)
        self.times: list[float] = []
        self._table = linear(np.arange(256) / 255)

    def feed(self, picture: NDArray[np.uint8], time_s: float) -> None:
        """Look at the next picture."""
        small = cv2.resize(picture, GRID, interpolation=cv2.INTER_AREA)
        light = self._table[small]
        blue, green, red = light[..., 0], light[..., 1], light[..., 2]
        luminance = 0.0722 * blue + 0.7152 * green + 0.2126 * red
        share = red / np.maximum(red + green + blue, 1e-9)
        saturated = (share >= _RED_SHARE) & (red > 0.02)
        redness = np.where(saturated, np.maximum(red - green - blue, 0.0), 0.0) * 320
        self.times.append(time_s)
        self._general.feed(luminance, time_s)
        self._red.feed(redness, time_s)

    def rates(self, kind: str = "general") -> Values:
        """Flashes in the second that ends with each picture, shape (pictures,)."""
        turns = self._general if kind == "general" else self._red
        return turns.rates(np.array(self.times))

    def spans(self) -> list[FlashSpan]:
        """Where there are more than three in a second."""
        found = []
        times = np.array(self.times)
        for kind in ("general", "red"):
            rates = self.rates(kind)
            many = rates > MOST_PER_S
            edges = np.flatnonzero(np.diff(np.concatenate([[False], many, [False]]).astype(int)))
            for first, last in zip(edges[::2], edges[1::2], strict=True):
                begin = max(float(times[first]) - 1.0, 0.0)
                found.append(FlashSpan(begin, float(times[last - 1]), kind, float(rates[first:last].max())))
        return sorted(found, key=lambda span: span.start_s)


class _Turns:
    """Opposing changes of a value in each cell, and when enough of a window turns at once. A change counts where its
    darker state is below `dark`."""

    def __init__(self, step: float, dark: float) -> None:
        self._step, self._dark = step, dark
        self._low = self._high = np.zeros(0)
        # Which way each cell went last: up, down, or neither yet.
        self._way = np.zeros(GRID[::-1], np.int8)
        self._recent: list[tuple[float, Cells, Cells]] = []
        self._turns: list[tuple[float, int]] = []

    def feed(self, value: Values, time_s: float) -> None:
        """A value from each cell at the next time."""
        if not self._low.size:
            self._low = self._high = value
            return
        way = self._way
        high = np.where(way >= 0, np.maximum(self._high, value), self._high)
        low = np.where(way <= 0, np.minimum(self._low, value), self._low)
        down = (way >= 0) & (high - value >= self._step) & (value < self._dark)
        up = (way <= 0) & (value - low >= self._step) & (low < self._dark) & ~down
        # From a turn on, the other extreme is looked for anew.
        self._low, self._high = np.where(down, value, low), np.where(up, value, high)
        self._way = np.where(up, 1, np.where(down, -1, way)).astype(np.int8)
        self._recent = [item for item in self._recent if item[0] > time_s - _TOGETHER_S]
        self._recent.append((time_s, up, down))
        for sign, index in ((1, 1), (-1, 2)):
            together = np.zeros(GRID[::-1], bool)
            for item in self._recent:
                together |= item[index]
            if self._turns and self._turns[-1][1] == sign:
                continue
            if _large(together):
                self._turns.append((time_s, sign))
                # What has been counted is not to be seen again.
                self._recent = []

    def rates(self, times: Values) -> Values:
        """Pairs of opposing turns in the second before each time."""
        at = np.array([time for time, _ in self._turns])
        if not len(at):
            return np.zeros(len(times))
        count = np.searchsorted(at, times, "right") - np.searchsorted(at, times - 1.0, "right")
        return np.asarray(count // 2, np.float64)


def _large(cells: Cells) -> bool:
    """True where they fill a quarter of any window."""
    if not cells.any():
        return False
    share = cv2.blur(cells.astype(np.float32), (GRID[0] // 3, GRID[1] // 3), borderType=cv2.BORDER_CONSTANT)
    return bool(share.max() >= _AREA)
