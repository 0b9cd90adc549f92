"""The base of all figures: a base shape, paint, and copies of the whole in one layer."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from copy import copy
from typing import Any, ClassVar, TypeVar

from velvetdrum.declare.settings import flag, number, whole
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.picture.bases.layer import RenderContext
from velvetdrum.picture.figures.base_shape import Ground, OnShape
from velvetdrum.picture.figures.paint.fields import Reach
from velvetdrum.picture.figures.paint.paint import Ink, Painted
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport

Shared = TypeVar("Shared")
_BESIDE = {"softness": 1.5, "line": 2.0, "dot": 1.0, "cap_size": 4.0, "label_size": 4.0, "least": 1.0}
"""Settings whose marks may lie beside the reach of a figure, in per cent of the short side, and how far at the most."""

_COPIED = ("copies", ((">", 1),))


class Figure(Painted, OnShape):
    """A figure on a base shape. Subclasses draw one; this draws its copies."""

    sizes: ClassVar[tuple[str, ...]] = ("width", "radius", "box_width", "box_height", "box_corner", "size", "reach")
    """Settings that a copy's size scales."""
    both_sides: ClassVar[bool] = False
    """True when marks may stand on the other side of the base shape than the one that they grow to."""
    thicknesses: ClassVar[tuple[str, ...]] = ()
    """Settings that a copy's thickness scales, beside its size."""

    reach: float = number(
        26, lo=0.2, hi=200, unit="%", label="Height", help="Reach of a full level, of the frame's short side."
    )
    softness: float = number(
        0,
        lo=0,
        hi=10,
        unit="%",
        label="Edge softness",
        advanced=True,
        help="Width over which edges fade, of the frame's short side.",
    )
    copies: int = whole(1, lo=1, hi=24, help="Draws the figure this many times, each a step further.", advanced=True)
    copy_size: float = number(
        84,
        lo=10,
        hi=200,
        unit="%",
        label="Size step",
        advanced=True,
        when=_COPIED,
        help="Size of each copy, of the one before.",
    )
    copy_turn: float = degrees(
        0, label="Rotation step", advanced=True, when=_COPIED, help="Turn of each copy against the one before."
    )
    copy_x: float = number(
        0,
        lo=-100,
        hi=100,
        unit="%",
        label="X step",
        advanced=True,
        when=_COPIED,
        help="How far right of the one before, of the frame's width.",
    )
    copy_y: float = number(
        0,
        lo=-100,
        hi=100,
        unit="%",
        label="Y step",
        advanced=True,
        when=_COPIED,
        help="How far below the one before, of the frame's height.",
    )
    copy_thickness: float = number(
        100,
        lo=10,
        hi=200,
        unit="%",
        label="Thickness step",
        advanced=True,
        when=_COPIED,
        help="Thickness of each copy, of the one before.",
    )
    copy_opacity: float = percent(
        80, step=1, label="Opacity step", advanced=True, when=_COPIED, help="Opacity of each copy, of the one before."
    )
    copy_hue: float = degrees(
        0, label="Hue step", advanced=True, when=_COPIED, help="Hue of each copy against the one before."
    )

    _hue_now = 0.0
    _shared: dict[Hashable, Any] | None = None
    """What the copies of one drawing have in common."""

    def shared(self, name: Hashable, make: Callable[[], Shared]) -> Shared:
        """What is worked out once for all copies of a drawing that ask for it under one name."""
        if self._shared is None:
            return make()
        if name not in self._shared:
            self._shared[name] = make()
        return self._shared[name]

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        for part in self.parts():
            part.draw_one(canvas, at)

    def parts(self) -> list[Figure]:
        """The figure's copies, the furthest back first."""
        whole = copy(self)
        whole._shared = {}
        return [whole.stepped(index) for index in range(self.copies - 1, 0, -1)] + [whole]

    def draw_one(self, canvas: Canvas, at: RenderContext) -> None:
        """Draw a single copy."""
        raise NotImplementedError

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        """The base shapes of all copies with what grows on them, and room for lines, caps, names and soft edges."""
        boxes = []
        for part in self.parts():
            beyond = part.reach if part.both_sides else 0.0
            room = beyond + sum(getattr(part, name, 0.0) * times for name, times in _BESIDE.items())
            boxes.append(part.extent(view, at).grown(room * view.short / 100 + 4))
        return Box(
            min(box.left for box in boxes),
            min(box.top for box in boxes),
            max(box.right for box in boxes),
            max(box.bottom for box in boxes),
        )

    def stepped(self, number: int) -> Figure:
        """The figure as its copy `number` is, 0 being itself."""
        out = copy(self)
        scale = (self.copy_size / 100) ** number
        for name in self.sizes:
            setattr(out, name, getattr(self, name) * scale)
        thick = scale * (self.copy_thickness / 100) ** number
        for name in self.thicknesses:
            setattr(out, name, getattr(self, name) * thick)
        out.turn = self.turn + self.copy_turn * number
        out.x, out.y = self.x + self.copy_x * number, self.y + self.copy_y * number
        out.opacity = self.opacity * (self.copy_opacity / 100) ** number
        out._hue_now = self._hue_now + self.copy_hue * number / 360.0
        return out

    def ink_at(self, canvas: Viewport, at: RenderContext) -> Ink:
        """The figure's colours at a moment."""
        return self.ink(canvas, float(at.time), self._hue_now)

    def reach_on(self, canvas: Viewport, ground: Ground) -> Reach:
        """The figure's reach from its base shape in pixels."""
        full = canvas.short * self.reach / 100
        up, down = ground.reaches
        return Reach(ground, full * up, full * down)


class Spectral(Figure):
    """A figure of frequency bands: its copies can step through the bands, too."""

    copy_octaves: float = number(
        0,
        lo=-4,
        hi=4,
        unit="octaves",
        label="Band step",
        advanced=True,
        when=_COPIED,
        help="How far the bands of each copy lie above those of the one before.",
    )
    copy_split: bool = flag(
        False,
        label="Share the range",
        advanced=True,
        when=_COPIED,
        help="Gives each copy its own part of the range, the first one the lowest.",
    )
    low_hz: float = number(
        40,
        lo=15,
        hi=20_000,
        unit="Hz",
        step=1,
        label="Lowest frequency",
        group="sound",
        curve="log",
        help="Where the first band begins.",
    )
    high_hz: float = number(
        14_000,
        lo=30,
        hi=22_000,
        unit="Hz",
        step=10,
        label="Highest frequency",
        group="sound",
        curve="log",
        help="Where the last band ends.",
    )

    def stepped(self, number: int) -> Figure:
        out = super().stepped(number)
        assert isinstance(out, Spectral)
        octaves = 2.0 ** (self.copy_octaves * number)
        out.low_hz, out.high_hz = min(self.low_hz * octaves, 19_000), min(self.high_hz * octaves, 22_000)
        return out._slice(number)

    def _slice(self, number: int) -> Spectral:
        if self.copy_split and self.copies > 1:
            ratio = max(self.high_hz / self.low_hz, 1.05) ** (1 / self.copies)
            self.low_hz, self.high_hz = self.low_hz * ratio**number, self.low_hz * ratio ** (number + 1)
        return self

    def parts(self) -> list[Figure]:
        if not self.copy_split or self.copies < 2:
            return super().parts()
        return [self.stepped(index) for index in range(self.copies - 1, -1, -1)]
