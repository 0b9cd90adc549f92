"""The stages of a layer: drawn, transformed, through its effects, masked, faded and blended over what is behind it.

Each stage reads one layer image and gives one. What is drawn may reach beyond the frame, as far as a later stage looks.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import KEPT
from velvetdrum.picture.raster.areas import Area, Mask, Pixels
from velvetdrum.picture.raster.blending import replace as put_in_place
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Box, Viewport, common, grown, is_empty
from velvetdrum.scene.kinds import Layer

if TYPE_CHECKING:
    from velvetdrum.picture.drawn_layer import RenderContext

_LARGEST = 2.0
"""How much larger than the frame a layer is drawn that is scaled up."""


class Applied(Protocol):
    """An effect of a layer, ready to be applied."""

    def margin(self, view: Viewport) -> int:
        """How far beyond the pixels that are wanted it looks, in pixels."""
        ...

    def apply(self, image: LayerImage, source: Source) -> LayerImage:
        """The layer's picture after it. `source` leads to what else it may read."""
        ...


@dataclass(frozen=True)
class Part:
    """A layer at one time, as the stages need it."""

    layer: Layer
    draw: Callable[[Canvas], None]
    """Draws it where its kind puts it."""
    bounds: Callable[[Viewport], Box]
    """All that it draws, before it is moved."""
    presence: float
    """How much of it is there, 0 to 1."""
    effects: Sequence[Applied] = ()
    covers: Callable[[Area], Mask | None] | None = None
    """What its masks let through; None when it has none."""
    still: Hashable | None = None
    """Names the picture of a layer that looks the same at all times; None for others."""
    masks_still: bool = True
    at: Callable[[float], Part] | None = None
    """The same layer so many seconds earlier."""
    effects_at: Callable[[float], Sequence[Applied]] | None = None
    """The effects as they are so many seconds earlier."""
    other: Callable[[str, Area], Pixels] | None = None
    """Another layer by its id, alone, on nothing: the pixels of an area."""
    moment: RenderContext | None = None
    """The time that it is drawn at."""
    takes_behind: bool = False
    """True for a layer whose picture is what is behind it."""


@dataclass(frozen=True)
class Source:
    """What an effect may read beside the picture that it is given."""

    canvas: Canvas
    part: Part
    before: int
    """How many effects of the layer come before it."""
    wanted: Area
    """What later stages look at."""
    lent: ExitStack

    @property
    def view(self) -> Viewport:
        """The frame that it is seen in."""
        return self.canvas

    @property
    def behind(self) -> LayerImage:
        """What is behind the layer; not to be written to."""
        return LayerImage(*self.canvas.area[:2], self.canvas.pixels)

    @property
    def moment(self) -> RenderContext:
        """The time that is drawn, and what is known of it."""
        if self.part.moment is None:
            raise ValueError("this layer is drawn at no time")
        return self.part.moment

    @property
    def time_s(self) -> float:
        """The time that is drawn, in seconds of the project."""
        return float(self.moment.time)

    def other(self, ident: str, area: Area) -> Pixels:
        """Another layer by its id, alone, on nothing: the premultiplied pixels of an area."""
        if self.part.other is None:
            raise ValueError("this layer leads to no others")
        return self.part.other(ident, area)

    def effect_earlier(self, seconds: float) -> Applied:
        """This effect as it is so many seconds earlier."""
        if self.part.effects_at is None:
            raise ValueError("this layer can't be drawn at other times")
        return self.part.effects_at(seconds)[self.before]

    def earlier(self, seconds: float) -> LayerImage:
        """The layer's picture so many seconds earlier, as it is before this effect."""
        if self.part.at is None:
            raise ValueError("this layer can't be drawn at other times")
        other = self.part.at(seconds)
        return pictured(self.canvas, replace(other, effects=other.effects[: self.before], still=None), self.lent)


