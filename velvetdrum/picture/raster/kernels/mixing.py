"""A picture put in place of another, as far as a mask and a share say."""

from __future__ import annotations

from numba import int64, uint8, uint32, void

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import BYTE, mixed, weakened


@compiled(void(written(uint32), int64, read(uint32), int64, read(uint8), int64, uint32, int64, int64))
def replace(below, below_step, above, above_step, cover, cover_step, strength, width, height):
    """`below` becomes `above` times the share plus itself times what is left. The share is `cover` (none where its step
    is 0) times `strength` / 65536."""
    whole = weakened(BYTE, strength)
    for y in range(height):
        b = below[y * below_step : y * below_step + width]
        a = above[y * above_step : y * above_step + width]
        if cover_step == 0:
            for x in range(width):
                b[x] = mixed(a[x], whole, b[x], uint32(BYTE - whole))
        else:
            c = cover[y * cover_step : y * cover_step + width]
            for x in range(width):
                share = weakened(uint32(c[x]), strength)
                b[x] = mixed(a[x], share, b[x], uint32(BYTE - share))
