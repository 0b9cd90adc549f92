"""Mirror: one side of a line stands for both."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number, whole
from velvetdrum.picture.bend import Bend
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.bending import Maps, as_maps, grid
from velvetdrum.picture.raster.compositing import Source
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind


@effect_kind("mirror", "Mirror")
class Mirror(Bend):
    """Shows one side of a line on both sides; several lines cross at one point."""

    summary: ClassVar[str] = "Mirror|{angle}|{lines} lines"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    turns: ClassVar[str] = "angle"
    designs: ClassVar[tuple[Design, ...]] = (
        Design("bend", "Mirror, left and right", {}),
        Design("bend", "Mirror, four ways", {"lines": 2}),
    )

    x: float = number(50, lo=-100, hi=200, unit="%", label="Position X", group="effect", help="A point of the line.")
    y: float = number(50, lo=-100, hi=200, unit="%", label="Position Y", group="effect", help="A point of the line.")
    angle: float = number(
        90,
        lo=-3600,
        hi=3600,
        unit="°",
        step=1,
        group="effect",
        help="Where the line points; what is on its right is kept.",
    )
    lines: int = whole(1, lo=1, hi=12, group="effect", help="Lines through the point, at even angles.")

    def places(self, view: Viewport, area: Area, source: Source) -> Maps:
        x, y = grid(area)
        x0, y0 = np.float32(view.x(self.x)), np.float32(view.y(self.y))
        dx, dy = np.broadcast_arrays(x - x0, y - y0)
        dx, dy = dx.copy(), dy.copy()
        # Each line folds what is still on its wrong side; as many rounds as lines bring every pixel into one wedge.
        for number_ in range(self.lines):
            for line in range(self.lines if self.lines > 1 else 1):
                angle = np.deg2rad(self.angle + 180.0 * line / self.lines)
                nx, ny = np.float32(-np.sin(angle)), np.float32(np.cos(angle))
                if line % 2:
                    nx, ny = -nx, -ny
                away = np.minimum(dx * nx + dy * ny, 0)
                dx -= 2 * away * nx
                dy -= 2 * away * ny
            if self.lines == 1 or number_ > 1:
                break
        return as_maps(x0 + dx, y0 + dy, area)