def composite(canvas: Canvas, part: Part) -> None:
    """Draw a layer over what is on a canvas, as its placing, effects, masks, presence and blend mode ask.

    The picture of a still layer is made once, and kept; with its masks, where those are still too.
    """
    if part.presence <= 0:
        return
    plain = part.layer.direct and part.presence >= 1 and part.covers is None and not part.effects
    if plain and part.still is None:
        part.draw(canvas)
        return
    with ExitStack() as lent:
        masked_here = part.covers
        if part.still is None:
            image = pictured(canvas, part, lent)
        else:
            image = KEPT.get(("still", part.still, _shown_of(canvas, part)), lambda: _to_keep(canvas, part))
            masked_here = None if part.masks_still else part.covers
        if masked_here is not None:
            image = masked(image, masked_here)
        if part.takes_behind and part.layer.blend == "normal":
            put(canvas, faded(image, part.presence))
        else:
            laid(canvas, faded(image, part.presence), part.layer.blend)


def _shown_of(canvas: Canvas, part: Part) -> Area | None:
    """The area of a canvas, as far as a still picture depends on it; None where the picture lies wholly inside."""
    if canvas.area == canvas.frame:
        return canvas.area
    whole = part.bounds(canvas).pixels((-(10**6), -(10**6), 10**6, 10**6))
    if part.layer.moved:
        whole = reached(matrix(part.layer, canvas.width, canvas.height), whole, 1)
    whole = grown(whole, sum(effect.margin(canvas) for effect in part.effects))
    return None if common(whole, canvas.area) == whole else canvas.area


def pictured(canvas: Canvas, part: Part, lent: ExitStack) -> LayerImage:
    """The first three stages: the layer drawn, transformed and through its effects, as far as a canvas shows it. Its
    memory may be lent until `lent` is closed."""
    margins = [effect.margin(canvas) for effect in part.effects]
    image = drawn(canvas, part, grown(canvas.area, sum(margins)), lent)
    for number, effect in enumerate(part.effects):
        wanted = grown(canvas.area, sum(margins[number + 1 :]))
        image = effect.apply(image, Source(canvas, part, number, wanted, lent))
    return image.within(canvas.area)


def _to_keep(canvas: Canvas, part: Part) -> LayerImage:
    with ExitStack() as lent:
        image = pictured(canvas, part, lent)
        if part.covers is not None and part.masks_still:
            image = masked(image, part.covers)
        found = image.trimmed()
        return replace(found, pixels=np.ascontiguousarray(found.pixels).copy())


def drawn(canvas: Canvas, part: Part, wanted: Area, lent: ExitStack) -> LayerImage:
    """Draw a layer alone, on nothing, and bring it to its place; `wanted` is what later stages look at."""
    if part.takes_behind:
        # Not written to: every stage gives a picture of its own.
        behind = LayerImage(*canvas.area[:2], canvas.pixels).within(canvas.frame)
        place = matrix(part.layer, canvas.width, canvas.height)
        return transformed(behind, place, wanted) if part.layer.moved else behind
    if not part.layer.moved:
        return _alone(canvas, part, canvas, wanted, lent)
    # Drawn at the size that it will have, so that it is as sharp as if it stood there.
    scale = min(max(part.layer.scale_x, part.layer.scale_y) / 100, _LARGEST)
    source = Viewport(max(round(canvas.width * scale), 2), max(round(canvas.height * scale), 2))
    shrunk = np.diag([canvas.width / source.width, canvas.height / source.height, 1.0])
    place = matrix(part.layer, canvas.width, canvas.height) @ shrunk
    # One pixel more, since those at the edge are mixed with their neighbours.
    seen = reached(np.asarray(np.linalg.inv(place), np.float64), wanted, 2)
    return transformed(_alone(canvas, part, source, seen, lent), place, wanted)


def _alone(canvas: Canvas, part: Part, view: Viewport, wanted: Area, lent: ExitStack) -> LayerImage:
    area = part.bounds(view).pixels(wanted)
    if is_empty(area):
        return LayerImage(area[0], area[1], np.zeros((0, 0, 4), np.uint8))
    alone = lent.enter_context(canvas.lent(view, area))
    part.draw(alone)
    image = LayerImage(area[0], area[1], alone.pixels)
    return image.within(alone.touched) if alone.touched else image.within((area[0], area[1], area[0], area[1]))


