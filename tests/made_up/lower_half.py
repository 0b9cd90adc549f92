"""A mask kind: the lower part of the frame."""

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import number
from velvetdrum.picture.bases.mask import DrawnMask, MaskTarget
from velvetdrum.picture.raster.areas import Area, Coverage
from velvetdrum.scene.masks import mask_kind


@mask_kind("lower-half", "Lower half")
class LowerHalf(DrawnMask):
    """Lets the lower part through."""

    summary: ClassVar[str] = "Below|{line}"

    line: float = number(50, lo=0, hi=100, unit="%", group="mask", help="Where it begins, down the frame.")

    def cover(self, target: MaskTarget, area: Area) -> Coverage:
        rows = np.arange(area[1], area[3])[:, None] >= target.canvas.y(self.line)
        return np.repeat(rows, area[2] - area[0], axis=1).astype(np.uint8) * 255
