"""Blending two pictures: W3C Compositing and Blending, level 1, on premultiplied colours."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.canvas import Pixels, is_opaque

Colours = NDArray[np.float32]
"""Blue, green, red from 0 to 1, shape (..., 3)."""


_NONE = np.zeros(0, np.intp)
_SPARSE = 0.12
"""Up to this share of half-covered pixels, they are gathered and worked out alone."""


@dataclass(frozen=True)
class Edges:
    """The pixels of a picture that are neither solid nor nothing: rows, columns and their premultiplied values; and a
    mask of those that are solid, shape (height, width), 255 where one is."""

    rows: NDArray[np.intp]
    columns: NDArray[np.intp]
    values: NDArray[np.uint16]
    solid: NDArray[Any]

    @classmethod
    def of(cls, pixels: Pixels) -> Edges | None:
        """The edges of a picture; None where they are so many that it is quicker to work out all of it."""
        alpha = cv2.extractChannel(pixels, 3)
        between = cv2.inRange(alpha, 1, 254)
        some = cv2.countNonZero(between)
        if some > _SPARSE * alpha.size:
            return None
        rows, columns = _places(between) if some else (_NONE, _NONE)
        return cls(rows, columns, pixels[rows, columns].astype(np.uint16), cv2.inRange(alpha, 255, 255))


def blend_over(below: Pixels, above: Pixels, mode: str, opaque: bool, edges: Edges | None = None) -> None:
    """As `blended`, written into `below`; `opaque` says that all of `below` is known to be solid. `edges` are those of
    `above`, where they are known.

    Most of what figures cover is solid or nothing: what is solid is copied, and only the edges are worked out.
    """
    found = (edges or Edges.of(above)) if mode == "normal" else None
    if found is None:
        np.copyto(below, blended(below, above, mode, opaque))
        return
    kept = below[found.rows, found.columns] * (255 - found.values[:, 3:])
    cv2.copyTo(above, found.solid, below)
    below[found.rows, found.columns] = (found.values + (kept + 127) // 255).astype(np.uint8)


def weakened(pixels: Pixels, cover: NDArray[np.uint8]) -> Pixels:
    """Premultiplied pixels as far as a cover of their size (0 to 255) lets them through."""
    between = cv2.inRange(cover, 1, 254)
    some = cv2.countNonZero(between)
    if some > _SPARSE * cover.size:
        return np.asarray(cv2.multiply(pixels, cv2.merge([cover] * 4), scale=1 / 255), np.uint8)
    out = np.zeros(pixels.shape, np.uint8)
    cv2.copyTo(pixels, cv2.inRange(cover, 255, 255), out)
    rows, columns = _places(between) if some else (_NONE, _NONE)
    share = cover[rows, columns].astype(np.uint16)[:, None]
    out[rows, columns] = ((pixels[rows, columns] * share + 127) // 255).astype(np.uint8)
    return out


def _places(marked: NDArray[Any]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Rows and columns of the pixels that are not 0. Counted along one line, which is several times as fast."""
    found = np.flatnonzero(marked.ravel() != 0)
    rows = found // marked.shape[1]
    return rows, found - rows * marked.shape[1]


def blended(below: Pixels, above: Pixels, mode: str, opaque: bool | None = None) -> Pixels:
    """`above` over `below`, both premultiplied BGRA of one size, joined by a blend mode of the W3C text or by
    plus-lighter. `opaque` says whether all of `below` is known to be solid; None: it is looked at.

    With source s, backdrop b, colours C and alphas a: co = as (1 - ab) Cs + as ab B(Cb, Cs) + (1 - as) ab Cb.
    """
    if mode == "plus-lighter":
        return np.asarray(cv2.add(below, above), np.uint8)
    if opaque is None and mode in ("multiply", "screen"):
        opaque = is_opaque(below)
    if mode == "screen" and opaque:
        return _opaque(cv2.add(below, cv2.multiply(above, cv2.bitwise_not(below), scale=1 / 255)))
    if mode == "normal" or (mode == "multiply" and opaque):
        alpha = cv2.extractChannel(above, 3)
        through = cv2.bitwise_not(cv2.merge([alpha, alpha, alpha, alpha]))
        if mode == "multiply":
            return _opaque(cv2.multiply(below, cv2.add(above, through), scale=1 / 255))
        return np.asarray(cv2.add(cv2.multiply(below, through, scale=1 / 255), above), np.uint8)
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
