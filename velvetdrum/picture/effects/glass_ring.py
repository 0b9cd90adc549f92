"""Glass ring: an annulus that bends what lies under it."""

from __future__ import annotations

from math import ceil, floor, sqrt
from typing import ClassVar

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, number, whole
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.effect import DrawnEffect, ReadScope
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area, Coverage
from velvetdrum.picture.raster.blending import apply_mask, replace
from velvetdrum.picture.raster.layer_image import LayerImage
from velvetdrum.picture.raster.light import limited
from velvetdrum.picture.raster.viewport import Box, Viewport, common, is_empty
from velvetdrum.picture.raster.warp import AboutTable, Maps, cut_facets, fetched, maps_about, table_about
from velvetdrum.scene.designs import Design
from velvetdrum.scene.effects import effect_kind

_BAND = 64
"""Rows of a band, and the least columns that are worth leaving out."""


@effect_kind("glass-ring", "Glass ring")
class GlassRing(DrawnEffect):
    """A ring of glass over the picture: light is bent in it, the more the nearer to its edges."""

    family: ClassVar[str] = "bend"
    summary: ClassVar[str] = "Glass ring|{radius}|{bend}"
    points: ClassVar[tuple[tuple[str, str], ...]] = (("x", "y"),)
    turns: ClassVar[str] = "turn"
    radii: ClassVar[tuple[str, ...]] = ("radius",)
    reads: ClassVar[frozenset[ReadScope]] = frozenset({"own", "behind"})
    designs: ClassVar[tuple[Design, ...]] = (
        Design("bend", "Glass ring", {}),
        Design("bend", "Cut glass ring", {"facets": 12, "bend": 60, "dispersion": 20}),
    )

    under: str = choice(
        "own",
        {"own": "This layer", "behind": "What is behind it"},
        label="Bends",
        group="effect",
        help="The layer's own picture; or what is behind the layer, of which then only the ring is shown.",
    )
    x: float = number(
        50, lo=-100, hi=200, unit="%", label="Position X", group="effect", help="Position X of the middle."
    )
    y: float = number(
        50, lo=-100, hi=200, unit="%", label="Position Y", group="effect", help="Position Y of the middle."
    )
    radius: float = number(30, lo=0, hi=200, unit="%", group="effect", help="From the middle to that of the glass.")
    width: float = number(12, lo=0.1, hi=100, unit="%", group="effect", help="How wide the glass is.")
    bend: float = number(
        40,
        lo=-200,
        hi=200,
        unit="%",
        step=1,
        label="Refraction",
        group="effect",
        help="How far it bends, of its width.",
    )
    turn: float = degrees(
        0, lo=-3600, hi=3600, group="effect", label="Rotation", help="Angle by which the picture in the ring is turned."
    )
    facets: int = whole(0, lo=0, hi=64, group="effect", help="Cuts round the ring; 0 for a smooth one.")
    dispersion: float = percent(8, step=1, group="effect", help="How much further blue is bent than red.")
    softness: float = number(
        1, lo=0, hi=50, unit="%", group="effect", help="Width over which its edges fade, of the short side."
    )

    @property
    def still(self) -> bool:
        return self.under == "own"

    @property
    def looks_behind(self) -> bool:
        return self.under == "behind"

    def apply(self, image: LayerImage, context: EffectContext) -> LayerImage:
        view = context.view
        centre = view.x(self.x), view.y(self.y)
        middle, half = self.radius * view.short / 100, self.width * view.short / 200
        soft = max(self.softness * view.short / 100, 1.0)
        reach = middle + half + soft
        box = Box(centre[0] - reach, centre[1] - reach, centre[0] + reach, centre[1] + reach).pixels(context.wanted)
        behind = self.under == "behind"
        if is_empty(box) or (image.empty and not behind):
            return LayerImage(box[0], box[1], np.zeros((0, 0, 4), np.uint8)) if behind else image
        under = context.behind.within(view.frame) if behind else image
        # Nothing is shown of what lies inside of the ring and beside it, and nothing is fetched for it.
        areas = _ring_areas(box, centre, middle - half - soft, middle + half + soft)
        glass = self._bent(under, view, box, areas, centre, middle, half)
        cover = _annulus(box, areas, centre, middle, half, soft)
        if behind:
            return LayerImage(box[0], box[1], apply_mask(glass.pixels, cover))
        whole_ = common(context.wanted, view.frame)
        out = image.spread(whole_) if image.bounds != whole_ else image.pixels.copy()
        inside = common(box, whole_)
        part = np.s_[inside[1] - whole_[1] : inside[3] - whole_[1], inside[0] - whole_[0] : inside[2] - whole_[0]]
        cut = np.s_[inside[1] - box[1] : inside[3] - box[1], inside[0] - box[0] : inside[2] - box[0]]
        replace(out[part], glass.pixels[cut], np.ascontiguousarray(cover[cut]), 1.0)
        return LayerImage(whole_[0], whole_[1], out)

    def _bent(
        self,
        under: LayerImage,
        view: Viewport,
        box: Area,
        areas: tuple[Area, ...],
        centre: tuple[float, float],
        middle: float,
        half: float,
    ) -> LayerImage:
        turned = (self.turn, self.facets, self.bend)
        if self.dispersion <= 0:
            out = np.zeros((box[3] - box[1], box[2] - box[0], 4), np.uint8)
            under = under if under.bounds == view.frame else LayerImage(*view.frame[:2], under.spread(view.frame))
            for area in areas:
                maps = _maps(area, centre, middle, half, turned, 1.0)
                out[_within(area, box)] = fetched(under, view, maps, area, "mirror").pixels
            return LayerImage(box[0], box[1], out)
        # Blue is bent further, red less; green and what there is at all lie between.
        whole_ = under.pixels if under.bounds == view.frame else under.spread(view.frame)
        parts = []
        for channel, more in ((0, 1.0), (1, 0.0), (2, -1.0), (3, 0.0)):
            maps = _maps(box, centre, middle, half, turned, 1 + more * self.dispersion / 100)
            plane = cv2.extractChannel(whole_, channel)
            parts.append(cv2.remap(plane, *maps, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT))
        return LayerImage(box[0], box[1], limited(np.asarray(cv2.merge(parts), np.uint8)))


