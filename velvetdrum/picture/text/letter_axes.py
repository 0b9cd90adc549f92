"""Letters at places of their own on the axes of a variable typeface."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.text.glyph_marks import Glyphs, glyph_paths
from velvetdrum.picture.typesetting.layout import Layout, TextSpec, laid_out

AXES = {
    "wght": "Weight",
    "wdth": "Width",
    "opsz": "Optical size",
    "slnt": "Slant",
    "SOFT": "Softness",
    "CASL": "Casual",
}
"""Axes of variable typefaces that signals can move, by their tags: those registered in OpenType, and two of ours."""

_SPREADING = ("wdth",)
_RESTS = {"wdth": 100.0, "opsz": 14.0}
"""Where axes stand that a text does not set; others at 0."""
_STEPS = 24
"""Places between none and all of a movement: each has outlines of its own, which are kept."""

Values = NDArray[np.float64]


def varied(glyphs: Glyphs, spec: TextSpec, axis: str, amount: float, levels: Values) -> Glyphs:
    """Glyphs whose outlines are those of other places on an axis, each by its level (0 to 1) of an amount. Their
    middles stay, but for the axis of width: there letters make room for each other, and the middle of each line stays.
    As they are where the typeface has other glyphs there.

    Parameters
    ----------
    glyphs
        The glyphs of a text.
    spec
        What they were laid out from.
    axis
        Tag of an axis.
    amount
        How far the axis is moved at level 1, in its own units.
    levels
        A level each, 0 to 1.
    """
    steps = np.rint(np.clip(levels, 0.0, 1.0) * _STEPS).astype(int)
    base = laid_out(spec)
    paths, boxes, pivots = list(glyphs.paths), glyphs.boxes.copy(), glyphs.pivots.copy()
    wider = np.zeros(len(paths))
    for step in np.unique(steps[steps > 0]).tolist():
        other = moved_spec(spec, axis, amount * step / _STEPS)
        layout = laid_out(other)
        if len(layout.glyph) != len(base.glyph) or not np.array_equal(layout.char, base.char):
            continue
        own, own_boxes = glyph_paths(other)
        for index in np.flatnonzero(steps == step).tolist():
            paths[index], boxes[index] = own[index], own_boxes[index]
            pivots[index, 0] = layout.advance[index] / 2
            wider[index] = layout.advance[index] - base.advance[index]
    if axis not in _SPREADING or not wider.any():
        return glyphs.changed(paths=paths, boxes=boxes, pivots=pivots)
    by = _room(base, wider) * glyphs.scale
    x, y = glyphs.x + by * np.cos(glyphs.angles), glyphs.y + by * np.sin(glyphs.angles)
    return glyphs.changed(paths=paths, boxes=boxes, pivots=pivots, x=x, y=y)


def _room(layout: Layout, wider: Values) -> Values:
    """How far each glyph moves along its line, for all of a line to have room about its middle."""
    result = np.zeros(len(wider))
    for row in np.unique(layout.row).tolist():
        here = np.flatnonzero(layout.row == row)
        here = here[np.argsort(layout.x[here], kind="stable")]
        own = wider[here]
        result[here] = np.cumsum(own) - own / 2 - own.sum() / 2
    return result


def moved_spec(spec: TextSpec, axis: str, by: float) -> TextSpec:
    """A text with an axis of its typeface moved, in the units of that axis.

    Parameters
    ----------
    spec
        The text.
    axis
        Tag of an axis.
    by
        How far.
    """
    if axis == "wght":
        return replace(spec, weight=float(np.clip(spec.weight + by, 1.0, 1000.0)))
    places = dict(spec.axes)
    places[axis] = places.get(axis, _RESTS.get(axis, 0.0)) + by
    return replace(spec, axes=tuple(places.items()))
