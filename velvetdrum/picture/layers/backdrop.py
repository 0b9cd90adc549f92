"""The backdrop: a colour or a gradient over the whole frame."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import ramp
from velvetdrum.declare.settings import Stop, choice, colour, number, stops
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.figures.paint.paint import mixing, transition
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.colour import corner_colours, dithered, looked_up, packed_image, packed_ramp
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import layer_kind

_GRADIENT = ("fill", ("linear", "radial", "angular"))
_CORNERS = ("fill", ("corners",))
_TABLE = 4096


@layer_kind("backdrop", "Backdrop")
class Backdrop(DrawnLayer):
    """A colour or a gradient behind everything, over the whole frame."""

    designs: ClassVar[tuple[Design, ...]] = (Design("ground", "Backdrop", {}),)
    depth: ClassVar[int] = 0

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
        return True

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        if self.fill == "plain":
            canvas.fill(self.plain)
            return
        if self.fill == "corners":
            colours = (self.corner_1, self.corner_2, self.corner_3, self.corner_4)
            canvas.paste(_four_corners(canvas.width, canvas.height, colours, self.mix))
            return
        ends = (self.start_x, self.start_y, self.end_x, self.end_y)
        canvas.paste(
            _gradient(canvas.width, canvas.height, self.fill, ends, self.colours, self.mix, self.steps == "steps")
        )


@cached
def _gradient(
    width: int,
    height: int,
    fill: str,
    ends: tuple[float, float, float, float],
    colours: tuple[Stop, ...],
    mix: str,
    steps: bool,
) -> Pixels:
    """The gradient of a whole frame. Places are per cent of the frame; the pixel's centre counts."""
    table = packed_ramp(ramp(colours, _TABLE, mix, steps))
    return looked_up(table, _places(width, height, fill, ends))


@cached
def _four_corners(width: int, height: int, colours: tuple[str, str, str, str], mix: str) -> Pixels:
    """Colours between those of the frame's corners, bilinear, dithered."""
    return dithered(packed_image(corner_colours(width, height, (0, 0, width, height), colours, mix)))


@cached
def _places(width: int, height: int, fill: str, ends: tuple[float, float, float, float]) -> NDArray[np.int32]:
    """Where each pixel's centre lies on the gradient, 0 to _TABLE - 1. Kept apart from the colours, because
    those are moved more often."""
    x = (np.arange(width, dtype=np.float32) + 0.5)[None, :]
    y = (np.arange(height, dtype=np.float32) + 0.5)[:, None]
    x0, y0 = ends[0] * width / 100, ends[1] * height / 100
    dx, dy = ends[2] * width / 100 - x0, ends[3] * height / 100 - y0
    length = max(float(np.hypot(dx, dy)), 1e-3)
    if fill == "angular":
        # Clockwise from the direction in which the line leads.
        turn = (np.arctan2(x - x0, y0 - y) - np.arctan2(dx, -dy)) / np.float32(2 * np.pi)
        along = turn - np.floor(turn)
    elif fill == "linear":
        along = ((x - x0) * dx + (y - y0) * dy) / length**2
    else:
        along = np.sqrt((x - x0) ** 2 + (y - y0) ** 2) / length
    return np.rint(np.clip(along, 0.0, 1.0) * np.float32(_TABLE - 1)).astype(np.int32)