@cached
def _maps(
    area: Area, centre: tuple[float, float], middle: float, half: float, turned: tuple[float, int, float], more: float
) -> Maps:
    """Where an area's pixels come from; see `_table`."""
    turn, facets, bend = turned
    maps = maps_about(area, centre, _table(middle, half, turn, bend, more))
    if facets:
        cut_facets(maps, area, centre, facets, np.deg2rad(turn), half * abs(bend) / 250)
    return maps


@cached
def _table(middle: float, half: float, turn: float, bend: float, more: float) -> AboutTable:
    """As a lens across the ring: a place at -1 to 1 of its width is fetched from further out or in by the square of
    that, so that both edges meet what is beside them and the middle shows itself."""

    def way(away: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        across = np.clip((away - middle) / half, -1.0, 1.0)
        bent = away - bend / 100 * more * half * 2 * across * (1 - across**2) * 1.3
        inside = np.clip((1 - np.abs(across)) * 6, 0, 1)
        return bent / np.maximum(away, 1e-6), np.deg2rad(turn) * inside

    return table_about(middle + half * 2 + 2, way)


def _within(area: Area, box: Area) -> tuple[slice, slice]:
    """An area as rows and columns of a box."""
    return np.s_[area[1] - box[1] : area[3] - box[1], area[0] - box[0] : area[2] - box[0]]


@cached
def _ring_areas(box: Area, centre: tuple[float, float], inner: float, outer: float) -> tuple[Area, ...]:
    """Areas of a box that hold all of a ring about a point, in bands of rows: one of each band, or one on either side
    of what the ring leaves open."""
    result = []
    for top in range(box[1], box[3], _BAND):
        bottom = min(top + _BAND, box[3])
        first, last = top - centre[1], bottom - centre[1]
        near, far = 0.0 if first <= 0 <= last else min(abs(first), abs(last)), max(abs(first), abs(last))
        if near >= outer:
            continue
        wide = sqrt(outer**2 - near**2)
        open_ = sqrt(inner**2 - far**2) if inner > far else 0.0
        left, right = max(floor(centre[0] - wide), box[0]), min(ceil(centre[0] + wide), box[2])
        within = max(ceil(centre[0] - open_), left), min(floor(centre[0] + open_), right)
        if within[1] - within[0] < _BAND:
            within = right, right
        result += [(begin, top, end, bottom) for begin, end in ((left, within[0]), (within[1], right)) if end > begin]
    return tuple(result)


@cached
def _annulus(
    box: Area, areas: tuple[Area, ...], centre: tuple[float, float], middle: float, half: float, soft: float
) -> Coverage:
    """How much of each pixel of a box lies in a ring whose edges fade over `soft` pixels, 0 to 255; `areas` hold all of
    it."""
    out = np.zeros((box[3] - box[1], box[2] - box[0]), np.uint8)
    for area in areas:
        x = np.arange(area[0], area[2], dtype=np.float32) + np.float32(0.5 - centre[0])
        y = np.arange(area[1], area[3], dtype=np.float32) + np.float32(0.5 - centre[1])
        away = cv2.sqrt(np.add.outer(y * y, x * x))
        result = (np.float32(half) - np.abs(away - np.float32(middle))) / np.float32(soft) + np.float32(0.5)
        out[_within(area, box)] = cv2.convertScaleAbs(np.clip(result, 0, 1), alpha=255)
    return out
