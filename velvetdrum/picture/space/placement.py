"""Where a layer stands in its frame and in a space: what its settings say of it, as one matrix."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.picture.space.camera import Values, turns
from velvetdrum.scene.kinds import Layer


def placed_at(layer: Layer, view: Viewport) -> Values:
    """From a layer's own frame, its middle at 0 and per cent of the short side as the unit, to space, shape (4, 4):
    first moved, scaled and turned in its plane as it would be in the frame, then turned about its anchor out of the
    plane, and brought toward the viewer.

    Parameters
    ----------
    layer
        A layer with its settings.
    view
        The frame that it is seen in.
    """
    unit = view.short / 100
    flat = matrix(layer, view.width, view.height)
    middle = np.array([view.width, view.height]) / 2
    own = np.eye(4)
    own[:2, :2] = flat[:2, :2]
    own[:2, 3] = (flat[:2, :2] @ middle + flat[:2, 2] - middle) / unit
    own[2, 2] = np.sqrt(abs(np.linalg.det(flat[:2, :2])))
    anchor = np.zeros(4)
    at = np.array([layer.anchor_x * view.width / 100, layer.anchor_y * view.height / 100])
    anchor[:2] = (at + np.array([layer.move_x * view.width, layer.move_y * view.height]) / 100 - middle) / unit
    turn = np.eye(4)
    turn[:3, :3] = turns(layer.turn_x, layer.turn_y)
    turn[:3, 3] = anchor[:3] - turn[:3, :3] @ anchor[:3]
    turn[2, 3] += layer.place_z
    return np.asarray(turn @ own)


def matrix(layer: Layer, width: float, height: float) -> NDArray[np.float64]:
    """Where a layer's points come to lie: an affine matrix in pixels of a frame, shape (3, 3).

    About the anchor: first scaled and flipped, then skewed, then turned clockwise, then moved.

    Parameters
    ----------
    layer
        A layer with its settings.
    width
        Pixels across.
    height
        Pixels down.
    """
    ax, ay = layer.anchor_x * width / 100, layer.anchor_y * height / 100
    angle = np.deg2rad(layer.spin)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    lean = np.array([[1.0, -np.tan(np.deg2rad(layer.skew_x))], [np.tan(np.deg2rad(layer.skew_y)), 1.0]])
    flipped = [-1.0 if flip else 1.0 for flip in (layer.flip_x, layer.flip_y)]
    linear = turn @ lean @ np.diag([layer.scale_x / 100 * flipped[0], layer.scale_y / 100 * flipped[1]])
    move = np.array([layer.move_x * width / 100, layer.move_y * height / 100])
    out = np.eye(3)
    out[:2, :2] = linear
    out[:2, 2] = np.array([ax, ay]) + move - linear @ (ax, ay)
    return out
