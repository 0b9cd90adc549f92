"""A flare: the light of a lamp in a lens, with its ring, its streak and its ghosts."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import parse_hex
from velvetdrum.declare.settings import colour, number, whole
from velvetdrum.declare.vocabulary import degrees
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.layer_image import NOTHING
from velvetdrum.picture.raster.light import SmallLight, added
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import Design, Sizing
from velvetdrum.scene.kinds import layer_kind

_SPRITE = 257
_SMALL = 2
"""Light has few edges: it is worked out at this part of the frame's size."""
_STREAK = 0.008
"""Half the thickness of the streak, of the frame's short side."""


@layer_kind("flare", "Flare")
class Flare(DrawnLayer):
    """The light of a lamp as a lens shows it; give its strength a signal."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("shape", "Flare", {}),
        Design("shape", "Faceted flare", {"facets": 8, "ghosts": 0, "streak": 25, "ring": 70}),
    )
    begins: ClassVar[dict[str, object]] = {"blend": "plus-lighter"}
    sizings: ClassVar[tuple[Sizing, ...]] = (Sizing(both=("size",)),)

    x: float = number(50, lo=-100, hi=200, unit="%", label="Position X", help="Where the lamp is, across.")
    y: float = number(50, lo=-100, hi=200, unit="%", label="Position Y", help="Where the lamp is, down.")
    size: float = number(14, lo=0.5, hi=100, unit="%", help="Radius of its ring, of the frame's short side.")
    gain: float = number(100, lo=0, hi=400, unit="%", step=1, label="Strength", help="How bright all of it is.")
    turn: float = degrees(0, lo=-3600, hi=3600, help="Turn of its facets and its streak.")
    core: float = number(100, lo=0, hi=300, unit="%", step=1, help="How bright the lamp itself is.")
    ring: float = number(35, lo=0, hi=300, unit="%", step=1, help="How bright the ring is.")
    streak: float = number(60, lo=0, hi=300, unit="%", step=1, help="How bright the streak is.")
    streak_length: float = number(90, lo=1, hi=300, unit="%", step=1, help="How long it is, of the short side.")
    facets: int = whole(0, lo=0, hi=24, help="Corners of the lens's opening; 0 for a round one.")
    ghosts: int = whole(5, lo=0, hi=16, help="Reflections along the line through the frame's middle.")
    ghost_gain: float = number(
        30, lo=0, hi=300, unit="%", step=1, label="Ghosts' strength", help="How bright they are."
    )
    edge_colour: str = colour("#ff7a66", help="Colour of the ring and of every other ghost.")
    colour: str = colour("#ffd9a0", help="Colour of the light.")

    @property
    def still(self) -> bool:
        return True

    def blur_sigma(self, view: Viewport, at: RenderContext) -> float:
        # Its finest part is the streak.
        return min(_STREAK * view.short / 2, float(_SMALL))

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        x, y, radius = canvas.x(self.x), canvas.y(self.y), self.size * canvas.short / 100
        return Box(x - radius, y - radius, x + radius, y + radius)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        gain = self.gain / 100
        if gain <= 0:
            return
        width, height = -(-canvas.width // _SMALL), -(-canvas.height // _SMALL)
        # Channel by channel: a row of one is added to at a time.
        light = np.zeros((3, height, width), np.float32)
        x, y = canvas.x(self.x) / _SMALL, canvas.y(self.y) / _SMALL
        radius = self.size * canvas.short / 100 / _SMALL
        angle = float(np.deg2rad(self.turn))
        main, edge = (np.append(parse_hex(value)[::-1], 1.0) * 255 for value in (self.colour, self.edge_colour))
        white = np.array([255.0, 255.0, 255.0, 255.0])
        _stamp(light, _core(self.facets), (x, y), radius * 2.4, angle, main * self.core / 100 * gain)
        _stamp(light, _core(0), (x, y), radius * 0.55, angle, white * self.core / 100 * gain)
        _stamp(light, _opening(self.facets, True), (x, y), radius * 1.15, angle, edge * self.ring / 100 * gain)
        self._streak(light, (x, y), canvas.short / _SMALL, angle, main * gain)
        middle = np.array([width / 2, height / 2])
        for number_ in range(self.ghosts):
            # On the line from the lamp through the middle, at uneven places, of uneven sizes.
            draw = np.random.Generator(np.random.PCG64((number_, 77))).random(3)
            place = middle + (middle - (x, y)) * (-0.55 + 1.9 * (number_ + 0.3 + 0.4 * draw[0]) / max(self.ghosts, 1))
            tone = (edge if number_ % 2 else main) * self.ghost_gain / 100 * gain * (0.35 + 0.65 * draw[1]) * 0.5
            size = radius * (0.25 + 0.8 * draw[2])
            _stamp(light, _opening(self.facets, number_ % 3 == 0), (place[0], place[1]), size, angle, tone)
        # Light is as solid as it is bright, so that it can be laid over anything in any mode.
        alpha = np.minimum(np.maximum(np.maximum(light[0], light[1]), light[2]), 255)
        values = np.asarray(cv2.merge([*light, alpha]))
        light_ = SmallLight(values, _SMALL, 0, 0)
        canvas.blend(added(NOTHING, canvas.frame, light_, (1.0, 1.0, 1.0, 1.0)), canvas.frame)

    def _streak(
        self,
        light: NDArray[np.float32],
        place: tuple[float, float],
        short: float,
        angle: float,
        tone: NDArray[np.float64],
    ) -> None:
        if self.streak <= 0:
            return
        length = self.streak_length / 100 * short
        linear = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        for share, wide, strong in ((1.0, _STREAK, 0.8), (0.55, 0.03, 0.25)):
            scale = np.diag([length * share, max(wide * short, 0.8)]) / (_SPRITE / 2)
            _laid(light, _bar(), place, linear @ scale, tone * self.streak / 100 * strong)


def _stamp(
    light: NDArray[np.float32],
    sprite: NDArray[np.float32],
    place: tuple[float, float],
    radius: float,
    angle: float,
    tone: NDArray[np.float64],
) -> None:
    """Add a sprite, its side brought to two radii, about a place, in a tone."""
    scale = radius / (_SPRITE / 2)
    turn = scale * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    _laid(light, sprite, place, turn, tone)


def _laid(
    light: NDArray[np.float32],
    sprite: NDArray[np.float32],
    place: tuple[float, float],
    linear: NDArray[np.float64],
    tone: NDArray[np.float64],
) -> None:
    if not np.any(tone[:3] > 0.2) or abs(np.linalg.det(linear)) < 1e-9:
        return
    reach = np.abs(linear).sum(axis=1) * _SPRITE / 2 + 1
    left, top = max(int(place[0] - reach[0]), 0), max(int(place[1] - reach[1]), 0)
    right, bottom = min(int(place[0] + reach[0]) + 2, light.shape[2]), min(int(place[1] + reach[1]) + 2, light.shape[1])
    if right <= left or bottom <= top:
        return
    middle = (_SPRITE - 1) / 2
    move = np.array(place) - 0.5 - (left, top) - linear @ (middle, middle)
    matrix = np.concatenate([linear, move[:, None]], axis=1)
    result = cv2.warpAffine(sprite, matrix, (right - left, bottom - top), flags=cv2.INTER_LINEAR)
    for channel, plane in enumerate(light):
        part = plane[top:bottom, left:right]
        cv2.scaleAdd(result, float(tone[channel]), part, part)


def _axes() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    line = (np.arange(_SPRITE, dtype=np.float64) - (_SPRITE - 1) / 2) / (_SPRITE / 2)
    return line[None, :], line[:, None]


@cached
def _core(facets: int) -> NDArray[np.float32]:
    """A lamp: bright in the middle, falling like the square of the distance; with spikes where the opening has
    corners. It ends at its sprite's edge."""
    x, y = _axes()
    away = np.hypot(x, y)
    result = 1 / (1 + (away / 0.09) ** 2)
    if facets:
        angle = np.arctan2(y, x)
        spikes = np.abs(np.cos(angle * facets / 2)) ** 60
        result = result * 0.75 + 0.5 * spikes / (1 + (away / 0.2) ** 2)
    return (result * np.clip(1.0 - away, 0, 1) ** 1.5).astype(np.float32)


@cached
def _opening(facets: int, hollow: bool) -> NDArray[np.float32]:
    """The lens's opening: a disc or a polygon with smooth edges, brighter at its edge."""
    x, y = _axes()
    away = np.hypot(x, y)
    if facets >= 3:
        step = 2 * np.pi / facets
        angle = (np.arctan2(y, x) % step) - step / 2
        away = away * np.cos(angle) / np.cos(step / 2)
    edge = 0.86
    inside = np.clip((edge - away) / 0.02, 0, 1)
    rim = np.exp(-(((away - edge + 0.03) / 0.035) ** 2))
    return (rim * 0.9 if hollow else inside * (0.35 + 0.5 * (away / edge) ** 3)).astype(np.float32)


@cached
def _bar() -> NDArray[np.float32]:
    """A streak: even across as a Gaussian, falling to both ends."""
    x, y = _axes()
    return (np.exp(-((y / 0.4) ** 2)) * np.clip(1 - np.abs(x), 0, 1) ** 2.2).astype(np.float32)
