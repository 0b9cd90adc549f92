"""A mask of a shape: rectangle, ellipse, ring, polygon or path, with a feathered edge."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
import skia

from velvetdrum.declare.settings import choice, flag, number, path_data, whole
from velvetdrum.declare.vocabulary import degrees, percent, position_x, position_y
from velvetdrum.picture.bases.mask import DrawnMask, MaskTarget
from velvetdrum.picture.figures.base_shape import base_outline, path_problem
from velvetdrum.picture.outlines.outline import Outline
from velvetdrum.picture.outlines.paths import LONGEST_PATH
from velvetdrum.picture.raster.areas import Area, Coverage
from velvetdrum.picture.raster.canvas import softened
from velvetdrum.picture.raster.paths import polygons
from velvetdrum.picture.raster.viewport import Box
from velvetdrum.scene.masks import mask_kind

_SIDED = ("rectangle", "ellipse", "ring")
ARCH = "M10 100V50a40 40 0 0 1 80 0v50z"


@mask_kind("shape", "Shape")
class ShapeMask(DrawnMask):
    """A part of the frame that lets the layer through."""

    summary: ClassVar[str] = "{form}|{join}|{invert}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    radii: ClassVar[tuple[str, ...]] = ("radius",)
    sizes: ClassVar[tuple[str, ...]] = ("width", "height")
    turns: ClassVar[str] = "turn"
    corners: ClassVar[str] = "path"
    follows: ClassVar[str] = "follow"

    form: str = choice(
        "ellipse",
        {"rectangle": "Rectangle", "ellipse": "Ellipse", "ring": "Ring", "polygon": "Polygon", "path": "Path"},
        label="Shape",
        group="mask",
        help="Shape that is drawn.",
    )
    x: float = position_x(50, of="the middle", group="mask")
    y: float = position_y(50, of="the middle", group="mask")
    width: float = number(
        60,
        lo=0,
        hi=400,
        unit="%",
        group="mask",
        when=("form", _SIDED),
        help="Width, as a share of the frame's short side.",
    )
    height: float = number(
        60,
        lo=0,
        hi=400,
        unit="%",
        group="mask",
        when=("form", _SIDED),
        help="Height, as a share of the frame's short side.",
    )
    corner: float = percent(
        0,
        label="Corner radius",
        group="mask",
        when=("form", ("rectangle",)),
        help="Corner radius, as a share of the frame's short side.",
    )
    hole: float = percent(
        50, group="mask", when=("form", ("ring",)), help="Inner radius of the ring, of its outer.", label="Inner radius"
    )
    radius: float = number(
        30,
        lo=0,
        hi=200,
        unit="%",
        group="mask",
        when=("form", ("polygon",)),
        help="From the middle to the corners, of the frame's short side.",
    )
    sides: int = whole(6, lo=3, hi=24, group="mask", when=("form", ("polygon",)), help="Sides of the polygon.")
    path: str = path_data(ARCH, most=LONGEST_PATH, group="mask", when=("form", ("path",)))
    size: float = number(
        60,
        lo=0.5,
        hi=400,
        unit="%",
        group="mask",
        when=("form", ("path",)),
        help="Longer side of the path, of the frame's short side.",
    )
    turn: float = degrees(
        0, lo=-720, hi=720, group="mask", help="Turns it about its middle, clockwise.", label="Rotation"
    )
    feather: float = number(
        0, lo=0, hi=60, unit="%", group="mask", help="Width over which its edge fades, of the frame's short side."
    )
    follow: bool = flag(
        True,
        label="Follow the layer",
        group="mask",
        advanced=True,
        help="Moves, turns and scales with the layer, or stays where it is in the frame.",
    )

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        return super().check(values) + (path_problem(values["path"]) if values["form"] == "path" else [])

    def bounds(self, target: MaskTarget) -> Box | None:
        if self.invert:
            return None
        canvas, short = target.canvas, target.canvas.short / 100
        if self.form in _SIDED:
            half = np.array([self.width, self.height]) * short / 2
        else:
            half = np.full(2, (self.radius if self.form == "polygon" else self.size) * short)
        angle = np.deg2rad(self.turn)
        spin = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        corners = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * half @ spin.T + (canvas.x(self.x), canvas.y(self.y))
        if target.matrix is not None and self.follow:
            corners = np.column_stack([corners, np.ones(4)]) @ target.matrix[:2].T
        margin = self.feather * short / 2
        low, high = corners.min(axis=0) - margin, corners.max(axis=0) + margin
        return Box(float(low[0]), float(low[1]), float(high[0]), float(high[1]))

    def cover(self, target: MaskTarget, area: Area) -> Coverage:
        canvas = target.canvas
        left, top, right, bottom = area
        feather = self.feather * canvas.short / 100
        # A feathered edge reaches into the area from beyond it.
        margin = int(np.ceil(feather * 1.5)) + 1
        cover = np.zeros((bottom - top + 2 * margin, right - left + 2 * margin), np.uint8)
        info = skia.ImageInfo.MakeA8(cover.shape[1], cover.shape[0])
        with skia.Surface.MakeRasterDirect(info, cover, cover.shape[1]) as drawn:
            drawn.translate(margin - left, margin - top)
            if target.matrix is not None and self.follow:
                drawn.concat(skia.Matrix(target.matrix.astype(np.float32)))
            drawn.translate(canvas.x(self.x), canvas.y(self.y))
            drawn.rotate(self.turn)
            self._fill(drawn, canvas.short / 100)
        if feather > 0:
            cover = softened(cover, feather)
        return np.ascontiguousarray(cover[margin:-margin, margin:-margin])

    def _fill(self, drawn: skia.Canvas, short: float) -> None:
        """The shape about the origin."""
        brush = skia.Paint(AntiAlias=True, Color=0xFFFFFFFF)
        half_x, half_y = self.width * short / 2, self.height * short / 2
        box = skia.Rect(-half_x, -half_y, half_x, half_y)
        match self.form:
            case "rectangle":
                corner = min(self.corner * short, half_x, half_y)
                drawn.drawRRect(skia.RRect.MakeRectXY(box, corner, corner), brush)
            case "ellipse":
                drawn.drawOval(box, brush)
            case "ring":
                hole = self.hole / 100
                inner = skia.Rect(-half_x * hole, -half_y * hole, half_x * hole, half_y * hole)
                drawn.drawDRRect(skia.RRect.MakeOval(box), skia.RRect.MakeOval(inner), brush)
            case "polygon":
                drawn.drawPath(_path(base_outline("polygon", (max(self.radius * short, 1e-3), self.sides))), brush)
            case _:
                drawn.drawPath(_path(base_outline("path", (self.path, self.size * short))), brush)


def _path(outline: Outline) -> skia.Path:
    return polygons([(piece.points, True) for piece in outline.pieces], holes=True)
