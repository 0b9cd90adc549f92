"""The blend modes of W3C Compositing and Blending, level 1, each with mask and opacity in one pass.

All work on premultiplied colours: with source s, backdrop b, colours C and alphas a, the result is
co = as (1 - ab) Cs + as ab B(Cb, Cs) + (1 - as) ab Cb, and ao = as + ab (1 - as). A mask and an opacity weaken the
source; since the result is linear in as, they mix between the backdrop and the result at full strength.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numba import float64, int32, int64, uint8, uint32, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written
from velvetdrum.picture.raster.kernels.words import ALPHA, BYTE, EIGHT, divided, mixed, part, scaled, summed, weakened

_AREAS = void(written(uint32), int64, read(uint32), int64, read(uint8), int64, int64, int64, float64)
"""Backdrop and its row step, source and its, mask (or an empty one) and its, width, height, opacity from 0 to 1."""

_F = np.float32
_UNIT = np.float32(1 / 255)


@compiled(_AREAS)
def normal(below, below_step, above, above_step, mask, mask_step, width, height, opacity):
    """Source over backdrop, into the backdrop."""
    masked, strength, whole = mask.size > 0, uint32(opacity * 65536 + 0.5), uint32(opacity * 255 + 0.5)
    for y in range(height):
        b = below[y * below_step : y * below_step + width]
        s = above[y * above_step : y * above_step + width]
        if masked:
            m = mask[y * mask_step : y * mask_step + width]
            for x in range(width):
                c, v = weakened(uint32(m[x]), strength), s[x]
                b[x] = mixed(v, c, b[x], uint32(BYTE - divided(uint32(uint32(v >> ALPHA) * c))))
        elif whole < BYTE:
            for x in range(width):
                v = s[x]
                b[x] = mixed(v, whole, b[x], uint32(BYTE - divided(uint32(uint32(v >> ALPHA) * whole))))
        else:
            for x in range(width):
                v = s[x]
                b[x] = summed(v, scaled(b[x], uint32(BYTE - uint32(v >> ALPHA))))


@compiled(_AREAS)
def plus_lighter(below, below_step, above, above_step, mask, mask_step, width, height, opacity):
    """The sum of both, no more than full."""
    masked, strength, whole = mask.size > 0, uint32(opacity * 65536 + 0.5), uint32(opacity * 255 + 0.5)
    for y in range(height):
        b = below[y * below_step : y * below_step + width]
        s = above[y * above_step : y * above_step + width]
        if masked:
            m = mask[y * mask_step : y * mask_step + width]
            for x in range(width):
                b[x] = summed(scaled(s[x], weakened(uint32(m[x]), strength)), b[x])
        elif whole < BYTE:
            for x in range(width):
                b[x] = summed(scaled(s[x], whole), b[x])
        else:
            for x in range(width):
                b[x] = summed(s[x], b[x])


@compiled(void(written(uint32), int64, uint32, read(uint8), int64, int64, int64))
def tint(below, below_step, colour, mask, mask_step, width, height):
    """One premultiplied colour over a backdrop through a mask, into the backdrop."""
    solid = uint32(colour >> ALPHA)
    for y in range(height):
        b = below[y * below_step : y * below_step + width]
        m = mask[y * mask_step : y * mask_step + width]
        for x in range(width):
            c = uint32(m[x])
            b[x] = mixed(colour, c, b[x], uint32(BYTE - divided(uint32(solid * c))))


@compiled(void(written(uint32), int64, read(uint8), int64, int64, int64))
def weaken(words, step, mask, mask_step, width, height):
    """Premultiplied words as far as a mask lets them through, in place."""
    for y in range(height):
        w, m = words[y * step : y * step + width], mask[y * mask_step : y * mask_step + width]
        for x in range(width):
            w[x] = scaled(w[x], uint32(m[x]))


@register_jitable(inline="always")
def _shares(mask, mask_step, y, width, opacity, out):
    """How much of the source each pixel of a row gets, 0 to 1."""
    if mask.size > 0:
        m = mask[y * mask_step : y * mask_step + width]
        unit = _F(opacity / 255)
        for x in range(width):
            out[x] = _F(int32(m[x])) * unit
    else:
        out[:] = _F(opacity)


@register_jitable(inline="always")
def _byte(value):
    """A value from 0 to 255 as a byte, rounded."""
    return uint32(int32(min(max(value + _F(0.5), _F(0)), _F(255.5))))


def _separable(mix: Callable[..., Any]) -> Callable[..., None]:
    """A loop for a mode that treats each colour channel alone.

    `mix(s, b, a_s, a_b)` is as ab B(Cb, Cs) in 255ths of 255ths, from premultiplied bytes.
    """

    @compiled(_AREAS)
    def blend(below, below_step, above, above_step, mask, mask_step, width, height, opacity):
        shares = np.empty(width, np.float32)
        for y in range(height):
            _shares(mask, mask_step, y, width, opacity, shares)
            b = below[y * below_step : y * below_step + width]
            s = above[y * above_step : y * above_step + width]
            for x in range(width):
                v, w, c = s[x], b[x], shares[x]
                a_s, a_b = _F(int32(part(v, 24))), _F(int32(part(w, 24)))
                word = uint32(_byte(a_b + c * (a_s - a_s * a_b * _UNIT)) << ALPHA)
                for shift in (0, 8, 16):
                    cs, cb = _F(int32(part(v, shift))), _F(int32(part(w, shift)))
                    added = cs + (mix(cs, cb, a_s, a_b) - cs * a_b - a_s * cb) * _UNIT
                    word = uint32(word | uint32(_byte(cb + c * added) << uint32(shift)))
                b[x] = word

    return blend


@register_jitable(inline="always")
def _multiply(s, b, a_s, a_b):
    return s * b


@register_jitable(inline="always")
def _screen(s, b, a_s, a_b):
    return a_s * b + s * a_b - s * b


@register_jitable(inline="always")
def _hard_light(s, b, a_s, a_b):
    return _F(2) * s * b if _F(2) * s <= a_s else a_s * a_b - _F(2) * (a_b - b) * (a_s - s)


@register_jitable(inline="always")
def _overlay(s, b, a_s, a_b):
    return _F(2) * s * b if _F(2) * b <= a_b else a_s * a_b - _F(2) * (a_b - b) * (a_s - s)


@register_jitable(inline="always")
def _darken(s, b, a_s, a_b):
    return min(s * a_b, b * a_s)


@register_jitable(inline="always")
def _lighten(s, b, a_s, a_b):
    return max(s * a_b, b * a_s)


@register_jitable(inline="always")
def _dodge(s, b, a_s, a_b):
    full = a_s * a_b
    result = full if s >= a_s else min(full, a_s * a_s * b / (a_s - s))
    return result if b > _F(0) else _F(0)


@register_jitable(inline="always")
def _burn(s, b, a_s, a_b):
    full = a_s * a_b
    result = _F(0) if s <= _F(0) else full - min(full, (a_b - b) * a_s * a_s / s)
    return result if b < a_b else full


@register_jitable(inline="always")
def _soft_light(s, b, a_s, a_b):
    cb = b / a_b if a_b > _F(0) else _F(0)
    curve = ((_F(16) * cb - _F(12)) * cb + _F(4)) * cb if cb <= _F(0.25) else np.sqrt(cb)
    lean = _F(2) * s - a_s
    return a_s * b + a_b * lean * (cb * (_F(1) - cb) if lean <= _F(0) else curve - cb)


@register_jitable(inline="always")
def _difference(s, b, a_s, a_b):
    return abs(s * a_b - b * a_s)


@register_jitable(inline="always")
def _exclusion(s, b, a_s, a_b):
    return s * a_b + b * a_s - _F(2) * s * b


@register_jitable(inline="always")
def _lum(blue, green, red):
    return _F(0.11) * blue + _F(0.59) * green + _F(0.3) * red


@register_jitable(inline="always")
def _sat(blue, green, red):
    return max(max(blue, green), red) - min(min(blue, green), red)


@register_jitable(inline="always")
def _set_lum(blue, green, red, lum):
    """A colour with another luminosity, clipped as the text says."""
    move = lum - _lum(blue, green, red)
    blue, green, red = blue + move, green + move, red + move
    middle = _lum(blue, green, red)
    low, high = min(min(blue, green), red), max(max(blue, green), red)
    down = middle / (middle - low) if low < _F(0) else _F(1)
    blue, green, red = middle + (blue - middle) * down, middle + (green - middle) * down, middle + (red - middle) * down
    up = (_F(1) - middle) / (high - middle) if high > _F(1) else _F(1)
    return middle + (blue - middle) * up, middle + (green - middle) * up, middle + (red - middle) * up


@register_jitable(inline="always")
def _set_sat(blue, green, red, sat):
    """A colour with another saturation and its smallest channel at nothing."""
    low = min(min(blue, green), red)
    spread = max(max(blue, green), red) - low
    factor = sat / spread if spread > _F(0) else _F(0)
    return (blue - low) * factor, (green - low) * factor, (red - low) * factor


@register_jitable(inline="always")
def _hue(sb, sg, sr, bb, bg, br):
    blue, green, red = _set_sat(sb, sg, sr, _sat(bb, bg, br))
    return _set_lum(blue, green, red, _lum(bb, bg, br))


@register_jitable(inline="always")
def _saturation(sb, sg, sr, bb, bg, br):
    blue, green, red = _set_sat(bb, bg, br, _sat(sb, sg, sr))
    return _set_lum(blue, green, red, _lum(bb, bg, br))


@register_jitable(inline="always")
def _color(sb, sg, sr, bb, bg, br):
    return _set_lum(sb, sg, sr, _lum(bb, bg, br))


@register_jitable(inline="always")
def _luminosity(sb, sg, sr, bb, bg, br):
    return _set_lum(bb, bg, br, _lum(sb, sg, sr))


def _non_separable(mix: Callable[..., Any]) -> Callable[..., None]:
    """A loop for a mode that looks at all channels of both colours: `mix` of source and backdrop, each as blue, green
    and red from 0 to 1, gives those of B(Cb, Cs)."""

    @compiled(_AREAS)
    def blend(below, below_step, above, above_step, mask, mask_step, width, height, opacity):
        shares = np.empty(width, np.float32)
        for y in range(height):
            _shares(mask, mask_step, y, width, opacity, shares)
            b = below[y * below_step : y * below_step + width]
            s = above[y * above_step : y * above_step + width]
            for x in range(width):
                v, w, c = s[x], b[x], shares[x]
                a_s, a_b = _F(int32(part(v, 24))), _F(int32(part(w, 24)))
                sb, sg, sr = _F(int32(part(v, 0))), _F(int32(part(v, 8))), _F(int32(part(v, 16)))
                bb, bg, br = _F(int32(part(w, 0))), _F(int32(part(w, 8))), _F(int32(part(w, 16)))
                of_s = _F(1) / a_s if a_s > _F(0) else _F(0)
                of_b = _F(1) / a_b if a_b > _F(0) else _F(0)
                blue, green, red = mix(sb * of_s, sg * of_s, sr * of_s, bb * of_b, bg * of_b, br * of_b)
                both, alone, kept = a_s * a_b * _UNIT, _F(1) - a_b * _UNIT, a_s * _UNIT
                word = uint32(_byte(a_b + c * (a_s - both)) << ALPHA)
                word = uint32(word | _byte(bb + c * (sb * alone + both * blue - kept * bb)))
                word = uint32(word | uint32(_byte(bg + c * (sg * alone + both * green - kept * bg)) << EIGHT))
                b[x] = uint32(word | uint32(_byte(br + c * (sr * alone + both * red - kept * br)) << uint32(16)))

    return blend


BLENDS: dict[str, Callable[..., None]] = {
    "normal": normal,
    "plus-lighter": plus_lighter,
    "multiply": _separable(_multiply),
    "screen": _separable(_screen),
    "overlay": _separable(_overlay),
    "darken": _separable(_darken),
    "lighten": _separable(_lighten),
    "color-dodge": _separable(_dodge),
    "color-burn": _separable(_burn),
    "hard-light": _separable(_hard_light),
    "soft-light": _separable(_soft_light),
    "difference": _separable(_difference),
    "exclusion": _separable(_exclusion),
    "hue": _non_separable(_hue),
    "saturation": _non_separable(_saturation),
    "color": _non_separable(_color),
    "luminosity": _non_separable(_luminosity),
}
"""The loop of each mode by its name in the W3C text."""
