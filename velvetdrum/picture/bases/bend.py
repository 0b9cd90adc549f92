"""What all effects have in common that bend a picture: each pixel is fetched from elsewhere."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Any, ClassVar

from velvetdrum.declare.settings import choice
from velvetdrum.limits.cache import SHARED_CACHE
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport, common, grown, is_empty
from velvetdrum.picture.raster.warp import EDGES, Maps, fetched


class Bend(DrawnEffect):
    """Base of effects that fetch each pixel from elsewhere in the frame."""

    family: ClassVar[str] = "bend"

    edges: str = choice(
        "mirror",
        EDGES,
        label="Edge mode",
        group="effect",
        help="What is fetched from beyond the frame: nothing, its last pixels, its mirror image, or itself again.",
        advanced=True,
    )

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        """Where the pixels of an area come from."""
        raise NotImplementedError

    def reach(self, view: Viewport) -> float | None:
        """How far away a pixel may be fetched from at the most, in pixels; None for anywhere."""
        return None

    def state_now(self, context: EffectContext) -> Hashable | None:
        """What the maps depend on beside the frame and the area; None where that is not worth keeping."""
        return self.state()

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        if image.empty:
            return image
        view, reach = context.view, self.reach(context.view)
        area = context.wanted if reach is None else common(grown(image.bounds, int(reach) + 2), context.wanted)
        if is_empty(area):
            return image.within(area)
        maps = self._maps(view, area, context)
        # Where nothing beyond the frame can be fetched, the layer's own pixels are enough.
        edges = self.edges
        if reach is not None and common(grown(image.bounds, int(reach) + 2), view.frame) == grown(
            image.bounds, int(reach) + 2
        ):
            edges = "clear"
        return fetched(image, view, maps, area, edges)

    def _maps(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        state = self.state_now(context)
        if state is None:
            return self.places(view, area, context)
        key = ("maps", self.kind, state, view.width, view.height, area)
        # Maps are large: those that are used twice are kept, those of settings that move are not.
        result: Any = SHARED_CACHE.peek(key)
        if result is None:
            result = self.places(view, area, context)
            seen = ("maps seen", *key[1:])
            if SHARED_CACHE.peek(seen):
                SHARED_CACHE.get(key, lambda: result)
            SHARED_CACHE.get(seen, lambda: True)
        maps: Maps = result
        return maps
