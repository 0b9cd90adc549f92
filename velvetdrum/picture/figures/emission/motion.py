"""How particles move: each is a closed form of its age, with what it took at its birth and what acts on all now."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.kernels import flow
from velvetdrum.signals.births import chances

Values = NDArray[np.float64]


@dataclass(frozen=True)
class Forces:
    """What acts on all that live, as it is now: gravity in per cent of the short side per second squared, drag in 1/s,
    wind in per cent per second, and how far and how often each strays; `curl_size` is that
    of the whirls that carry neighbours alike (per cent of the short side), 0 where each goes its own way."""

    gravity: float = 0.0
    drag: float = 0.0
    wind: float = 0.0
    wander: float = 0.0
    wander_hz: float = 0.5
    curl_size: float = 0.0


def way_and_fall(ages: Values, drag: float) -> tuple[Values, Values]:
    """How far a unit of speed and a unit of gravity have brought particles of these ages. With drag k, speed falls as
    exp(-k t): the way is (1 - exp(-k t)) / k, the fall (t - way) / k; without, t and t^2 / 2."""
    if drag < 1e-6:
        return ages, ages**2 / 2
    way = (1 - np.exp(-drag * ages)) / drag
    return way, (ages - way) / drag


def flown(
    starts: Values, heads: Values, speeds: Values, ages: Values, forces: Forces, seed: int, numbers: NDArray[np.int64]
) -> tuple[Values, Values]:
    """Places in space, per cent of the short side, shape (n, 3), of particles that began at `starts` in the directions
    `heads` (unit vectors, likewise) with speeds in per cent per second; and where they head in the plane, in
    radians."""
    way, fall = way_and_fall(ages, forces.drag)
    moved = heads * (speeds * way)[:, None]
    moved[:, 0] += forces.wind * ages
    moved[:, 1] += forces.gravity * fall
    slow = np.exp(-forces.drag * ages)
    velocity = heads[:, :2] * (speeds * slow)[:, None]
    velocity[:, 0] += forces.wind
    velocity[:, 1] += forces.gravity * way
    angles = np.arctan2(velocity[:, 1], velocity[:, 0])
    if forces.wander > 0:
        come = forces.wander * np.minimum(ages * forces.wander_hz, 1.0)
        moved += come[:, None] * strays(seed, numbers, starts, ages * forces.wander_hz, forces.curl_size)
    return starts + moved, angles


def turned(places: Values, middle: tuple[float, float], angles: Values) -> Values:
    """Places turned about an axis toward the viewer, by an angle each."""
    cos, sin = np.cos(angles), np.sin(angles)
    x, y = places[:, 0] - middle[0], places[:, 1] - middle[1]
    return np.stack([middle[0] + x * cos - y * sin, middle[1] + x * sin + y * cos, places[:, 2]], axis=1)


def attracted(places: Values, targets: Values, rate: float, ages: Values) -> Values:
    """Places on their way to targets, shape (n, 2) in the plane: what is left of the way falls as exp(-rate t)."""
    left = np.exp(-rate * ages)[:, None]
    result = places.copy()
    result[:, :2] = targets + (places[:, :2] - targets) * left
    return result


def folded(values: Values, low: float, high: float) -> Values:
    """Ways that are thrown back from two walls without loss."""
    span = max(high - low, 1e-9)
    turn = np.mod(values - low, 2 * span)
    return low + np.minimum(turn, 2 * span - turn)


def bounced(starts: Values, speeds: Values, gravity: float, floor: float, kept: float, ages: Values) -> Values:
    """Heights (down is more) of what falls on a floor and keeps a share of its speed at each bounce; without drag.

    From the start it flies a parabola; it meets the floor at t1 with speed u, and then flies up again and again with
    speeds u e, u e^2, ... for 2 u e^n / g each, whose sum is a geometric series: after it all lies on the floor.
    """
    starts = np.minimum(starts, floor)
    if gravity <= 1e-9:
        way = starts + speeds * ages
        return np.minimum(way, 2 * floor - way)
    impact = np.sqrt(speeds**2 + 2 * gravity * (floor - starts))
    first = (impact - speeds) / gravity
    since = np.maximum(ages - first, 0.0)
    if kept >= 1.0:
        number = np.floor(since * gravity / np.maximum(2 * impact, 1e-9))
        begun = number * 2 * impact / gravity
    else:
        whole = 2 * impact * kept / (gravity * (1.0 - kept))
        left = 1.0 - since / np.maximum(whole, 1e-12)
        share = max(kept, 1e-6)
        number = np.where(left > 0, np.floor(np.log(np.maximum(left, 1e-12)) / np.log(share) + 1e-12), 0.0)
        begun = whole * (1.0 - share**number)
        number = number + 1
        impact = np.where(left > 1e-9, impact, 0.0)
    rise = impact * (1.0 if kept >= 1.0 else kept**number)
    flight = since - begun
    hop = np.maximum(rise * flight - gravity * flight**2 / 2, 0.0)
    falling = starts + speeds * ages + gravity * ages**2 / 2
    return np.where(ages < first, falling, floor - np.where(rise > 0, hop, 0.0))


def strays(seed: int, numbers: NDArray[np.int64], starts: Values, times: Values, curl_size: float) -> Values:
    """How far each strays, about -1 to 1 in each direction, shape (n, 3): on its own way, or carried by whirls."""
    if curl_size <= 0:
        return np.stack([_own_way(seed, numbers, times, channel) for channel in (6, 7, 11)], axis=1)
    out = np.zeros((len(starts), 3))
    flow.curl(np.ascontiguousarray(starts / curl_size, np.float64), np.ascontiguousarray(times, np.float64), seed, out)
    return out


def _own_way(seed: int, numbers: NDArray[np.int64], places: Values, channel: int) -> Values:
    """Smooth noise for each along its own age, about -1 to 1: a cubic spline through chances."""
    whole = np.floor(places)
    t = places - whole
    weights = [(1 - t) ** 3 / 6, (3 * t**3 - 6 * t**2 + 4) / 6, (-3 * t**3 + 3 * t**2 + 3 * t + 1) / 6, t**3 / 6]
    steps = whole.astype(np.int64)
    total = np.zeros(len(places))
    for offset, weight in enumerate(weights):
        total += weight * (2 * chances(seed, numbers * 4099 + steps + offset, channel) - 1)
    return total * 1.6
