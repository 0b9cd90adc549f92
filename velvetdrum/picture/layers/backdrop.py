"""The backdrop: a colour or a gradient over the whole frame."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import opacity_ramp, ramp
from velvetdrum.declare.settings import Stop, choice, colour, number, stops
from velvetdrum.limits.cache import SHARED_CACHE, cached
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.figures.paint.paint import mixing, transition
from velvetdrum.picture.raster.areas import Area, Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.colour import (
    corner_colours,
    dithered,
    fill_along_line,
    fill_around_point,
    looked_up,
    packed_image,
    packed_ramp,
)
from velvetdrum.picture.raster.viewport import Viewport, common
from velvetdrum.scene.designs import Design, GradientPlace
from velvetdrum.scene.kinds import layer_kind

_GRADIENT = ("fill", ("linear", "radial", "angular"))
_CORNERS = ("fill", ("corners",))
_TABLE = 4096


@layer_kind("backdrop", "Backdrop")
class Backdrop(DrawnLayer):
    """A colour or a gradient behind everything, over the whole frame."""

    designs: ClassVar[tuple[Design, ...]] = (Design("ground", "Backdrop", {}),)
    depth: ClassVar[int] = 0
    gradient_place: ClassVar[GradientPlace | None] = GradientPlace((("start_x", "start_y"), ("end_x", "end_y")))

    fill: str = choice(
        "radial",
        {
            "plain": "One colour",
            "linear": "Linear",
            "radial": "Radial",
            "angular": "Conic",
            "corners": "Four corners",
        },
        group="colour",
        help="One colour, a gradient along a line, from a centre outward, round a centre, or between four corners.",
    )
    plain: str = colour("#141a2e", label="Colour", help="The colour of the whole frame.", when=("fill", ("plain",)))
    colours: tuple[Stop, ...] = stops(
        [(0.0, "#2b3a5e"), (0.55, "#182240"), (1.0, "#0c1022")],
        label="Gradient",
        help="Colours from the start of the gradient to its end.",
        clear=True,
        when=_GRADIENT,
    )
    steps: str = transition(when=_GRADIENT)
    mix: str = mixing()
    start_x: float = number(
        50, lo=-50, hi=150, unit="%", help="Start of the line, or centre: across the frame.", when=_GRADIENT
    )
    start_y: float = number(
        46, lo=-50, hi=150, unit="%", help="Start of the line, or centre: down the frame.", when=_GRADIENT
    )
    end_x: float = number(
        108, lo=-50, hi=150, unit="%", help="End of the line, or rim: across the frame.", when=_GRADIENT
    )
    end_y: float = number(
        100, lo=-50, hi=150, unit="%", help="End of the line, or rim: down the frame.", when=_GRADIENT
    )

    corner_1: str = colour("#3a2348", label="Top left", help="Colour of that corner.", when=_CORNERS)
    corner_2: str = colour("#2b3a5e", label="Top right", help="Colour of that corner.", when=_CORNERS)
    corner_3: str = colour("#0c1022", label="Bottom right", help="Colour of that corner.", when=_CORNERS)
    corner_4: str = colour("#1b1119", label="Bottom left", help="Colour of that corner.", when=_CORNERS)

    @property
    def still(self) -> bool:
        return True

    def fills(self, view: Viewport, at: RenderContext) -> bool:
        return self.fill in ("plain", "corners") or all(len(value) == 7 for _, value in self.colours)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        if self.fill == "plain":
            canvas.fill(self.plain)
            return
        if self.fill == "corners":
            colours = (self.corner_1, self.corner_2, self.corner_3, self.corner_4)
            canvas.paste(_four_corners(canvas.width, canvas.height, colours, self.mix))
            return
        table = _table(self.colours, self.mix, self.steps == "steps")
        start = canvas.x(self.start_x), canvas.y(self.start_y)
        end = canvas.x(self.end_x), canvas.y(self.end_y)
        if self.fill == "angular":
            canvas.paste(looked_up(table, _turns(canvas.width, canvas.height, start, end)))
            return
        given = canvas.frame, self.fill, start, end, self.colours, self.mix, self.steps == "steps"
        if SHARED_CACHE.recurs(("backdrop", given)):
            # It rests: copied from what is kept.
            canvas.paste(_kept(*given))
            return
        here = common(canvas.area, canvas.frame)
        _fill(canvas.part(here), here, self.fill, start, end, table)
        canvas.touch(here)


def _fill(
    pixels: Pixels,
    area: Area,
    fill: str,
    start: tuple[float, float],
    end: tuple[float, float],
    table: NDArray[np.uint64],
) -> None:
    if fill == "linear":
        fill_along_line(pixels, area[:2], table, start, end)
    else:
        reach = max(float(np.hypot(end[0] - start[0], end[1] - start[1])), 1e-3)
        fill_around_point(pixels, area[:2], table, start, reach)


@cached
def _kept(
    frame: Area,
    fill: str,
    start: tuple[float, float],
    end: tuple[float, float],
    colours: tuple[Stop, ...],
    mix: str,
    steps: bool,
) -> Pixels:
    """The gradient of a whole frame."""
    pixels = np.empty((frame[3], frame[2], 4), np.uint8)
    _fill(pixels, frame, fill, start, end, _table(colours, mix, steps))
    return pixels


@cached
def _table(colours: tuple[Stop, ...], mix: str, steps: bool) -> NDArray[np.uint64]:
    return packed_ramp(ramp(colours, _TABLE, mix, steps), opacity_ramp(colours, _TABLE, steps))


@cached
def _four_corners(width: int, height: int, colours: tuple[str, str, str, str], mix: str) -> Pixels:
    """Colours between those of the frame's corners, bilinear, dithered."""
    return dithered(packed_image(corner_colours(width, height, (0, 0, width, height), colours, mix)))


@cached
def _turns(width: int, height: int, start: tuple[float, float], end: tuple[float, float]) -> NDArray[np.int32]:
    """Where each pixel's centre lies on a conic gradient, 0 to _TABLE - 1: clockwise from the direction in which the
    line leads. Kept apart from the colours, because those are moved more often."""
    x = (np.arange(width, dtype=np.float32) + 0.5)[None, :]
    y = (np.arange(height, dtype=np.float32) + 0.5)[:, None]
    turn = (np.arctan2(x - start[0], start[1] - y) - np.arctan2(end[0] - start[0], start[1] - end[1])) / np.float32(
        2 * np.pi
    )
    return np.rint((turn - np.floor(turn)) * np.float32(_TABLE - 1)).astype(np.int32)
