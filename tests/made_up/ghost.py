"""An effect kind: the layer as it was a while ago, under what it is now, where nothing is behind it."""

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number
from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.blending import blend
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.scene.effects import effect_kind


@effect_kind("ghost", "Ghost")
class Ghost(DrawnEffect):
    """Shows where the layer was."""

    reads = frozenset({"own", "times", "behind"})
    summary: ClassVar[str] = "Ghost|{delay_ms}"

    delay_ms: float = number(500, lo=0, hi=2000, unit="ms", group="effect", help="How long ago.")

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        before = context.earlier(self.delay_ms / 1000)
        out = before.spread(context.wanted)
        out[context.behind.spread(context.wanted)[..., 1] > 200] = 0
        blend(out, np.ascontiguousarray(image.spread(context.wanted)))
        return LayerImage(context.wanted[0], context.wanted[1], out)
