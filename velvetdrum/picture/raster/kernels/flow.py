"""Smooth noise in space and time, as a stream that moves points."""

from __future__ import annotations

import numpy as np
from numba import float64, int64, uint64, void
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written

_NOWHERE = np.int64(-(1 << 62))
"""No cell of the lattice."""


@register_jitable(inline="always")
def _chance(x, y, z, t, seed, axis):
    """A value from -1 to 1 for whole places: the finishing steps of SplitMix64 (Steele, Lea, Flood 2014)."""
    h = uint64(x) * uint64(0x9E3779B97F4A7C15) ^ uint64(y) * uint64(0xC2B2AE3D27D4EB4F)
    h = h ^ uint64(z) * uint64(0x165667B19E3779F9) ^ uint64(t) * uint64(0xD6E8FEB86659FD93)
    h = h + uint64(seed * 3 + axis) * uint64(0xD1B54A32D192ED03)
    h = (h ^ (h >> uint64(30))) * uint64(0xBF58476D1CE4E5B9)
    h = (h ^ (h >> uint64(27))) * uint64(0x94D049BB133111EB)
    h = h ^ (h >> uint64(31))
    return float64(int64(h >> uint64(11))) / 4503599627370496.0 - 1.0


@register_jitable(inline="always")
def _smooth(t):
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


@compiled(void(read(float64, 2), float64, int64, int64, written(float64, 2)))
def flow(places, time, seed, detail, out):
    """Three smooth numbers of about -1 to 1 for each place, shape (n, 3), that change with time: lattice noise between
    whole places and times, `detail` sizes of it, each half as large and half as strong.

    Neighbours lie in one cell of the lattice as a rule: its corners are worked out for the first of them."""
    cells, corners = np.full((detail, 4), _NOWHERE), np.empty((detail, 3, 16), np.float64)
    weights = np.empty(16, np.float64)
    for n in range(places.shape[0]):
        for axis in range(3):
            out[n, axis] = 0.0
        scale, share = 1.0, 1.0
        for octave in range(detail):
            px, py, pz, pt = places[n, 0] * scale, places[n, 1] * scale, places[n, 2] * scale, time * scale
            x, y, z, t = int64(np.floor(px)), int64(np.floor(py)), int64(np.floor(pz)), int64(np.floor(pt))
            cell, values = cells[octave], corners[octave]
            if cell[0] != x or cell[1] != y or cell[2] != z or cell[3] != t:
                cell[0], cell[1], cell[2], cell[3] = x, y, z, t
                for axis in range(3):
                    for corner in range(16):
                        i, j, k, m = corner & 1, (corner >> 1) & 1, (corner >> 2) & 1, (corner >> 3) & 1
                        values[axis, corner] = _chance(x + i, y + j, z + k, t + m, seed + octave * 101, axis)
            fx, fy, fz, ft = _smooth(px - x), _smooth(py - y), _smooth(pz - z), _smooth(pt - t)
            for corner in range(16):
                i, j, k, m = corner & 1, (corner >> 1) & 1, (corner >> 2) & 1, (corner >> 3) & 1
                weight = (fx if i else 1.0 - fx) * (fy if j else 1.0 - fy)
                weights[corner] = weight * ((fz if k else 1.0 - fz) * (ft if m else 1.0 - ft))
            for axis in range(3):
                total = 0.0
                for corner in range(16):
                    total += weights[corner] * values[axis, corner]
                out[n, axis] += total * share
            scale *= 2.0
            share *= 0.5


@register_jitable
def _potential(px, py, pt, seed):
    x, y, t = int64(np.floor(px)), int64(np.floor(py)), int64(np.floor(pt))
    fx, fy, ft = _smooth(px - x), _smooth(py - y), _smooth(pt - t)
    total = 0.0
    for corner in range(8):
        i, j, m = corner & 1, (corner >> 1) & 1, (corner >> 2) & 1
        weight = (fx if i else 1.0 - fx) * (fy if j else 1.0 - fy) * (ft if m else 1.0 - ft)
        if weight > 0.0:
            total += weight * _chance(x + i, y + j, int64(0), t + m, seed, int64(0))
    return total


@compiled(void(read(float64, 2), read(float64), int64, written(float64, 2)))
def curl(places, times, seed, out):
    """The curl of smooth noise in the plane, for each place, shape (n, 3), at its own time: a stream without sources,
    so that what it carries neither gathers nor thins (R. Bridson, Curl-noise for procedural fluid flow, 2007)."""
    step = 0.01
    for n in range(places.shape[0]):
        x, y, t = places[n, 0], places[n, 1], times[n]
        out[n, 0] = (_potential(x, y + step, t, seed) - _potential(x, y - step, t, seed)) / (2 * step)
        out[n, 1] = -(_potential(x + step, y, t, seed) - _potential(x - step, y, t, seed)) / (2 * step)
        out[n, 2] = 0.0
