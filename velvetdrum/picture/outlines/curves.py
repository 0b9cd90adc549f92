"""Base curves about the origin, in pixels: line, ring, arc, regular polygon, rounded rectangle."""

from __future__ import annotations

import math

import numpy as np

from velvetdrum.picture.outlines.outline import Outline, Piece, Points, faced

_ROUND = 2048
"""Steps of a full turn: a chord then falls short of its arc by less than one part in a million."""

_OFF = 0.002
"""Pixels by which the middle of a chord may lie off its arc where that is only filled: half of what changes a pixel by
one level."""


def filled_steps(radius: float) -> int:
    """Steps of a full turn that is filled and not measured: with n of them the middle of each lies r (1 - cos(pi / n))
    off its arc."""
    return min(max(math.ceil(math.pi * math.sqrt(max(radius, 0.0) / (2 * _OFF))), 64), _ROUND)


def line(length: float) -> Outline:
    """From left to right; outward is up."""
    half = max(length, 1e-3) / 2
    points = np.array([[-half, 0.0], [half, 0.0]])
    return Outline((Piece(points, np.array([[1.0, 0.0], [1.0, 0.0]]), False),))


def ring(radius: float, steps: int = _ROUND) -> Outline:
    """From the top, clockwise."""
    return Outline((_bow(radius, -90.0, 360.0, closed=True, steps=steps),))


def arc(radius: float, sweep: float) -> Outline:
    """`sweep` degrees clockwise, the middle of it at the top."""
    return Outline((_bow(radius, -90.0 - sweep / 2, sweep, closed=False),))


def polygon(radius: float, sides: int) -> Outline:
    """A regular polygon with its corners on a circle, from the top corner clockwise."""
    angles = np.deg2rad(-90.0 + np.arange(sides + 1) * 360.0 / sides)
    corners = radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    corners[-1] = corners[0]
    return faced([joined([corners[index : index + 2] for index in range(sides)], closed=True)])


def ellipse(width: float, height: float, steps: int = _ROUND) -> Outline:
    """From the top, clockwise; by its true length, not by the angle."""
    angles = np.deg2rad(-90.0 + np.linspace(0.0, 360.0, steps + 1))
    points = np.stack([max(width, 1e-3) / 2 * np.cos(angles), max(height, 1e-3) / 2 * np.sin(angles)], axis=1)
    points[-1] = points[0]
    ways = np.stack([-max(width, 1e-3) * np.sin(angles), max(height, 1e-3) * np.cos(angles)], axis=1)
    return Outline((Piece(points, ways / np.hypot(*ways.T)[:, None], True),))


def star(radius: float, points: int, inner: float) -> Outline:
    """A star of so many points, the inner corners at `inner` (0 to 1) of the radius; from the top corner clockwise."""
    angles = np.deg2rad(-90.0 + np.arange(2 * points + 1) * 180.0 / points)
    reach = radius * np.where(np.arange(2 * points + 1) % 2, max(inner, 0.01), 1.0)
    corners = reach[:, None] * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    corners[-1] = corners[0]
    return faced([joined([corners[index : index + 2] for index in range(2 * points)], closed=True)])


def rounded_rectangle(width: float, height: float, corner: float) -> Outline:
    """From the middle of the upper side, clockwise. `corner` is the radius, at most half the shorter side."""
    x, y = max(width, 1e-3) / 2, max(height, 1e-3) / 2
    radius = min(max(corner, 0.0), x, y)
    parts: list[Points] = [np.array([[0.0, -y], [x - radius, -y]])]
    for centre, start, end in (
        ((x - radius, radius - y), -90.0, (x, y - radius)),
        ((x - radius, y - radius), 0.0, (radius - x, y)),
        ((radius - x, y - radius), 90.0, (-x, radius - y)),
        ((radius - x, radius - y), 180.0, (0.0, -y)),
    ):
        if radius > 0:
            parts.append(_bow(radius, start, 90.0, closed=False).points + centre)
        parts.append(np.array([parts[-1][-1], end]))
    return faced([joined(parts, closed=True)])


def joined(parts: list[Points], *, closed: bool) -> Piece:
    """One piece from parts that each begin where the last one ended. Each part keeps its own directions, so a bend
    between two is a corner. Parts without length are left out."""
    kept = [part for part in (_distinct(part) for part in parts) if len(part) > 1]
    if not kept:
        raise ValueError("a curve without length")
    return Piece(np.concatenate(kept), np.concatenate([_directions(part) for part in kept]), closed)


def _distinct(part: Points) -> Points:
    """The points without those that lie on the one before."""
    steps = np.hypot(*np.diff(part, axis=0).T)
    return part[np.concatenate([[True], steps > 1e-9])]


def _directions(part: Points) -> Points:
    """Unit direction in each point of a smooth part: the middle of the two that meet there, by the circle through
    three neighbours."""
    steps = np.diff(part, axis=0)
    lengths = np.hypot(*steps.T)[:, None]
    units = steps / lengths
    if len(part) == 2:
        return np.concatenate([units, units])
    # Each chord's direction is right in its middle; in a point it is between those of the two chords.
    inner = (units[:-1] * lengths[1:] + units[1:] * lengths[:-1]) / (lengths[:-1] + lengths[1:])
    first, last = 2 * units[0] - inner[0], 2 * units[-1] - inner[-1]
    result = np.concatenate([first[None], inner, last[None]])
    return result / np.maximum(np.hypot(*result.T), 1e-9)[:, None]


def _bow(radius: float, start: float, sweep: float, *, closed: bool, steps: int = _ROUND) -> Piece:
    """A part of a circle, clockwise from `start` degrees, with its exact directions; `steps` of a full turn."""
    steps = max(8, round(steps * sweep / 360))
    angles = np.deg2rad(start + np.linspace(0.0, sweep, steps + 1))
    points = max(radius, 1e-3) * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    if closed:
        points[-1] = points[0]
    return Piece(points, np.stack([-np.sin(angles), np.cos(angles)], axis=1), closed)
