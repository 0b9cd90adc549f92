"""What all effects have in common that change the colour of each pixel by itself."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.bases.effect import DrawnEffect
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import LUMA
from velvetdrum.picture.raster.layer_image import LayerImage


class Recolour(DrawnEffect):
    """Base of effects that look at one pixel at a time."""

    family: ClassVar[str] = "colour"
    keeps_blur: ClassVar[bool] = True

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        """Pixels after it, of which the first one lies at a place of the frame. The given ones are not written to."""
        raise NotImplementedError

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        here = image.within(context.wanted)
        if here.empty:
            return here
        return LayerImage(here.left, here.top, self.changed(here.pixels, (here.left, here.top), context))


def saturation_matrix(share: float) -> NDArray[np.float64]:
    """Blue, green and red made richer (above 1) or paler, shape (3, 3): `saturate` of Filter Effects, by the luminance
    of Rec. BT.709."""
    return share * np.eye(3) + (1 - share) * np.tile(LUMA, (3, 1))


def hue_matrix(degrees: float) -> NDArray[np.float64]:
    """Blue, green and red with their hue turned, shape (3, 3): `hue-rotate` of Filter Effects, a turn about the grey
    axis that keeps luminance."""
    cos, sin = np.cos(np.deg2rad(degrees)), np.sin(np.deg2rad(degrees))
    red, green, blue = 0.213, 0.715, 0.072
    grey = np.tile([red, green, blue], (3, 1))
    turn = np.array([[-red, -green, 1 - blue], [0.143, 0.140, -0.283], [red - 1, green, blue]])
    result = grey + cos * (np.eye(3) - grey) + sin * turn
    return result[::-1, ::-1]
