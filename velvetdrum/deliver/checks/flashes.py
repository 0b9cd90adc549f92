"""Flashes after WCAG 2.2, success criterion 2.3.1: general ones and red ones, by luminance, area and rate.

A flash is a pair of opposing changes of relative luminance by a tenth or more, where the darker state is below 0.80; a
red flash is such a pair of a saturated red, (R - G - B) * 320 changing by more than 20, where one of the two states has
R / (R + G + B) of 0.8 or more. They count where they cover a quarter of any 10 degrees of the visual field: a window of
341 by 256 in a picture of 1024 by 768, a third of each side. More than three in any second are too many.

Flashes are counted place by place: what travels makes each place that it passes flash as often as it comes by, however
many places it passes in a second. A fine, balanced pattern is none: what turns must turn in its cell and in the mean
over squares of some 0.4 degrees about it, 8 pixels at the least.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.colour_tables import linear

GRID = (96, 54)
"""Cells that a picture is looked at in."""

_STEP, _DARK = 0.1, 0.8
_RED_STEP, _RED_SHARE = 20.0, 0.8
_AREA = 0.25
MOST_PER_S = 3.0
_FINE_WIDTHS, _FINE_PIXELS = 75, 8
"""Squares of 0.4 degrees as a part of the picture's width, which is 30 degrees, so that four of 0.1 degree are evened
out, and noise is; and pixels at the least."""

Values = NDArray[np.float64]
Cells = NDArray[np.bool_]


@dataclass(frozen=True)
class FlashSpan:
    """A stretch in which there are too many flashes: seconds, general or red, and how many a second at the most."""

    start_s: float
    end_s: float
    kind: str
    per_s: float


_LIGHT = linear(np.arange(256) / 255).astype(np.float32)


def cells_of(picture: NDArray[np.uint8]) -> NDArray[np.float32]:
    """The light of a picture (blue, green, red) in the cells of the grid, by itself and evened out over fine patterns,
    linear from 0 to 1, shape (2, 54, 96, 3).

    Parameters
    ----------
    picture
        Pixels, premultiplied BGRA, shape (height, width, 4).
    """
    fine = max(_FINE_PIXELS, round(picture.shape[1] / _FINE_WIDTHS))
    # In light, not in bytes: of a fine pattern its mean light is seen.
    light = _LIGHT[picture]
    even = cv2.blur(light, (fine, fine), borderType=cv2.BORDER_REFLECT)
    return np.stack([cv2.resize(part, GRID, interpolation=cv2.INTER_AREA) for part in (light, even)]).astype(np.float32)


def as_light(cells: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Cells that were kept as bytes (sRGB), in linear light.

    Parameters
    ----------
    cells
        Colours of cells, BGR, shape (frames, rows, columns, 3).
    """
    return np.asarray(_LIGHT[cells], np.float32)


