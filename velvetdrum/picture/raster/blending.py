"""Blending two pictures: W3C Compositing and Blending, level 1, on premultiplied colours, with mask and opacity."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Coverage, Pixels, bytes_of, words_of
from velvetdrum.picture.raster.kernels import blending as kernels
from velvetdrum.picture.raster.kernels import mixing

_NO_MASK = np.zeros(0, np.uint8)


def blend(
    below: Pixels, above: Pixels, mode: str = "normal", mask: Coverage | None = None, opacity: float = 1.0
) -> None:
    """Blend `above` over `below`, both premultiplied BGRA, shape (height, width, 4), into `below`.

    `mode` is a blend mode of the W3C text, or plus-lighter. `mask`, shape (height, width), 0 to 255, and `opacity`,
    0 to 1, say how much of `above` there is.

    Parameters
    ----------
    below
        The picture that is written to, premultiplied BGRA, shape (height, width, 4).
    above
        The picture that lies above, premultiplied BGRA, shape (height, width, 4).
    mode
        A blend mode, as Compositing and Blending names it.
    mask
        How much of each pixel is let through, 0 to 255, shape (height, width); None for all.
    opacity
        0 to 1.
    """
    height, width = above.shape[:2]
    if not height or not width:
        return
    under, under_step = words_of(below)
    over, over_step = words_of(above)
    cover, cover_step = (_NO_MASK, 0) if mask is None else bytes_of(mask)
    kernels.BLENDS[mode](
        under, under_step, over, over_step, cover, cover_step, width, height, min(max(float(opacity), 0.0), 1.0)
    )


def tint(below: Pixels, colour: int, mask: Coverage) -> None:
    """Blend one premultiplied colour (0xaarrggbb) over `below`, through a mask of its size, into it.

    Parameters
    ----------
    below
        The picture that is written to, premultiplied BGRA, shape (height, width, 4).
    colour
        An opaque colour as a word, 0xffrrggbb.
    mask
        How much of each pixel is let through, 0 to 255, shape (height, width); None for all.
    """
    height, width = mask.shape
    if height and width:
        kernels.tint(*words_of(below), np.uint32(colour), *bytes_of(mask), width, height)


def weaken(pixels: Pixels, cover: NDArray[np.uint8]) -> None:
    """Premultiplied pixels as far as a cover of their size (0 to 255) lets them through, in place.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    cover
        How much of each pixel there is, 0 to 255, shape (height, width).
    """
    height, width = cover.shape
    if height and width:
        kernels.weaken(*words_of(pixels), *bytes_of(cover), width, height)


def apply_mask(pixels: Pixels, cover: NDArray[np.uint8]) -> Pixels:
    """As `weaken`, into a picture of its own.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    cover
        How much of each pixel there is, 0 to 255, shape (height, width).
    """
    out = pixels.copy()
    weaken(out, cover)
    return out


def replace(below: Pixels, above: Pixels, cover: Coverage | None = None, strength: float = 1.0) -> None:
    """Put a picture in place of another of its size, as far as a cover (0 to 255) and a strength (0 to 1) say: what
    lies between is the even mean of both. Into `below`.

    Parameters
    ----------
    below
        The picture that is written to, premultiplied BGRA, shape (height, width, 4).
    above
        The picture that lies above, premultiplied BGRA, shape (height, width, 4).
    cover
        How much of each pixel there is, 0 to 255, shape (height, width).
    strength
        How strong, 0 to 1.
    """
    height, width = above.shape[:2]
    if not height or not width:
        return
    if cover is None and strength >= 1:
        np.copyto(below, above)
        return
    under, under_step = words_of(below)
    over, over_step = words_of(above)
    mask, mask_step = (_NO_MASK, 0) if cover is None else bytes_of(cover)
    share = np.uint32(round(min(max(strength, 0.0), 1.0) * 65536))
    mixing.replace(under, under_step, over, over_step, mask, mask_step, share, width, height)
