"""A logo: a picture that keeps clear space about it, pulses without ever being cut, and is sharp at any size."""

from __future__ import annotations

from contextlib import suppress
from typing import Any, ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import flag, number, picture, text
from velvetdrum.declare.vocabulary import percent, position_x, position_y
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.image_placement import box_about, lay, lay_scaled, missing
from velvetdrum.picture.bases.layer import LayerPart, LayerPath, RenderContext
from velvetdrum.picture.bases.recoloured import Recoloured, Recolouring, recoloured
from velvetdrum.picture.media.pictures import SVG, PictureError, scaled, size_of
from velvetdrum.picture.media.svg.drawn import svg_outlines, svg_parts, svg_stroke
from velvetdrum.picture.outlines.paths import PathError
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.scene.designs import Design, Sizing
from velvetdrum.scene.kinds import layer_kind

_LOOKED_AT = 256
"""The longer side at which parts are looked at for their colours, in pixels."""
_ONE_COLOUR = 3
"""How far solid pixels of one colour may differ, of 255."""


@layer_kind("logo", "Logo")
class Logo(Recoloured):
    """A logo of yours, best as SVG: with clear space, a pulse and one-colour versions."""

    designs: ClassVar[tuple[Design, ...]] = (
        Design("shape", "Logo", {}, ("shape", {"form": "path", "size": 46.0, "plain": "#f4eadb"})),
    )
    outlined: ClassVar[str] = "shape"
    parted: ClassVar[str] = "part"
    sizings: ClassVar[tuple[Sizing, ...]] = (Sizing(both=("size",)),)
    drops: ClassVar[dict[str, str]] = {"svg": "image"}

    first = ("image",)

    image: str = picture(label="Logo", help="The picture that is shown; an SVG stays sharp at any size.")
    part: str = text(
        "",
        most=120,
        label="Part",
        help="The id of a group or a shape of the SVG that alone is shown, where it stands; empty for all of it.",
        advanced=True,
    )
    x: float = position_x(50, of="the middle of the logo")
    y: float = position_y(50, of="the middle of the logo")
    size: float = number(
        30, lo=0.5, hi=200, unit="%", help="Longer side of the logo, as a share of the frame's short side."
    )
    clear: float = percent(
        10,
        label="Clear space",
        help="What must stay empty about it, of its longer side. It keeps that far from the edges of the frame.",
    )
    inside: bool = flag(
        True,
        label="Stay inside",
        help="Moves it as far as needed for it and its clear space to lie in the frame, and never lets it grow beyond.",
    )
    pulse: float = percent(0, step=1, group="motion", help="How far it is in its pulse: tie this to a signal.")
    pulse_by: float = number(
        12,
        lo=-50,
        hi=100,
        unit="%",
        step=0.5,
        label="Pulse by",
        group="motion",
        help="How much larger it is at the height of its pulse.",
    )

    @property
    def still(self) -> bool:
        return True

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return self.extent(view, at).grown(2.0)

    def extent(self, canvas: Viewport, at: RenderContext) -> Box:
        try:
            own = size_of(at.media.get(self.image, ""))
        except (PictureError, OSError):
            own = (1.0, 1.0)
        return self._box(canvas, *own)

    def _box(self, canvas: Viewport, own_width: float, own_height: float) -> Box:
        """Where it lies, in pixels."""
        longer = self.size * canvas.short / 100
        rest = np.array([own_width, own_height]) * longer / max(own_width, own_height)
        clear = self.clear / 100 * longer
        frame = np.array([canvas.width, canvas.height], float)
        grown = rest * (1 + self.pulse / 100 * self.pulse_by / 100)
        middle = np.array([canvas.x(self.x), canvas.y(self.y)])
        if self.inside:
            # What is needed at the height of the pulse is kept free always, so that the pulse does not push it about.
            most = rest * max(1 + self.pulse_by / 100, 1.0)
            fits = min(1.0, float(((frame - 2 * clear) / most).min())) if (frame > 2 * clear).all() else 1.0
            grown, most = grown * max(fits, 0.05), most * max(fits, 0.05)
            room = np.maximum(frame - most - 2 * clear, 0) / 2
            middle = np.clip(middle, frame / 2 - room, frame / 2 + room)
        return box_about(float(middle[0]), float(middle[1]), float(grown[0]), float(grown[1]))

    def outlines(self, view: Viewport, at: RenderContext) -> LayerPath | None:
        file = at.media.get(self.image, "")
        if not self.image:
            return None
        if not file.endswith(SVG):
            raise PathError("Only an SVG has outlines; this logo is a picture of pixels.")
        return _outline(file, self.part, self.extent(view, at))

    def picture_parts(self, view: Viewport, at: RenderContext) -> tuple[LayerPart, ...]:
        file = at.media.get(self.image, "")
        if not file.endswith(SVG):
            raise PathError("Only an SVG has parts; this logo is a picture of pixels, or none yet.")
        named = svg_parts(file)
        if len(named) < 2:
            raise PathError(
                "This SVG has no parts with ids. Give its groups ids in the program that it was drawn in, and bring it "
                "in again."
            )
        box = self.extent(view, at)
        return tuple(self._part(file, part, name, box) for part, name in named)

    def _part(self, file: str, part: str, name: str, box: Box) -> LayerPart:
        """A part in one colour takes that as its own, so that it goes with the colours of the project."""
        width, height = box.right - box.left, box.bottom - box.top
        longer = max(width, height)
        across, down = (max(round(side * _LOOKED_AT / longer), 1) for side in (width, height))
        pixels = recoloured(scaled(file, across, down, part=part), self.recolouring)
        solid = pixels[pixels[..., 3] == 255][:, 2::-1]
        own: dict[str, Any] = {"part": part}
        colour = self.plain
        if len(solid):
            middle = np.median(solid, axis=0)
            colour = "#" + "".join(f"{int(value):02x}" for value in middle)
            if self.recolour == "none" and np.abs(solid - middle).max() <= _ONE_COLOUR:
                own |= {"recolour": "alpha", "plain": colour, "amount": 100.0}
        outline = None
        with suppress(PathError):
            outline = _outline(file, part, box)
        return LayerPart(name, own, colour, svg_stroke(file, part) * longer, outline)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        if not self.image:
            return
        path = at.media.get(self.image, "")
        box = self.extent(canvas, at)
        width, height = box.right - box.left, box.bottom - box.top
        try:
            # An SVG is drawn for the pixels that it gets; a picture is scaled from a size that a pulse does not change.
            whole = (max(int(np.ceil(width)), 1), max(int(np.ceil(height)), 1))
            if not path.endswith(SVG) and self.pulse:
                rest = 1 + max(self.pulse_by, 0) / 100
                longer = self.size * canvas.short / 100 * rest
                scale = longer / max(width, height)
                whole = (max(round(width * scale), 1), max(round(height * scale), 1))
            result, x, y = _coloured(path, *whole, self.recolouring, self.part)
        except (PictureError, OSError):
            missing(canvas, box)
            return
        if not result.size:
            return
        if (width, height) == whole:
            lay(canvas, result, box.left + x, box.top + y)
            return
        across, down = width / whole[0], height / whole[1]
        left, top = box.left + x * across, box.top + y * down
        within = Box(left, top, left + result.shape[1] * across, top + result.shape[0] * down)
        lay_scaled(canvas, result, within, np.array([[across, 0.0, left], [0.0, down, top]]))


def _outline(file: str, part: str, box: Box) -> LayerPath:
    """The outlines of a file, or of a part of it, whose whole lies in a box. Raises PathError with a sentence."""
    data, (left_end, top_end, right_end, _) = svg_outlines(file, part)
    scale = (box.right - box.left) / max(right_end - left_end, 1e-9)
    return LayerPath.placed(data, scale, box.left - left_end * scale, box.top - top_end * scale)


@cached
def _coloured(path: str, width: int, height: int, recolouring: Recolouring, part: str) -> tuple[Pixels, int, int]:
    """The logo at a size, or what a part of it paints, with where that begins in all of it."""
    pixels = recoloured(scaled(path, width, height, part=part), recolouring)
    if not part:
        return pixels, 0, 0
    x, y, across, down = cv2.boundingRect(np.ascontiguousarray(pixels[..., 3]))
    # With a clear edge, so that none of it is cut hard.
    x, y, right, bottom = max(x - 2, 0), max(y - 2, 0), min(x + across + 2, width), min(y + down + 2, height)
    return (np.ascontiguousarray(pixels[y:bottom, x:right]), x, y) if across else (pixels[:0, :0], 0, 0)
