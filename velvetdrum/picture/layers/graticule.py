"""The graticule: the ruled lines behind a scope or a phase figure."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
import skia

from velvetdrum.declare.settings import choice, colour, flag, number
from velvetdrum.declare.vocabulary import degrees, percent, position_x, position_y
from velvetdrum.picture.bases.image_placement import box_about
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import layer_kind


@layer_kind("graticule", "Graticule")
class Graticule(DrawnLayer):
    """Ruled lines to stand behind a scope or a phase figure."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("ground", "Graticule", {}),
        Design("ground", "Round graticule", {"mask": "round"}),
    )
    depth: ClassVar[int] = 1

    first = ("mask",)

    mask: str = choice(
        "square", {"square": "Square", "round": "Round"}, label="Form", help="The form of the ruled field."
    )
    x: float = position_x(50, of="the middle")
    y: float = position_y(50, of="the middle")
    width: float = number(
        76, lo=1, hi=200, unit="%", help="Width, as a share of the frame's width.", when=("mask", ("square",))
    )
    height: float = number(
        52, lo=1, hi=200, unit="%", help="Height, as a share of the frame's height.", when=("mask", ("square",))
    )
    radius: float = number(
        40, lo=1, hi=120, unit="%", help="Radius, as a share of the frame's short side.", when=("mask", ("round",))
    )
    turn: float = degrees(0, help="Turns the lines about their middle, clockwise.", label="Rotation")
    spacing: float = number(8, lo=0.5, hi=50, unit="%", help="Between two lines, of the frame's short side.")
    line: float = number(
        0.16, lo=0.03, hi=3, unit="%", label="Line width", help="Line width, as a share of the frame's short side."
    )
    axes: bool = flag(True, help="Draws the two middle lines stronger.")
    rim: bool = flag(True, help="Draws the edge of the field.")
    plain: str = colour("#bda9b4", label="Colour", help="Colour of the lines.")
    opacity: float = percent(22, step=1, group="colour", help="How solid the lines are.")

    @property
    def still(self) -> bool:
        return True

    def _half(self, canvas: Viewport) -> tuple[float, float]:
        """Half of its width and of its height, in pixels."""
        if self.mask == "round":
            return self.radius * canvas.short / 100, self.radius * canvas.short / 100
        return canvas.width * self.width / 200, canvas.height * self.height / 200

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        """Its field however it is turned, with the line round it."""
        reach = 2 * float(np.hypot(*self._half(view))) + self.line * view.short / 100 * 3 + 4
        return box_about(view.x(self.x), view.y(self.y), reach, reach)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        half_x, half_y = self._half(canvas)
        return box_about(canvas.x(self.x), canvas.y(self.y), 2 * half_x, 2 * half_y)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        short = canvas.short / 100
        half_x, half_y = self._half(canvas)
        step, reach = self.spacing * short, float(np.hypot(half_x, half_y))
        surface = canvas.surface()
        layer = skia.Rect(-half_x, -half_y, half_x, half_y)
        edge = skia.RRect.MakeOval(layer) if self.mask == "round" else skia.RRect.MakeRect(layer)
        surface.save()
        surface.translate(canvas.x(self.x), canvas.y(self.y))
        surface.rotate(self.turn)
        surface.save()
        surface.clipRRect(edge, True)
        most = min(int(reach / step), 400)
        for number_ in range(-most, most + 1):
            strong = number_ == 0 and self.axes
            brush = self._brush(short, 2.0 if strong else 1.0)
            at_px = number_ * step
            surface.drawLine(at_px, -reach, at_px, reach, brush)
            surface.drawLine(-reach, at_px, reach, at_px, brush)
        surface.restore()
        if self.rim:
            surface.drawRRect(edge, self._brush(short, 1.5))
        surface.restore()

    def _brush(self, short: float, factor: float) -> skia.Paint:
        alpha = round(255 * min(self.opacity / 100 * factor, 1.0))
        return skia.Paint(
            AntiAlias=True,
            Style=skia.Paint.kStroke_Style,
            StrokeWidth=self.line * short * (1.25 if factor > 1 else 1.0),
            Color=alpha << 24 | int(self.plain[1:], 16),
        )
