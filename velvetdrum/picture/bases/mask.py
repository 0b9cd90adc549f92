"""What masks let through: the masks of a layer drawn one by one and joined, as CSS Masking does with mask layers."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Area, Coverage, Pixels
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box
from velvetdrum.scene.masks import Mask


@dataclass(frozen=True)
class MaskTarget:
    """What masks are drawn for: the frame, the placing of the layer that they belong to, and a way to other layers."""

    canvas: Canvas
    matrix: NDArray[np.float64] | None
    """Where the layer's points come to lie, in pixels, shape (3, 3); None where it stays."""
    drawn: Callable[[str, Area], Pixels]
    """Another layer by its id, alone, on nothing, premultiplied: the pixels of an area."""


class DrawnMask(Mask):
    """A mask kind that is drawn."""

    def cover(self, target: MaskTarget, area: Area) -> Coverage:
        """What it lets through in an area, before it is inverted, weakened or joined."""
        raise NotImplementedError

    def bounds(self, target: MaskTarget) -> Box | None:
        """The box outside of which it lets nothing through, in pixels of the frame; None where it does not say."""
        return None


def joined_cover(masks: Sequence[DrawnMask], target: MaskTarget, area: Area) -> Coverage | None:
    """What all masks of a layer let through in an area together; None without masks.

    The first one stands alone, or takes away from all; each further one adds to what is there, takes away from it, or
    leaves what both let through.
    """
    result: Coverage | None = None
    for mask in masks:
        cover = mask.cover(target, area)
        if mask.invert:
            cover = _inverted(cover)
        if mask.strength < 100:
            # A weaker mask lets through what it holds back, by that much.
            share = mask.strength / 100
            cover = np.asarray(cv2.convertScaleAbs(cover, alpha=share, beta=255 * (1 - share)), np.uint8)
        result = _joined(result, cover, mask.join)
    return result


def _joined(below: Coverage | None, cover: Coverage, join: str) -> Coverage:
    if join == "subtract":
        kept = _inverted(cover)
        return kept if below is None else _product(below, kept)
    if below is None:
        return cover
    if join == "intersect":
        return _product(below, cover)
    # Source over of coverages: a + b - ab.
    return np.asarray(cv2.add(cover, cv2.multiply(below, _inverted(cover), scale=1 / 255)), np.uint8)


def _product(one: Coverage, other: Coverage) -> Coverage:
    return np.asarray(cv2.multiply(one, other, scale=1 / 255), np.uint8)


def _inverted(cover: Coverage) -> Coverage:
    return np.asarray(cv2.bitwise_not(cover), np.uint8)
