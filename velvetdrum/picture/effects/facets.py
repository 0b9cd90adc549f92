"""Facets: the picture through cut glass, a little moved and turned in each facet."""

from __future__ import annotations

from typing import ClassVar

import cv2
import numpy as np

from velvetdrum.declare.settings import number
from velvetdrum.declare.vocabulary import degrees, percent, seed
from velvetdrum.picture.bases.bend import Bend
from velvetdrum.picture.bases.effect_context import EffectContext
from velvetdrum.picture.raster.areas import Area
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.raster.warp import Maps, as_maps, grid
from velvetdrum.scene.effects import effect_kind


@effect_kind("facets", "Facets")
class Facets(Bend):
    """Breaks the picture into facets, each of which shows it from its own side."""

    summary: ClassVar[str] = "Facets|{size}"

    size: float = number(14, lo=1, hi=100, unit="%", group="effect", help="How large a facet is, of the short side.")
    shift: float = number(4, lo=0, hi=50, unit="%", group="effect", help="How far each moves the picture.")
    turn: float = degrees(
        8, lo=0, hi=180, group="effect", label="Rotation", help="Largest angle by which a facet turns the picture."
    )
    uneven: float = percent(70, step=1, group="effect", help="How irregular the facets are.")
    seed: int = seed(of="other facets", group="effect")

    def places(self, view: Viewport, area: Area, context: EffectContext) -> Maps:
        x, y = grid(area)
        cell = self.size * view.short / 100
        columns, rows = int(view.width / cell) + 5, int(view.height / cell) + 5
        draws = np.random.Generator(np.random.PCG64(self.seed)).random((rows, columns, 5)).astype(np.float32)
        middles = (draws[..., :2] - np.float32(0.5)) * np.float32(self.uneven / 100)
        middles[..., 0] += np.arange(columns, dtype=np.float32)[None, :] - 2 + np.float32(0.5)
        middles[..., 1] += np.arange(rows, dtype=np.float32)[:, None] - 2 + np.float32(0.5)
        middles *= np.float32(cell)
        # Whose middle is nearest: OpenCV labels the pixels of a picture with one zero each; a margin holds those
        # beyond the frame.
        margin = int(2 * cell)
        places = np.full((view.height + 2 * margin, view.width + 2 * margin), 255, np.uint8)
        columns_, rows_ = np.rint(middles[..., 0] + margin - 0.5), np.rint(middles[..., 1] + margin - 0.5)
        inside = (rows_ >= 0) & (rows_ < places.shape[0]) & (columns_ >= 0) & (columns_ < places.shape[1])
        at = rows_[inside].astype(int), columns_[inside].astype(int)
        places[at] = 0
        _, labels = cv2.distanceTransformWithLabels(places, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
        order = np.zeros(int(labels.max()) + 1, int)
        order[labels[at]] = np.arange(len(at[0]))
        top, left = area[1] + margin, area[0] + margin
        rows_in = np.clip(np.arange(top, top + area[3] - area[1]), 0, places.shape[0] - 1)
        columns_in = np.clip(np.arange(left, left + area[2] - area[0]), 0, places.shape[1] - 1)
        of = order[labels[np.ix_(rows_in, columns_in)]]
        cx, cy = middles[inside][:, 0][of], middles[inside][:, 1][of]
        sides = draws[inside]
        angle = (sides[:, 4] - np.float32(0.5)) * np.float32(2 * np.deg2rad(self.turn))
        away = np.float32(2 * self.shift * view.short / 100)
        cos, sin = np.cos(angle)[of], np.sin(angle)[of]
        dx, dy = x - cx, y - cy
        u = cx + dx * cos - dy * sin + ((sides[:, 2] - np.float32(0.5)) * away)[of]
        v = cy + dx * sin + dy * cos + ((sides[:, 3] - np.float32(0.5)) * away)[of]
        return as_maps(u, v, area)
