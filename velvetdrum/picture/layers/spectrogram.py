"""A spectrogram: frequency against time, level as colour; a strip, a ring, or the whole track as it is revealed."""

from __future__ import annotations

from typing import Any, ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, heard_sound, number, stops
from velvetdrum.declare.vocabulary import percent, position_x, position_y
from velvetdrum.limits.cache import SHARED_CACHE, cached
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport, is_empty
from velvetdrum.scene.designs import Design, Sizing, even_ramp
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import BarSettings, fit_range
from velvetdrum.signals.spectrum import BandSet, Spacing, band_levels

_COLOURS = 1024
_BLOCK = 256
_EVEN = [(0.0, "#0a0f22"), (0.28, "#2c2a6b"), (0.5, "#8a3f86"), (0.72, "#e0705e"), (0.88, "#f6b66a"), (1.0, "#fff6d8")]
_TIDE = even_ramp("#0a0f22", "#123a52", "#1f7f86", "#5fc4b4", "#fff3d6")
_DUSK = even_ramp("#120a11", "#4a2452", "#b04a72", "#ff9a66", "#fff3d6")
"""Lightness in even steps from dark to light, so that a decibel is as visible everywhere."""


@layer_kind("spectrogram", "Spectrogram")
class Spectrogram(DrawnLayer):
    """Frequency against time, level as colour."""

    summary: ClassVar[str] = "{reach} s"
    turned: ClassVar[str] = ""
    fits: ClassVar[bool] = True
    sizings: ClassVar[tuple[Sizing, ...]] = (
        Sizing(across=("wide",), down=("high",), when=(("form", ("strip",)),)),
        Sizing(both=("radius",), when=(("form", ("ring",)),)),
    )
    designs: ClassVar[tuple[Design, ...]] = (
        Design("fields", "Spectrogram strip", {}),
        Design("fields", "Spectrogram ring", {"form": "ring", "reach": 6.0}),
        Design("fields", "Whole track, unrolled", {"span": "whole", "wide": 88.0, "high": 46.0, "colours": _TIDE}),
        Design(
            "fields",
            "Spectrogram disc, linear",
            {"form": "ring", "hole": 4.0, "spacing": "linear", "high_hz": 8000.0, "colours": _DUSK, "reach": 4.0},
        ),
    )

    form: str = choice("strip", {"strip": "Strip", "ring": "Ring"}, help="Time runs along it.")
    span: str = choice(
        "past", {"past": "What was", "whole": "All of the track"}, label="Time", help="What is shown of the track."
    )
    reach: float = number(8, lo=0.2, hi=600, unit="s", step=0.1, label="Time shown", help="Time that is shown.")
    x: float = position_x(50, of="the middle")
    y: float = position_y(50, of="the middle")
    wide: float = number(
        80,
        lo=1,
        hi=200,
        unit="%",
        label="Width",
        help="Width, as a share of the frame's width.",
        when=("form", ("strip",)),
    )
    high: float = number(
        50,
        lo=1,
        hi=200,
        unit="%",
        label="Height",
        help="Height, as a share of the frame's height.",
        when=("form", ("strip",)),
    )
    radius: float = number(
        40, lo=1, hi=200, unit="%", help="Distance from the middle to the outer edge.", when=("form", ("ring",))
    )
    hole: float = number(
        40,
        lo=0,
        hi=95,
        unit="%",
        step=1,
        label="Inner radius",
        help="Inner radius, as a share of the outer one.",
        when=("form", ("ring",)),
    )
    low_hz: float = number(
        40,
        lo=20,
        hi=10_000,
        unit="Hz",
        step=1,
        curve="log",
        label="Lowest",
        group="sound",
        help="Lowest frequency that is shown.",
    )
    high_hz: float = number(
        14_000,
        lo=40,
        hi=20_000,
        unit="Hz",
        step=1,
        curve="log",
        label="Highest",
        group="sound",
        help="Highest frequency that is shown.",
    )
    spacing: str = choice(
        "log",
        {"log": "Logarithmic", "linear": "Linear"},
        label="Frequencies",
        group="sound",
        help="Spacing of frequencies along the axis.",
    )
    listens: str = heard_sound()
    channel: str = choice(
        "mix",
        {"mix": "Mix", "left": "Left", "right": "Right", "side": "Side"},
        group="sound",
        help="Part of the stereo sound that is heard.",
    )
    floor_db: float = number(
        -90, lo=-140, hi=0, unit="dBFS", step=1, label="Floor", group="sound", help="The level of the first colour."
    )
    top_db: float = number(
        -18, lo=-120, hi=6, unit="dBFS", step=1, label="Top", group="sound", help="The level of the last colour."
    )
    colours: tuple[Stop, ...] = stops(_EVEN, help="From the floor to the top.")
    ground: float = percent(100, step=1, label="Floor's opacity", group="colour", help="How solid the floor is.")

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        """The top: the level that its loudest band passes now and then; the floor lies 60 dB below."""
        own = cls(settings)
        reads = BarSettings(64, own.low_hz, own.high_hz, "log", own.channel, -90.0, -10.0, 0.0, 0.0, 0.0)
        top = fit_range(use, reads)[1]
        return {"top_db": top, "floor_db": top - 60.0}

    @property
    def bandset(self) -> BandSet:
        """The bands that its rows are, from the lowest."""
        return BandSet.spaced(self.low_hz, max(self.high_hz, self.low_hz * 1.05), _ROWS, _spacing(self.spacing))

    def _box(self, view: Viewport) -> Box:
        if self.form == "ring":
            reach = self.radius * view.short / 100
            return Box(view.x(self.x) - reach, view.y(self.y) - reach, view.x(self.x) + reach, view.y(self.y) + reach)
        wide, high = view.x(self.wide) / 2, view.y(self.high) / 2
        return Box(view.x(self.x) - wide, view.y(self.y) - high, view.x(self.x) + wide, view.y(self.y) + high)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        return self._box(canvas)

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self._box(view).grown(1)

    def levels(self, use: AudioRange, first: int, last: int) -> NDArray[np.float32]:
        """Levels in dBFS of its rows in stored readings from `first` to `last` (exclusive), counted from the start of
        the recording, shape (readings, rows). What lies before and after the used part is silence."""
        parts = []
        for block in range(first // _BLOCK, (last - 1) // _BLOCK + 1):
            key = ("spectrogram", use.recording.identity, self.low_hz, self.high_hz, self.spacing, self.channel, block)
            parts.append(SHARED_CACHE.get(key, lambda block=block: self._block(use, block)))  # type: ignore[misc]
        result = np.concatenate(parts)[first - first // _BLOCK * _BLOCK :][: last - first]
        place = np.arange(first, last)
        out = result.copy()
        out[(place < use.in_s * FRAME_RATE) | (place > use.out_s * FRAME_RATE)] = -200.0
        return out

    def _block(self, use: AudioRange, block: int) -> NDArray[np.float32]:
        return band_levels(use.recording, self.bandset, self.channel, block * _BLOCK, (block + 1) * _BLOCK)

    def places(self, levels: NDArray[np.float32]) -> NDArray[np.float32]:
        """Places in the gradient, 0 to 1, of levels in dBFS."""
        span = max(self.top_db - self.floor_db, 1.0)
        return np.asarray(np.clip((levels - self.floor_db) / span, 0.0, 1.0), np.float32)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        if at.use is None:
            return
        box = self._box(canvas)
        area = box.grown(1).pixels(canvas.area)
        if is_empty(area):
            return
        picture = self._picture(at)
        if picture is None:
            return
        result = self._ring(picture, canvas, area) if self.form == "ring" else _placed(picture, box, area)
        table = _table(self.colours, self.ground / 100)
        index = np.rint(np.clip(result[..., 0], 0, 1) * (_COLOURS - 1)).astype(np.int32)
        pixels = table.take(index).view(np.uint8).reshape(*index.shape, 4)
        cover = np.asarray(np.rint(np.clip(result[..., 1], 0, 1) * 255), np.uint8)
        canvas.blend(pixels, area, mask=cover)

    def _picture(self, at: RenderContext) -> NDArray[np.float32] | None:
        """Places in the gradient with what is there (1, or 0 for what has not come), shape (rows, columns, 2), the
        highest frequency in the first row and the earliest time in the first column."""
        assert at.use is not None
        now = float(at.time)
        begin = at.use.in_s * FRAME_RATE
        if self.span == "whole":
            key = ("whole spectrogram", at.use.recording.identity, at.use.in_s, at.use.out_s, self.state())
            whole: NDArray[np.float32] = SHARED_CACHE.get(key, lambda: self._whole(at.use))  # type: ignore[arg-type]
            picture = np.ones((*whole.shape, 2), np.float32)
            picture[..., 0] = whole
            length = at.use.out_s - at.use.in_s
            come = now / max(length, 1e-6) * whole.shape[1]
            picture[..., 1] = np.clip(come - np.arange(whole.shape[1]), 0, 1)[None]
            return picture
        count = max(int(self.reach * FRAME_RATE), 2)
        place = begin + now * FRAME_RATE
        last = int(np.floor(place))
        part = np.float32(place - last)
        levels = self.levels(at.use, last - count, last + 2)
        # Columns lie between two readings: the picture moves on evenly, whatever the frame rate.
        values = self.places(levels[:-1] * (1 - part) + levels[1:] * part)
        picture = np.ones((values.shape[1], values.shape[0], 2), np.float32)
        picture[..., 0] = values.T[::-1]
        return picture

    def _whole(self, use: AudioRange) -> NDArray[np.float32]:
        """All of the used part in up to 2048 columns, each the mean of its levels."""
        first, last = int(use.in_s * FRAME_RATE), max(int(use.out_s * FRAME_RATE), int(use.in_s * FRAME_RATE) + 2)
        columns = min(last - first, 2048)
        edges = np.linspace(first, last, columns + 1).astype(int)
        out = np.empty((_ROWS, columns), np.float32)
        for begin in range(0, columns, 128):
            end = min(begin + 128, columns)
            levels = self.levels(use, edges[begin], max(edges[end], edges[begin] + 1))
            sums = np.add.reduceat(levels, edges[begin:end] - edges[begin], axis=0)
            out[:, begin:end] = (sums / np.diff(edges[begin : end + 1])[:, None]).T[::-1]
        return self.places(out)

    def _ring(self, picture: NDArray[np.float32], canvas: Canvas, area: Area) -> NDArray[np.float32]:
        """The picture bent: time runs clockwise from the top, low frequencies lie inside."""
        outer = self.radius * canvas.short / 100
        inner = outer * self.hole / 100
        x, y = _round(canvas.x(self.x), canvas.y(self.y), inner, outer, area)
        rows, columns = picture.shape[:2]
        result = cv2.remap(
            picture,
            x * np.float32(columns) - np.float32(0.5),
            y * np.float32(rows) - np.float32(0.5),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
        away = y * np.float32(outer - inner)
        edge = np.clip(away + np.float32(0.5), 0, 1) * np.clip(np.float32(outer - inner) - away + np.float32(0.5), 0, 1)
        result[..., 1] *= edge
        return np.asarray(result, np.float32)


_ROWS = 160


def _spacing(name: str) -> Spacing:
    return "linear" if name == "linear" else "log"


def _placed(picture: NDArray[np.float32], box: Box, area: Area) -> NDArray[np.float32]:
    """The picture stretched over a box, in the pixels of an area; its edges lie between pixels."""
    rows, columns = picture.shape[:2]
    wide, high = box.right - box.left, box.bottom - box.top
    while columns > 2 * wide and columns > 4:
        picture = np.asarray(cv2.resize(picture, (columns // 2, rows), interpolation=cv2.INTER_AREA), np.float32)
        columns = picture.shape[1]
    scale = np.array([[columns / wide, 0, 0], [0, rows / high, 0]])
    scale[:, 2] = (
        (area[0] + 0.5 - box.left) * columns / wide - 0.5,
        (area[1] + 0.5 - box.top) * rows / high - 0.5,
    )
    size = (area[2] - area[0], area[3] - area[1])
    result = cv2.warpAffine(
        picture, scale, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE
    )
    x = np.arange(area[0], area[2]) + 0.5
    y = np.arange(area[1], area[3]) + 0.5
    across = np.clip(np.minimum(x - box.left, box.right - x) + 0.5, 0, 1)
    down = np.clip(np.minimum(y - box.top, box.bottom - y) + 0.5, 0, 1)
    result[..., 1] *= np.outer(down, across).astype(np.float32)
    return np.asarray(result, np.float32)


@cached
def _round(
    x0: float, y0: float, inner: float, outer: float, area: Area
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Shares of the way round, from the top, and from the outer edge inward, of the pixels of an area."""
    dx = (np.arange(area[0], area[2], dtype=np.float32) + np.float32(0.5 - x0))[None, :]
    dy = (np.arange(area[1], area[3], dtype=np.float32) + np.float32(0.5 - y0))[:, None]
    turn = np.arctan2(dx, -dy) / np.float32(2 * np.pi)
    return (turn % 1.0).astype(np.float32), ((outer - np.hypot(dx, dy)) / (outer - inner)).astype(np.float32)


@cached
def _table(colours: tuple[Stop, ...], ground: float) -> NDArray[np.uint32]:
    """Premultiplied words by level; the floor is only as solid as it is to be."""
    rgb = ramp(colours, _COLOURS, "oklab")
    alpha = ground + (1 - ground) * np.clip(np.linspace(0, 1, _COLOURS) * 4, 0, 1)
    levels = np.rint(np.concatenate([rgb[:, ::-1] * alpha[:, None], alpha[:, None]], axis=1) * 255)
    return np.ascontiguousarray(levels.astype(np.uint8)).view(np.uint32)[:, 0]
