"""Where layers lie in a frame: the boxes that they are handled by, and what falls outside or under a channel's own
words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.bases.mask import DrawnMask, MaskTarget
from velvetdrum.picture.frame.render import ProjectView
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box
from velvetdrum.picture.space.placement import matrix, placed_at
from velvetdrum.scene.document import Project
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.placed_layers import PlacedLayer
from velvetdrum.signals.audio_range import AudioRange

_CORNERS = ((0, 1), (2, 1), (2, 3), (0, 3))


@dataclass(frozen=True)
class Handle:
    """How a layer lies at one time, in pixels of a frame. `box` is left, top, right and bottom before it is placed;
    `place` leads from there to the frame, `above` from inside the groups that it is in: affine, row by row, six
    numbers each. `corners` are those of the box in the frame: top left, top right, bottom right, bottom left."""

    id: str
    box: tuple[float, float, float, float]
    place: tuple[float, ...]
    above: tuple[float, ...]
    corners: tuple[tuple[float, float], ...]
    shown: bool
    seen: tuple[float, float, float, float]
    """Left, top, right and bottom in the frame of what its masks leave of it."""
    projection: tuple[float, ...] = ()
    """Of a layer with balls: from a point of its own space, homogeneous, in per cent of the short side from its middle,
    to pixels of the frame times depth, and depth; row by row, twelve numbers."""
    axis: tuple[tuple[float, float], tuple[float, float]] | None = None
    """Begin and end of the way of levels that it shows, before it is placed; None for one that has none."""


@dataclass(frozen=True)
class OverlayArea:
    """A part of a frame where a channel usually lays words or buttons of its own, in pixels."""

    name: str
    left: float
    top: float
    width: float
    height: float


def overlay_areas(size: FrameSize) -> tuple[OverlayArea, ...]:
    """The areas of a frame of this size that channels usually cover: measured by eye, wide enough for most."""
    width, height = size.width, size.height
    if size.shape == "tall":
        return (
            OverlayArea("the channel's title", 0, 0, width, height * 0.12),
            OverlayArea("the channel's caption", 0, height * 0.79, width, height * 0.21),
            OverlayArea("the channel's buttons", width * 0.86, height * 0.44, width * 0.14, height * 0.35),
        )
    return (OverlayArea("the channel's progress line", 0, height * 0.86, width, height * 0.14),)


def handles(
    project: Project, use: AudioRange | None, time: Fraction, size: FrameSize, media: Mapping[str, str] | None = None
) -> list[Handle]:
    """The handles of all layers at a time, in a frame of a size, in the order of the layers."""
    work = _Placing(project, use, time, size, media)
    return [work.handle(placed) for placed in project.layers]


class _Placing:
    def __init__(
        self, project: Project, use: AudioRange | None, time: Fraction, size: FrameSize, media: Mapping[str, str] | None
    ) -> None:
        self.project = project
        self.stage = ProjectView(project, use, media).at(time, size)
        # Only its size is asked for.
        self.canvas = Canvas(size.width, size.height)
        self.members: dict[str, list[PlacedLayer]] = {}
        for placed in project.layers:
            self.members.setdefault(placed.group, []).append(placed)

    def handle(self, placed: PlacedLayer) -> Handle:
        shown = self.stage.shown(placed)
        box = self._box(placed)
        above = self._above(placed)
        place = matrix(shown.layer, self.canvas.width, self.canvas.height)
        corners = _through(above @ place, box)
        there = shown.presence > 0 and placed.visible and self._is_in(placed)
        edges = (box.left, box.top, box.right, box.bottom)
        eye = self._projection(placed, above @ place) if shown.layer.balls else ()
        axis = shown.layer.level_axis(self.canvas, self.stage.moment(shown.layer)) if shown.layer.level_scale else None
        return Handle(placed.id, edges, _row(place), _row(above), corners, there, self._seen(placed), eye, axis)

    def _projection(self, placed: PlacedLayer, flat: NDArray[np.float64]) -> tuple[float, ...]:
        layer = self.stage.shown(placed).layer
        around = self.stage.shown(self.project.by_id[placed.group]).layer if placed.group else None
        if around is not None and not around.members_lie_flat and layer.in_space == "in":
            camera = around.standing(self.canvas, self.stage.moment(around))
            whole = camera.matrix @ placed_at(layer, self.canvas) if camera else None
        else:
            camera = layer.standing(self.canvas, self.stage.moment(layer))
            whole = flat @ camera.matrix if camera else None
        return () if whole is None else tuple(float(value) for value in whole.ravel())

    def _seen(self, placed: PlacedLayer) -> tuple[float, float, float, float]:
        shown, above = self.stage.shown(placed), self._above(placed)
        place = matrix(shown.layer, self.canvas.width, self.canvas.height)
        points = np.array(_through(above @ place, self._box(placed)))
        low, high = points.min(axis=0), points.max(axis=0)
        parts = [self._mask_bounds(mask, place, above) for mask in shown.masks]
        plain = all(mask.join == "add" and not mask.invert for mask in shown.masks)
        if parts and plain and all(part is not None for part in parts):
            result = np.array(parts, float)
            low = np.maximum(low, result[:, :2].min(axis=0))
            high = np.maximum(np.minimum(high, result[:, 2:].max(axis=0)), low)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def _mask_bounds(
        self, mask: DrawnMask, place: NDArray[np.float64], above: NDArray[np.float64]
    ) -> tuple[float, float, float, float] | None:
        if mask.layers():
            return self._seen(self.project.by_id[mask.layers()[0]])
        box = mask.bounds(MaskTarget(self.canvas, place, lambda ident, area: self.canvas.pixels))
        if box is None:
            return None
        points = np.array(_through(above, box))
        low, high = points.min(axis=0), points.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def _box(self, placed: PlacedLayer) -> Box:
        shown = self.stage.shown(placed)
        if not placed.layer.holds_members:
            return shown.layer.extent(self.canvas, self.stage.moment(shown.layer))
        points: list[tuple[float, float]] = []
        for member in self.members.get(placed.id, []):
            layer = self.stage.shown(member).layer
            points += _through(matrix(layer, self.canvas.width, self.canvas.height), self._box(member))
        if not points:
            return Box(0.0, 0.0, float(self.canvas.width), float(self.canvas.height))
        low, high = np.min(points, axis=0), np.max(points, axis=0)
        return Box(float(low[0]), float(low[1]), float(high[0]), float(high[1]))

    def _above(self, placed: PlacedLayer) -> NDArray[np.float64]:
        out = np.eye(3)
        while placed.group:
            placed = self.project.by_id[placed.group]
            out = matrix(self.stage.shown(placed).layer, self.canvas.width, self.canvas.height) @ out
        return out

    def _is_in(self, placed: PlacedLayer) -> bool:
        while placed.group:
            placed = self.project.by_id[placed.group]
            if not placed.visible or self.stage.shown(placed).presence <= 0:
                return False
        return True


def _through(place: NDArray[np.float64], box: Box) -> tuple[tuple[float, float], ...]:
    edges = (box.left, box.top, box.right, box.bottom)
    result = (place @ (edges[x], edges[y], 1.0) for x, y in _CORNERS)
    return tuple((float(point[0]), float(point[1])) for point in result)


def _row(place: NDArray[np.float64]) -> tuple[float, ...]:
    return tuple(float(value) for value in place[:2].ravel())


def misfits(project: Project, found: list[Handle], size: FrameSize) -> list[str]:
    """A sentence for every layer that reaches out of the frame, or under what a channel lays over it.

    What covers the whole frame is a ground and may; so may members, where their group is named.
    """
    out = []
    areas = overlay_areas(size)
    for placed, handle in zip(project.layers, found, strict=True):
        low, high = np.array(handle.seen[:2]), np.array(handle.seen[2:])
        whole = low[0] <= 1 and low[1] <= 1 and high[0] >= size.width - 1 and high[1] >= size.height - 1
        if not handle.shown or whole or placed.layer.holds_members or not (high > low).all():
            continue
        inside = np.minimum(high, (size.width, size.height)) - np.maximum(low, 0)
        share = 1 - float(np.prod(np.maximum(inside, 0)) / np.prod(high - low))
        if share > 0.01:
            out.append(f"{placed.name} lies {share:.0%} outside of the {size.shape} frame.")
        for area in areas:
            common = np.minimum(high, (area.left + area.width, area.top + area.height)) - np.maximum(
                low, (area.left, area.top)
            )
            if (common > 2).all():
                out.append(f"{placed.name} lies under {area.name} in the {size.shape} frame.")
    return out


def layer_notes(
    project: Project, use: AudioRange | None, time: Fraction, media: Mapping[str, str] | None
) -> dict[str, list[str]]:
    """What a person should know of how layers are drawn at a time, as sentences by the layer's id."""
    stage = ProjectView(project, use, media).at(time, project.frame)
    result = {}
    for placed in project.layers:
        item = stage.shown(placed)
        if notes := item.layer.notes(stage.moment(item.layer, item.placed)):
            result[placed.id] = notes
    return result