def transformed(image: LayerImage, place: NDArray[np.float64], wanted: Area) -> LayerImage:
    """A picture placed by an affine matrix, shape (3, 3), that leads from its own frame's pixels to those of another
    frame, as far as that is wanted."""
    area = common(reached(place, image.bounds, 1), wanted)
    if image.empty or is_empty(area):
        return LayerImage(area[0], area[1], np.zeros((0, 0, 4), np.uint8))
    # Pixels have their centres at halves; OpenCV counts from the centre of the first one.
    into, back = np.eye(3), np.eye(3)
    into[:2, 2] = image.left + 0.5, image.top + 0.5
    back[:2, 2] = -0.5 - area[0], -0.5 - area[1]
    pixels = cv2.warpAffine(
        image.pixels,
        (back @ place @ into)[:2],
        (area[2] - area[0], area[3] - area[1]),
        flags=cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(0, 0, 0, 0),
    )
    return LayerImage(area[0], area[1], np.asarray(pixels, np.uint8))


def masked(image: LayerImage, covers: Callable[[Area], Mask | None]) -> LayerImage:
    """A picture as far as masks let it through."""
    if image.empty:
        return image
    cover = covers(image.bounds)
    if cover is None:
        return image
    # Only where the masks let something through is there anything to do.
    x, y, width, height = cv2.boundingRect(cover)
    left, top = image.left + x, image.top + y
    return replace(image, cover=cover).within((left, top, left + width, top + height))


def faded(image: LayerImage, presence: float) -> LayerImage:
    """A picture of which there is only so much, 0 to 1."""
    return replace(image, opacity=image.opacity * presence)


def laid(canvas: Canvas, image: LayerImage, mode: str) -> None:
    """Blend a picture over what is on a canvas, through its cover and its opacity."""
    if not image.empty:
        canvas.blend(image.pixels, image.bounds, mode, image.cover, image.opacity)


def put(canvas: Canvas, image: LayerImage) -> None:
    """Put a picture in place of all that is on a canvas, through its cover and as far as its opacity says; where it
    does not reach there is nothing then."""
    here = common(canvas.frame, canvas.area)
    part = image.within(here)
    if part.bounds != here and part.cover is None:
        part = LayerImage(here[0], here[1], part.spread(here), None, part.opacity)
    here = part.bounds
    put_in_place(canvas.part(here), part.pixels, part.cover, part.opacity)
    canvas.touch(here)


def reached(place: NDArray[np.float64], area: Area, margin: int) -> Area:
    """The whole pixels that an area covers after an affine matrix, with a margin."""
    corners = np.array([[area[x], area[y], 1.0] for x in (0, 2) for y in (1, 3)]) @ place[:2].T
    low, high = corners.min(axis=0), corners.max(axis=0)
    # A layer that is scaled to almost nothing sees very far.
    low, high = np.maximum(low, -1e6), np.minimum(high, 1e6)
    return grown((int(np.floor(low[0])), int(np.floor(low[1])), int(np.ceil(high[0])), int(np.ceil(high[1]))), margin)


def matrix(layer: Layer, width: float, height: float) -> NDArray[np.float64]:
    """Where a layer's points come to lie: an affine matrix in pixels of a frame, shape (3, 3).

    About the anchor: first scaled, then skewed, then turned clockwise, then moved.
    """
    ax, ay = layer.anchor_x * width / 100, layer.anchor_y * height / 100
    angle = np.deg2rad(layer.spin)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    lean = np.array([[1.0, -np.tan(np.deg2rad(layer.skew_x))], [np.tan(np.deg2rad(layer.skew_y)), 1.0]])
    linear = turn @ lean @ np.diag([layer.scale_x / 100, layer.scale_y / 100])
    move = np.array([layer.move_x * width / 100, layer.move_y * height / 100])
    out = np.eye(3)
    out[:2, :2] = linear
    out[:2, 2] = np.array([ax, ay]) + move - linear @ (ax, ay)
    return out
