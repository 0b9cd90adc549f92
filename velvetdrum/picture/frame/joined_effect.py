"""An effect as it stands in a layer's row: at work or not, and joined with the picture that it was given."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from time import perf_counter

import cv2
import numpy as np

from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area, Coverage
from velvetdrum.picture.raster.blending import blend, replace
from velvetdrum.picture.raster.colour_tables import LUMA
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport, around, common, is_empty


@dataclass(frozen=True)
class JoinedEffect:
    """An effect with its strength, its blend mode, its mask and its span."""

    effect: DrawnEffect
    ident: str
    active: bool
    """False where it changes nothing."""
    told: Callable[[str, float], None] | None = None
    """Hears its name and when it began, once it is done."""

    @property
    def name(self) -> Hashable | None:
        """What its result depends on beside the picture; None where it changes over time."""
        if not self.active:
            return ()
        return (self.effect.kind, self.effect.state()) if self.effect.still and not self.effect.layers() else None

    @property
    def reads_behind(self) -> bool:
        """True when it looks at what is behind the layer."""
        return self.active and self.effect.looks_behind

    def margin(self, view: Viewport) -> int:
        """How far beyond the pixels that are wanted it looks, in pixels."""
        return self.effect.margin(view) if self.active else 0

    def blur_sigma(self, view: Viewport, before: float) -> float:
        """The standard deviation of the least blur of its picture, in pixels; 0 where it may hold anything."""
        effect = self.effect
        if not self.active:
            return before
        if effect.through or effect.layers() or not effect.reads <= {"own", "clock"}:
            return 0.0
        after = effect.blur_sigma(view, before)
        # Of a weaker or blended one the picture before it is still seen.
        return after if effect.strength >= 100 and effect.joins == "replace" else min(before, after)

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        """The picture after it."""
        if not self.active:
            return image
        begin = perf_counter()
        result = self._applied(image, context)
        if self.told:
            self.told(self.ident, begin)
        return result

    def _applied(self, image: LayerImage, context: EffectContext) -> LayerImage:
        effect = self.effect
        after = effect.apply(image, context)
        if effect.strength >= 100 and effect.joins == "replace" and not effect.through:
            return after
        before = image.within(context.wanted)
        area = around(before.bounds, common(after.bounds, context.wanted))
        if is_empty(area):
            return after
        result, above = before.spread(area), after.spread(area)
        cover = self._cover(context, area) if effect.through else None
        if effect.joins == "replace":
            replace(result, above, cover, effect.strength / 100)
        else:
            blend(result, above, effect.joins, cover, effect.strength / 100)
        return LayerImage(area[0], area[1], result)

    def _cover(self, context: EffectContext, area: Area) -> Coverage:
        pixels = context.other(self.effect.through, area)
        alone = self.effect.through_by == "alpha"
        weights = np.array([[0, 0, 0, 1] if alone else [*LUMA, 0]], np.float32)
        result = np.asarray(cv2.transform(pixels, weights), np.uint8).reshape(pixels.shape[:2])
        return np.asarray(cv2.bitwise_not(result), np.uint8) if self.effect.through_invert else result
