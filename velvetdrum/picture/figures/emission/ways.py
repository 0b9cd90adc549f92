"""What leads and bounds particles on their way: a point or an outline that attracts them, walls and a floor."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.settings import choice, flag, layer, number
from velvetdrum.declare.vocabulary import degrees, percent, position_x, position_y
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.figures.emission.motion import attracted, bounced, folded
from velvetdrum.picture.outlines.paths import PathError, fitted, path_outline
from velvetdrum.picture.raster.viewport import Box, Viewport

Values = NDArray[np.float64]

_POINT = ("attract_to", ("point",))
_LAYER = ("attract_to", ("layer",))
_FLOOR = ("walls", ("floor",))


class Ways(DrawnLayer):
    """Settings of what acts on particles beside forces."""

    before_s: float = number(
        0,
        lo=0,
        hi=60,
        unit="s",
        step=0.1,
        label="As if it had run for",
        group="motion",
        help="Particles are there from the layer's start on as they are after so long.",
        advanced=True,
    )
    stays: bool = flag(
        False,
        label="Left behind",
        group="motion",
        help="Each stays where the shape was at its birth, so that a shape that moves leaves a trail.",
    )
    turning_spread: float = percent(
        0, step=1, label="Spin spread", group="motion", help="How far spins differ from each other.", advanced=True
    )
    start_angle: float = degrees(
        0, label="Starting angle", group="motion", help="Angle of each at its birth.", advanced=True
    )
    start_spread: float = degrees(
        0, lo=0, label="Angle spread", group="motion", help="How far starting angles differ, by chance.", advanced=True
    )
    attract_to: str = choice(
        "none",
        {"none": "Nothing", "point": "A point", "layer": "A layer's outline"},
        label="Attracted by",
        group="motion",
        help="What particles are drawn to on their way.",
    )
    attract_x: float = position_x(50, of="the point", group="motion", when=_POINT)
    attract_y: float = position_y(50, of="the point", group="motion", when=_POINT)
    attract_layer: str = layer(
        label="Attracting layer", group="motion", help="Each is drawn to a place of its own on it.", when=_LAYER
    )
    attract: float = number(
        1,
        lo=0,
        hi=20,
        unit="1/s",
        step=0.05,
        label="Attraction",
        group="motion",
        help="How fast what is left of the way shrinks.",
        when=("attract_to", ("point", "layer")),
    )
    walls: str = choice(
        "none",
        {"none": "Nothing", "frame": "The frame", "floor": "A floor"},
        label="Bounce on",
        group="motion",
        help="What throws particles back. On a floor they fall without drag.",
    )
    floor: float = position_y(90, of="the floor", group="motion", when=_FLOOR)
    bounce: float = percent(
        60, step=1, group="motion", help="Speed that is kept at each bounce on the floor.", when=_FLOOR
    )

    def led(
        self,
        places: Values,
        vertical: tuple[Values, Values],
        gravity: float,
        ages: Values,
        chances_: Values,
        view: Viewport,
        at: RenderContext,
    ) -> Values:
        """Places in per cent of the short side about the frame's middle, shape (n, 3), as what leads and bounds them
        makes them.

        Parameters
        ----------
        places
            Where they would be by forces alone.
        vertical
            Where they began, downward, and how fast, per second.
        gravity
            Per second squared, downward.
        ages
            Seconds since their birth.
        chances_
            A chance each, 0 to 1: its place on an outline.
        view
            The frame.
        at
            The time.
        """
        unit = view.short / 100
        if self.walls == "floor":
            ground = (view.y(self.floor) - view.height / 2) / unit
            places = places.copy()
            places[:, 1] = bounced(*vertical, gravity, ground, self.bounce / 100, ages)
        if self.attract_to != "none" and self.attract > 0:
            places = attracted(places, self._targets(chances_, view, at), self.attract, ages)
        if self.walls == "frame":
            half = np.array([view.width, view.height]) / 2 / unit
            places = places.copy()
            for axis in (0, 1):
                places[:, axis] = folded(places[:, axis], -half[axis], half[axis])
        return places

    def _targets(self, places: Values, view: Viewport, at: RenderContext) -> Values:
        middle, unit = np.array([view.width / 2, view.height / 2]), view.short / 100
        if self.attract_to == "point" or not self.attract_layer or at.picture_of is None or at.project is None:
            point = (np.array([view.x(self.attract_x), view.y(self.attract_y)]) - middle) / unit
            return np.broadcast_to(point, (len(places), 2))
        box = at.picture_of(self.attract_layer, at.time, view).box
        other: Any = at.project.by_id[self.attract_layer].layer
        return (_on_outline(other, places, box, view, at) - middle) / unit


def _on_outline(other: DrawnLayer, places: Values, box: Box, view: Viewport, at: RenderContext) -> Values:
    """Places along a layer's outlines, in pixels; along its box where it has none."""
    left, top, right, bottom = box.left, box.top, box.right, box.bottom
    data = f"M{left} {top}H{right}V{bottom}H{left}Z"
    try:
        path = other.outlines(view, at)
    except PathError:
        path = None
    if path is not None:
        data, box = path.data, path.box
    outline = fitted(path_outline(data), max(box.right - box.left, box.bottom - box.top, 1.0))
    moved = outline.moved(0.0, (box.left + box.right) / 2, (box.top + box.bottom) / 2)
    return moved.at(places)[0]
