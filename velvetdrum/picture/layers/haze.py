"""Haze: slow turbulent clouds in two colours."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import parse_hex
from velvetdrum.declare.settings import colour, number, rate, whole
from velvetdrum.declare.vocabulary import degrees, percent, seed
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.areas import words_of
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import fields
from velvetdrum.picture.raster.noise import GRID, spline_weights
from velvetdrum.picture.raster.viewport import Viewport, common
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import layer_kind

_LEVELS = 32_768
"""Levels of thickness."""
_COLOURS = 4096
"""Colours between thin and thick: more than a byte tells apart."""
_SMALL = 4
"""Clouds have no edges: they are worked out at this part of the frame's size."""


@layer_kind("haze", "Haze")
class Haze(DrawnLayer):
    """Slow clouds over what is behind them."""

    designs: ClassVar[tuple[Design, ...]] = (Design("ground", "Haze", {}),)

    scale: float = number(
        60, lo=5, hi=300, unit="%", label="Cloud size", help="Size of the largest clouds, of the frame's short side."
    )
    detail: int = whole(4, lo=1, hi=7, help="How many sizes of clouds there are, each half as large.")
    contrast: float = percent(50, step=1, help="How sharply thick and thin part.")
    seed: int = seed(of="other clouds")
    speed: float = rate(
        3, lo=0, hi=60, unit="%/s", group="motion", help="How fast they drift, of the frame's short side."
    )
    heading: float = degrees(90, group="motion", help="Where they drift: 0 is up.")
    boil: float = rate(
        0.1,
        lo=0,
        hi=2,
        unit="Hz",
        step=0.01,
        group="motion",
        label="Rate of change",
        help="Rate at which the clouds change in place.",
    )
    thick: str = colour("#a99bff", label="Thick", help="Colour where they are thick.")
    thin: str = colour("#1b1119", label="Thin", help="Colour where they are thin.")
    density: float = percent(55, step=1, group="colour", help="How solid the thick parts are.")
    veil: float = percent(0, step=1, group="colour", label="Base density", help="Density of the thin parts.")

    def blur_sigma(self, view: Viewport, at: RenderContext) -> float:
        # The smallest clouds are worked out at a part of the frame's size, and are splines as wide as their cells.
        return max(_SMALL / 2, self.scale / 100 * view.short / 2**self.detail / 4)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        width, height = -(-canvas.width // _SMALL), -(-canvas.height // _SMALL)
        clouds = self._clouds(width, height, canvas.short / _SMALL, float(at.time))
        table, steps = _table(self.thin, self.thick, self.veil / 100, self.density / 100)
        # Enlarged as one number a pixel; grain of up to one step of the colours, then rounded down, keeps them from
        # banding and their mean as it is.
        small = np.rint(clouds * np.float32(_LEVELS - 1)).astype(np.uint16)
        wide = np.ascontiguousarray(cv2.resize(small, (width * _SMALL, height)))
        here = common(canvas.area, canvas.frame)
        size = here[2] - here[0], here[3] - here[1]
        strength = np.uint32(min(round(steps), 0xFFFF))
        fields.veil(*words_of(canvas.part(here)), table, wide, _SMALL, _grain(), strength, *here[:2], *size)
        canvas.touch(here)

    def _clouds(self, width: int, height: int, short: float, time_s: float) -> NDArray[np.float32]:
        """Thickness from 0 to 1: value noise of several sizes, each drifting with the rest and changing on its own."""
        angle = np.deg2rad(self.heading)
        drift = self.integral("speed", time_s) / 100
        changes = self.integral("boil", time_s)
        x = (np.arange(width, dtype=np.float32) + 0.5) / short - np.float32(np.sin(angle) * drift)
        y = (np.arange(height, dtype=np.float32) + 0.5) / short + np.float32(np.cos(angle) * drift)
        total = np.zeros((height, width), np.float32)
        weight = 0.0
        for octave in range(self.detail):
            cells = 100.0 / self.scale * 2**octave
            step = changes * 2 ** (octave / 2)
            number_ = int(np.floor(step))
            part = np.float32(step - number_)
            part = part * part * (3 - 2 * part)
            share = 0.5**octave
            values = _values(self.seed, octave, number_) * (1 - part) + _values(self.seed, octave, number_ + 1) * part
            # A mean of two noises is flatter than either: its spread is kept.
            flat = np.float32(1 / np.sqrt(part**2 + (1 - part) ** 2))
            rows, columns = spline_weights(y * np.float32(cells)), spline_weights(x * np.float32(cells))
            total += np.float32(share) * flat * np.asarray(rows @ values @ columns.T, np.float32)
            weight += share**2
        total /= np.float32(np.sqrt(weight) * 0.29)
        steep = np.float32(0.6 + 2.4 * self.contrast / 100)
        return (1.0 / (1.0 + np.exp(-steep * total))).astype(np.float32)


@cached
def _table(thin: str, thick: str, veil: float, density: float) -> tuple[NDArray[np.uint32], float]:
    """Premultiplied colours by thickness as words, and how many levels of thickness lie in one step of a colour."""
    share = np.linspace(0.0, 1.0, _COLOURS)[:, None]
    first, last = parse_hex(thin)[::-1], parse_hex(thick)[::-1]
    alpha = veil + (density - veil) * share
    levels = np.concatenate([(first + (last - first) * share) * alpha, alpha], axis=1) * 255
    table = np.ascontiguousarray(np.floor(levels + 1e-6).astype(np.uint8)).view(np.uint32)[:, 0]
    return table, float(_LEVELS / max(np.ptp(levels, axis=0).max(), 1.0))


@cached
def _values(seed: int, octave: int, number: int) -> NDArray[np.float32]:
    draws = np.random.Generator(np.random.PCG64((seed, octave, number & 0xFFFFFFFF)))
    return (draws.random((GRID, GRID), np.float32) - np.float32(0.5)) * np.float32(2.0)


@cached
def _grain() -> NDArray[np.uint16]:
    """Even noise, equal in equal places, shape (256, 256)."""
    return np.random.Generator(np.random.PCG64(20_260_103)).integers(0, 65536, (256, 256), np.uint16)
