"""Vignette: the picture darkens toward the frame's corners."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import colour, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.raster.areas import Area, Pixels, bytes_of, words_of
from velvetdrum.picture.raster.kernels import relief
from velvetdrum.scene.effects import effect_kind


@effect_kind("vignette", "Vignette")
class Vignette(Recolour):
    """Darkens the picture toward its corners, or brings them to another colour."""

    family: ClassVar[str] = "light"
    summary: ClassVar[str] = "Vignette|{amount}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)

    amount: float = percent(60, step=1, group="effect", help="How much is left of the corners.")
    size: float = number(
        60, lo=0, hi=200, unit="%", step=1, group="effect", help="Radius of the middle that stays clear."
    )
    softness: float = number(80, lo=1, hi=200, unit="%", step=1, group="effect", help="How wide the change is.")
    round: float = percent(50, step=1, label="Roundness", group="effect", help="0 follows the frame, 100 is a circle.")
    x: float = number(
        50, lo=-100, hi=200, unit="%", label="Position X", group="effect", help="Position X of the middle."
    )
    y: float = number(
        50, lo=-100, hi=200, unit="%", label="Position Y", group="effect", help="Position Y of the middle."
    )
    colour: str = colour("#000000", help="What the corners go to.")

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        height, width = pixels.shape[:2]
        area = (place[0], place[1], place[0] + width, place[1] + height)
        view = context.view
        form = (self.size, self.softness, self.round, self.x, self.y)
        cover = _corners(view.width, view.height, area, form)
        out = np.empty((height, width), np.uint32)
        share = np.uint32(round(self.amount * 2.55))
        colour, none = np.uint32(int(self.colour[1:], 16)), np.uint32(0)
        relief.shade(*words_of(pixels), out.reshape(-1), *bytes_of(cover), colour, share, none, none, width, height)
        return out.view(np.uint8).reshape(height, width, 4)


@cached
def _corners(width: int, height: int, area: Area, form: tuple[float, float, float, float, float]) -> NDArray[np.int16]:
    """How far toward the corners each pixel lies, 0 to 255: smooth from the size to the softness beyond it."""
    size, softness, round_, x, y = form
    short = min(width, height) / 2
    # Half of each side, brought to one as far as it is to be round; at the diagonal of both lies 1.
    half = np.array([width / 2, height / 2]) ** (1 - round_ / 100) * short ** (round_ / 100)
    dx = (np.arange(area[0], area[2]) + 0.5 - width * x / 100) / half[0]
    dy = (np.arange(area[1], area[3]) + 0.5 - height * y / 100) / half[1]
    away = np.sqrt(np.add.outer(dy * dy, dx * dx)) / np.sqrt(2)
    share = np.clip((away - size / 100) / (softness / 100) + 0.0, 0, 1)
    return np.rint(share * share * (3 - 2 * share) * 255).astype(np.int16)