def as_bytes(cells: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Cells in linear light as the nearest bytes (sRGB).

    Parameters
    ----------
    cells
        Colours of cells, BGR, shape (frames, rows, columns, 3).
    """
    above = np.searchsorted(_LIGHT, cells).clip(1, 255)
    return np.where(cells - _LIGHT[above - 1] < _LIGHT[above] - cells, above - 1, above).astype(np.uint8)


class FlashMeter:
    """Feed pictures in order, shape (height, width, 3), blue, green and red bytes, with their times in seconds."""

    def __init__(self) -> None:
        self._general, self._red = _Turns(_STEP), _Turns(_RED_STEP)
        self.times: list[float] = []

    def feed(self, picture: NDArray[np.uint8], time_s: float) -> None:
        """Look at the next picture.

        Parameters
        ----------
        picture
            BGRA pixels, shape (height, width, 4).
        time_s
            A time in seconds.
        """
        self.feed_cells(cells_of(picture), time_s)

    def feed_cells(self, cells: NDArray[np.float32], time_s: float) -> None:
        """Look at the next picture by its cells, as `cells_of` gives them.

        Parameters
        ----------
        cells
            Luminances of the cells, as `cells_of` gives them.
        time_s
            A time in seconds.
        """
        light = cells.astype(np.float64)
        blue, green, red = light[..., 0], light[..., 1], light[..., 2]
        luminance = 0.0722 * blue + 0.7152 * green + 0.2126 * red
        saturated = red >= _RED_SHARE * (red + green + blue + 1e-9)
        redness = np.maximum(red - green - blue, 0.0) * 320
        self.times.append(time_s)
        self._general.feed(luminance, luminance[0] < _DARK, time_s)
        self._red.feed(redness, saturated[0], time_s)

    def rates(self, kind: str = "general") -> Values:
        """Flashes in the second that ends with each picture, shape (pictures,).

        Parameters
        ----------
        kind
            general, or red.
        """
        turns = self._general if kind == "general" else self._red
        return np.array(turns.rates, np.float64)

    def spans(self) -> list[FlashSpan]:
        """Where there are more than three in a second."""
        result = []
        times = np.array(self.times)
        for kind in ("general", "red"):
            rates = self.rates(kind)
            many = rates > MOST_PER_S
            edges = np.flatnonzero(np.diff(np.concatenate([[False], many, [False]]).astype(int)))
            for first, last in zip(edges[::2], edges[1::2], strict=True):
                begin = max(float(times[first]) - 1.0, 0.0)
                result.append(FlashSpan(begin, float(times[last - 1]), kind, float(rates[first:last].max())))
        return sorted(result, key=lambda span: span.start_s)


class _Turns:
    """Opposing changes of a value in each cell, and how many of them come in pairs within a second, where enough of a
    window has them. A change counts where one of its two states is marked: dark enough, or red enough."""

    def __init__(self, step: float) -> None:
        self._step = step
        # The extremes since the last turn, and whether they were marked.
        self._low = self._high = np.zeros(0)
        self._low_mark = self._high_mark = np.zeros(0, bool)
        # Which way each cell went last: up, down, or neither yet.
        self._way = np.zeros(GRID[::-1], np.int8)
        self._count = np.zeros(GRID[::-1], np.int32)
        self._before: deque[tuple[float, NDArray[np.int32]]] = deque()
        self.rates: list[float] = []
        """Flashes in the second that ends with each picture."""

    def feed(self, value: Values, mark: Cells, time_s: float) -> None:
        """A value of each cell at the next time, by itself and evened out, shape (2, rows, columns), and whether it is
        such as counts."""
        if not self._low.size:
            self._low = self._high = value
            self._low_mark = self._high_mark = mark
            self._before.append((time_s, self._count))
            self.rates.append(0.0)
            return
        way = self._way
        higher, lower = (way >= 0) & (value > self._high), (way <= 0) & (value < self._low)
        high, high_mark = np.where(higher, value, self._high), np.where(higher[0], mark, self._high_mark)
        low, low_mark = np.where(lower, value, self._low), np.where(lower[0], mark, self._low_mark)
        down = (way >= 0) & (high - value >= self._step).all(axis=0) & (high_mark | mark)
        up = (way <= 0) & (value - low >= self._step).all(axis=0) & (low_mark | mark) & ~down
        # From a turn on, the other extreme is looked for anew.
        self._low, self._low_mark = np.where(down, value, low), np.where(down, mark, low_mark)
        self._high, self._high_mark = np.where(up, value, high), np.where(up, mark, high_mark)
        self._way = np.where(up, 1, np.where(down, -1, way)).astype(np.int8)
        self._count = self._count + (up | down)
        self._before.append((time_s, self._count))
        # What was counted a second ago, or longer, does not count any more.
        while len(self._before) > 1 and self._before[1][0] <= time_s - 1.0:
            self._before.popleft()
        first = self._before[0][1] if self._before[0][0] <= time_s - 1.0 else np.zeros_like(self._count)
        flashes = (self._count - first) // 2
        rate = 0
        while _large(flashes > rate):
            rate += 1
        self.rates.append(float(rate))


def _large(cells: Cells) -> bool:
    """True where they fill a quarter of any window."""
    if not cells.any():
        return False
    share = cv2.blur(cells.astype(np.float32), (GRID[0] // 3, GRID[1] // 3), borderType=cv2.BORDER_CONSTANT)
    return bool(share.max() >= _AREA)
