"""Pixels into the planes of a video frame: ITU-R BT.709, limited range, 8 bits, chroma at half size."""

from __future__ import annotations

import numpy as np
from numba import int32, int64, uint8, uint32, void

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import part

# Y' = 16 + 219 (Kr R + Kg G + Kb B) with Kr 0.2126, Kb 0.0722; C = 128 + 224 (B - Y') / (2 (1 - Kb)) and the same of R,
# all of R'G'B' from 0 to 1; in 65536ths.
_Y = (round(65536 * 219 / 255 * 0.0722), round(65536 * 219 / 255 * 0.7152), round(65536 * 219 / 255 * 0.2126))
_U_B, _V_R = (round(65536 * 224 / 255 * 0.5),) * 2
_U_G = round(65536 * 224 / 255 * 0.7152 / (2 * (1 - 0.0722)))
_V_G = round(65536 * 224 / 255 * 0.7152 / (2 * (1 - 0.2126)))
_YB, _YG, _YR = (int32(value) for value in _Y)
_UB, _UG, _UR = int32(_U_B), int32(_U_G), int32(_U_B - _U_G)
_VR, _VG, _VB = int32(_V_R), int32(_V_G), int32(_V_R - _V_G)
_Y_BASE = int32(16 * 65536 + 32768)
# The middle, and half a step, of a sum of four pixels; kept below the top of the range when it is rounded down.
_C_BASE = int32(128 * 4 * 65536 + 131072)


_PLANES = void(read(uint32), int64, written(uint8), int64, written(uint8), int64, written(uint8), int64, int64, int64)


@compiled(_PLANES)
def to_bt709(words, step, luma, luma_step, blue, blue_step, red, red_step, width, height):
    """Opaque words into the planes Y', Cb and Cr; the chroma is the mean of four pixels. Width and height are even."""
    for row in range(height // 2):
        upper = words[2 * row * step : 2 * row * step + width]
        lower = words[(2 * row + 1) * step : (2 * row + 1) * step + width]
        for half in range(2):
            w = lower if half else upper
            at = (2 * row + half) * luma_step
            y = luma[at : at + width]
            for x in range(width):
                v = w[x]
                b, g, r = int32(part(v, 0)), int32(part(v, 8)), int32(part(v, 16))
                y[x] = np.uint8(int32(int32(int32(_YB * b + _YG * g) + int32(_YR * r)) + _Y_BASE) >> int32(16))
        u = blue[row * blue_step : row * blue_step + width // 2]
        v_ = red[row * red_step : row * red_step + width // 2]
        for x in range(width // 2):
            one, two, three, four = upper[2 * x], upper[2 * x + 1], lower[2 * x], lower[2 * x + 1]
            b = int32(part(one, 0) + part(two, 0) + part(three, 0) + part(four, 0))
            g = int32(part(one, 8) + part(two, 8) + part(three, 8) + part(four, 8))
            r = int32(part(one, 16) + part(two, 16) + part(three, 16) + part(four, 16))
            u[x] = np.uint8(int32(int32(int32(_UB * b - _UG * g) - int32(_UR * r)) + _C_BASE) >> int32(18))
            v_[x] = np.uint8(int32(int32(int32(_VR * r - _VG * g) - int32(_VB * b)) + _C_BASE) >> int32(18))
