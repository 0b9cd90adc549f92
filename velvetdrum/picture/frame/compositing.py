"""The stages of a layer: drawn, transformed, through its effects, masked, faded and blended over what is behind it.

Each stage reads one layer image and gives one. What is drawn may reach beyond the frame, as far as a later stage looks.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import ExitStack
from dataclasses import replace

import cv2
import numpy as np

from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.limits.records import changed
from velvetdrum.picture.bases.effect_context import EffectContext, StagedLayer
from velvetdrum.picture.raster.areas import Area, Coverage
from velvetdrum.picture.raster.blending import replace as put_in_place
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.transforms import reached, transformed
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.picture.space.placement import matrix

_LARGEST = 2.0
"""How much larger than the frame a layer is drawn that is scaled up."""


def composite(canvas: Canvas, part: StagedLayer) -> None:
    """Draw a layer over what is on a canvas, as its placing, effects, masks, presence and blend mode ask.

    The picture of a still layer is made once, and kept; with its masks, where those are still too.
    """
    if part.presence <= 0:
        return
    plain = part.layer.direct and part.presence >= 1 and part.covers is None and not part.effects
    if plain and part.still is None and not part.halved:
        part.draw(canvas)
        return
    with ExitStack() as lent:
        masked_here = part.covers
        if part.still is None:
            image = pictured(canvas, part, lent)
        else:
            image = SHARED_CACHE.get(("still", part.still, _shown_of(canvas, part)), lambda: _to_keep(canvas, part))
            masked_here = None if part.masks_still else part.covers
        if masked_here is not None:
            image = masked(image, masked_here)
        if part.takes_behind and part.layer.blend == "normal":
            put(canvas, faded(image, part.presence))
        else:
            laid(canvas, faded(image, part.presence), part.layer.blend)


def _shown_of(canvas: Canvas, part: StagedLayer) -> Area | None:
    """The area of a canvas, as far as a still picture depends on it; None where the picture lies wholly inside."""
    if canvas.area == canvas.frame:
        return canvas.area
    whole = part.bounds(canvas).pixels((-(10**6), -(10**6), 10**6, 10**6))
    if part.layer.moved:
        whole = reached(matrix(part.layer, canvas.width, canvas.height), whole, 1)
    whole = grown(whole, sum(effect.margin(canvas) for effect in part.effects))
    return None if common(whole, canvas.area) == whole else canvas.area


def pictured(canvas: Canvas, part: StagedLayer, lent: ExitStack) -> LayerImage:
    """The first three stages: the layer drawn, transformed and through its effects, as far as a canvas shows it. Its
    memory may be lent until `lent` is closed."""
    if part.halved:
        return _enlarged(canvas, replace(part, halved=False, small=True), lent)
    margins = [effect.margin(canvas) for effect in part.effects]
    image = drawn(canvas, part, grown(canvas.area, sum(margins)), lent)

    def redraw(layer: StagedLayer) -> LayerImage:
        return pictured(canvas, layer, lent)

    def visit(layer: StagedLayer, use: Callable[[LayerImage], None]) -> None:
        with ExitStack() as own:
            use(pictured(canvas, layer, own))

    for number, effect in enumerate(part.effects):
        wanted = grown(canvas.area, sum(margins[number + 1 :]))
        image = effect.apply(image, EffectContext(canvas, part, number, wanted, redraw, visit))
    return image.within(canvas.area)


def _enlarged(canvas: Canvas, part: StagedLayer, lent: ExitStack) -> LayerImage:
    """What `pictured` gives, drawn at half the frame's size."""
    left, top, right, bottom = canvas.area
    area = left // 2, top // 2, -(-right // 2), -(-bottom // 2)
    small = lent.enter_context(canvas.lent(Viewport(canvas.width // 2, canvas.height // 2), area))
    image = pictured(small, part, lent)
    if image.empty:
        return image
    height, width = image.pixels.shape[:2]
    large = cv2.resize(image.pixels, (width * 2, height * 2), interpolation=cv2.INTER_LINEAR)
    return LayerImage(image.left * 2, image.top * 2, np.asarray(large, np.uint8)).within(canvas.area)


def _to_keep(canvas: Canvas, part: StagedLayer) -> LayerImage:
    with ExitStack() as lent:
        image = pictured(canvas, part, lent)
        if part.covers is not None and part.masks_still:
            image = masked(image, part.covers)
        result = image.trimmed()
        return replace(result, pixels=np.ascontiguousarray(result.pixels).copy())


def drawn(canvas: Canvas, part: StagedLayer, wanted: Area, lent: ExitStack) -> LayerImage:
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


def _alone(canvas: Canvas, part: StagedLayer, view: Viewport, wanted: Area, lent: ExitStack) -> LayerImage:
    area = part.bounds(view).pixels(wanted)
    if is_empty(area):
        return LayerImage(area[0], area[1], np.zeros((0, 0, 4), np.uint8))
    alone = lent.enter_context(canvas.lent(view, area))
    part.draw(alone)
    image = LayerImage(area[0], area[1], alone.pixels)
    return image.within(alone.touched) if alone.touched else image.within((area[0], area[1], area[0], area[1]))


def masked(image: LayerImage, covers: Callable[[Area], Coverage | None]) -> LayerImage:
    """A picture as far as masks let it through."""
    if image.empty:
        return image
    cover = covers(image.bounds)
    if cover is None:
        return image
    # Only where the masks let something through is there anything to do.
    x, y, width, height = cv2.boundingRect(cover)
    left, top = image.left + x, image.top + y
    return changed(image, cover=cover).within((left, top, left + width, top + height))


def faded(image: LayerImage, presence: float) -> LayerImage:
    """A picture of which there is only so much, 0 to 1."""
    return image if presence == 1 else changed(image, opacity=image.opacity * presence)


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
