"""Look-up table: colours graded by a `.cube` file."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from velvetdrum.declare.settings import lookup_table
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.bases.recolour import Recolour
from velvetdrum.picture.media.cube_files import kept_table
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.colour_tables import in_cube, plain_curves, recoloured
from velvetdrum.scene.effects import effect_kind


@effect_kind("look-up-table", "Look-up table")
class LookUpTableEffect(Recolour):
    """Grades colours by a table from a .cube file, of one or three dimensions."""

    keeps_blur: ClassVar[bool] = False
    summary: ClassVar[str] = "Look-up table"

    table: str = lookup_table(label="Table", help="Look-up table, a .cube file.")

    def changed(self, pixels: Pixels, place: tuple[int, int], context: EffectContext) -> Pixels:
        path = context.moment.media.get(self.table)
        if not path:
            # None chosen yet, or its file is missing, which is said beside the layer.
            return pixels
        result = kept_table(path)
        low, high = np.array(result.low), np.array(result.high)
        if result.points.ndim == 4:
            return in_cube(pixels, result.points, low, high)
        # One curve a channel, straight between its points.
        places = np.linspace(0, 1, result.size)
        curves = plain_curves()
        for row, channel in enumerate((2, 1, 0)):
            share = (curves[row] - low[channel]) / (high[channel] - low[channel])
            curves[row] = np.interp(share, places, result.points[:, channel])
        return recoloured(pixels, curves)
