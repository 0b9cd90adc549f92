"""Effects that are drawn: each takes a layer's picture and gives another."""

from __future__ import annotations

from typing import ClassVar, Literal

from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.scene.effects import Effect

ReadScope = Literal["own", "behind", "times", "layer", "clock"]


class DrawnEffect(Effect):
    """An effect kind that is applied. It may read nothing but its settings, the picture and what it says in `reads`."""

    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own"})
    """The layer's own picture, what is behind it, its picture at other times, another layer, or the time itself."""

    keeps_blur: ClassVar[bool] = False
    """True for a kind after which a blurred picture holds nothing finer than before."""

    @property
    def still(self) -> bool:
        """True when it makes the same of the same picture at all times, as its settings are now."""
        return self.reads == {"own"}

    @property
    def looks_behind(self) -> bool:
        """True when it looks at what is behind the layer, as its settings are now."""
        return "behind" in self.reads

    def margin(self, view: Viewport) -> int:
        """How far beyond the pixels that are wanted it looks, in pixels."""
        return 0

    def blur_sigma(self, view: Viewport, before: float) -> float:
        """The standard deviation of the least blur of its picture, in pixels, after one of `before`; 0 where it may
        hold anything."""
        return before if self.keeps_blur else 0.0

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        """The picture after it. `image` reaches `margin` beyond what is wanted, as far as there is anything; it is not
        to be written to."""
        raise NotImplementedError
