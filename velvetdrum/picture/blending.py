"""Blending two pictures: W3C Compositing and Blending, level 1, on premultiplied colours."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.canvas import Pixels

Colours = NDArray[np.float32]
"""Blue, green, red from 0 to 1, shape (..., 3)."""


def blended(below: Pixels, above: Pixels, mode: str) -> Pixels:
    """`above` over `below`, both premultiplied BGRA of one size, joined by a blend mode of the W3C text or by
    plus-lighter.

    With source s, backdrop b, colours C and alphas a: co = as (1 - ab) Cs + as ab B(Cb, Cs) + (1 - as) ab Cb.
    """
    if mode == "plus-lighter":
        return np.asarray(cv2.add(below, above), np.uint8)
    alpha = above[..., 3]
    through = cv2.bitwise_not(cv2.merge([alpha, alpha, alpha, alpha]))
    kept = cv2.multiply(below, through, scale=1 / 255)
    if mode == "normal":
        return np.asarray(cv2.add(kept, above), np.uint8)
    opaque = int(below[..., 3].min()) == 255
    if mode == "multiply" and opaque:
        return _opaque(cv2.multiply(below, cv2.add(above, through), scale=1 / 255))
    if mode == "screen" and opaque:
        return _opaque(cv2.add(below, cv2.multiply(above, cv2.bitwise_not(below), scale=1 / 255)))
    return _general(below, above, mode)


def _opaque(pixels: NDArray[np.generic]) -> Pixels:
    out = np.asarray(pixels, np.uint8)
    out[..., 3] = 255
    return out


def _general(below: Pixels, above: Pixels, mode: str) -> Pixels:
    backdrop, source = below.astype(np.float32) / 255, above.astype(np.float32) / 255
    ab, a_s = backdrop[..., 3:], source[..., 3:]
    cb = (backdrop[..., :3] / np.maximum(ab, 1e-6)).astype(np.float32)
    cs = (source[..., :3] / np.maximum(a_s, 1e-6)).astype(np.float32)
    mixed = _WHOLE[mode](cb, cs) if mode in _WHOLE else _CHANNEL[mode](cb, cs)
    out = np.empty_like(backdrop)
    out[..., :3] = source[..., :3] * (1 - ab) + a_s * ab * mixed + (1 - a_s) * backdrop[..., :3]
    out[..., 3:] = a_s + ab * (1 - a_s)
    return np.rint(np.clip(out, 0, 1) * 255).astype(np.uint8)


def _hard_light(cb: Colours, cs: Colours) -> Colours:
    return np.where(cs <= 0.5, cb * 2 * cs, cb + (2 * cs - 1) - cb * (2 * cs - 1))


def _soft_light(cb: Colours, cs: Colours) -> Colours:
    curve = np.where(cb <= 0.25, ((16 * cb - 12) * cb + 4) * cb, np.sqrt(np.maximum(cb, 0)))
    return np.where(cs <= 0.5, cb - (1 - 2 * cs) * cb * (1 - cb), cb + (2 * cs - 1) * (curve - cb))


def _dodge(cb: Colours, cs: Colours) -> Colours:
    found = np.where(cs >= 1, 1.0, np.minimum(cb / np.maximum(1 - cs, 1e-6), 1.0))
    return np.where(cb <= 0, 0.0, found).astype(np.float32)


def _burn(cb: Colours, cs: Colours) -> Colours:
    found = np.where(cs <= 0, 0.0, 1 - np.minimum((1 - cb) / np.maximum(cs, 1e-6), 1.0))
    return np.where(cb >= 1, 1.0, found).astype(np.float32)


_Join = Callable[[Colours, Colours], Colours]

_CHANNEL: dict[str, _Join] = {
    "multiply": lambda cb, cs: cb * cs,
    "screen": lambda cb, cs: cb + cs - cb * cs,
    "overlay": lambda cb, cs: _hard_light(cs, cb),
    "darken": np.minimum,
    "lighten": np.maximum,
    "color-dodge": _dodge,
    "color-burn": _burn,
    "hard-light": _hard_light,
    "soft-light": _soft_light,
    "difference": lambda cb, cs: np.abs(cb - cs),
    "exclusion": lambda cb, cs: cb + cs - 2 * cb * cs,
}

_LUMA = np.array([0.11, 0.59, 0.30], np.float32)  # of blue, green, red


def _lum(colours: Colours) -> Colours:
    return (colours @ _LUMA)[..., None]


def _sat(colours: Colours) -> Colours:
    return (colours.max(axis=-1) - colours.min(axis=-1))[..., None]


def _set_lum(colours: Colours, lum: Colours) -> Colours:
    moved = colours + (lum - _lum(colours))
    low, high = moved.min(axis=-1, keepdims=True), moved.max(axis=-1, keepdims=True)
    middle = _lum(moved)
    moved = np.where(low < 0, middle + (moved - middle) * middle / np.maximum(middle - low, 1e-6), moved)
    return np.where(high > 1, middle + (moved - middle) * (1 - middle) / np.maximum(high - middle, 1e-6), moved)


def _set_sat(colours: Colours, sat: Colours) -> Colours:
    low = colours.min(axis=-1, keepdims=True)
    spread = colours.max(axis=-1, keepdims=True) - low
    return np.where(spread > 0, (colours - low) * sat / np.maximum(spread, 1e-6), 0.0).astype(np.float32)


_WHOLE: dict[str, _Join] = {
    "hue": lambda cb, cs: _set_lum(_set_sat(cs, _sat(cb)), _lum(cb)),
    "saturation": lambda cb, cs: _set_lum(_set_sat(cb, _sat(cs)), _lum(cb)),
    "color": lambda cb, cs: _set_lum(cs, _lum(cb)),
    "luminosity": lambda cb, cs: _set_lum(cb, _lum(cs)),
}
