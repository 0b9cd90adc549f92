"""Triangles of meshes, as a camera and lights have them, made into faces that `depth.faces` draws."""

from __future__ import annotations

import numpy as np
from numba import boolean, float32, float64, int32, int64
from numba.extending import register_jitable

from velvetdrum.picture.raster.kernels.build import compiled, read, written

EVEN = 4.0
"""Levels by which the colour of a face's fourth corner may lie off the plane of the others: moved into one plane, each
of them is off by about a quarter of that."""


@register_jitable(inline="always")
def _length(x, y, z):
    return np.sqrt(x * x + y * y + z * z)


@register_jitable
def _amount(lit, corner, normal, facing, lights):
    """How much of its colour a corner shows, for red, green and blue: the law of Lambert. The lamp falls with the
    square of its distance."""
    cosine = max(
        facing * (normal[0] * lights[0, 0] + normal[1] * lights[0, 1] + normal[2] * lights[0, 2]), float64(0.0)
    )
    for c in range(3):
        lit[c] = lights[2, 0] + lights[2, 1] * cosine * lights[1, c]
    if lights[2, 2] > 0:
        wx, wy, wz = lights[3, 0] - corner[0], lights[3, 1] - corner[1], lights[3, 2] - corner[2]
        away = _length(wx, wy, wz)
        cosine = facing * (normal[0] * wx + normal[1] * wy + normal[2] * wz) / max(away, 1e-9)
        fall = lights[2, 2] * max(cosine, float64(0.0)) / (1.0 + (away / lights[5, 0]) ** 2)
        for c in range(3):
            lit[c] += fall * lights[4, c]
    glow = lights[5, 1]
    for c in range(3):
        lit[c] = lit[c] * (1.0 - glow) + glow


@compiled(
    int64(
        written(float64, 2),
        written(float64, 2),
        written(float64, 2),
        written(float64, 3),
        written(float64, 2),
        written(int32, 1),
        read(float64, 3),
        read(float64, 3),
        read(float64, 2),
        read(float64, 2),
        read(float64, 2),
        boolean,
        boolean,
    )
)
def seen(out_x, out_y, out_near, out_tones, out_fog, kept, corners, normals, colours, camera, lights, closed, covered):
    """The triangles of a mesh that are seen, how many they are; in their order: places in pixels and nearness (1 /
    depth), shape (n, 3), lit colours under fog (blue, green, red, 0 to 255), shape (n, 3, 3), the fog's shares, and
    their numbers in the mesh. `corners`, `normals`: shape (n, 3, 3); `colours`: (n, 3), sRGB from 0 to 1. `closed`:
    faces that look away are left out; else the side that is seen is lit. `covered`: tones are light alone, with the fog
    taken from it.

    `camera`, rows of three: eye; directions right, down, forward; focal length in pixels and the frame's middle; where
    fog begins and ends (depth) and the least depth; its colour. `lights`, likewise: direction; its colour; ambient,
    strength, the lamp's strength; the lamp's place; its colour; its reach and the mesh's own light.
    """
    count = 0
    x, y, depth = np.empty(3), np.empty(3), np.empty(3)
    lit = np.empty(3)
    low, high = camera[5, 0], camera[5, 1]
    for n in range(corners.shape[0]):
        for k in range(3):
            dx, dy, dz = (
                corners[n, k, 0] - camera[0, 0],
                corners[n, k, 1] - camera[0, 1],
                corners[n, k, 2] - camera[0, 2],
            )
            depth[k] = dx * camera[3, 0] + dy * camera[3, 1] + dz * camera[3, 2]
            scale = camera[4, 0] / max(depth[k], camera[5, 2])
            x[k] = camera[4, 1] + (dx * camera[1, 0] + dy * camera[1, 1] + dz * camera[1, 2]) * scale
            y[k] = camera[4, 2] + (dx * camera[2, 0] + dy * camera[2, 1] + dz * camera[2, 2]) * scale
        if closed and not (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0]) > 0:
            continue
        for k in range(3):
            corner, normal, facing = corners[n, k], normals[n, k], 1.0
            if not closed:
                toward = (
                    normal[0] * (camera[0, 0] - corner[0])
                    + normal[1] * (camera[0, 1] - corner[1])
                    + normal[2] * (camera[0, 2] - corner[2])
                )
                facing = -1.0 if toward < 0 else 1.0
            _amount(lit, corner, normal, facing, lights)
            fog = 0.0
            if high > low:
                share = min(max((depth[k] - low) / (high - low), 0.0), 1.0)
                fog = share * share * (3.0 - 2.0 * share)
            for c in range(3):
                if covered:
                    tone = lit[c] * (1.0 - fog)
                else:
                    tone = colours[n, c] * lit[c]
                    tone += (camera[6, c] - tone) * fog
                out_tones[count, k, 2 - c] = tone * 255.0
            out_x[count, k], out_y[count, k], out_near[count, k] = x[k], y[k], 1.0 / depth[k]
            out_fog[count, k] = fog
        kept[count] = int32(n)
        count += 1
    return count


@register_jitable(inline="always")
def _slope(one, other, ax, ay, bx, by, area):
    """How a linear function grows across and down, from how much more it is at two corners than at the first."""
    return (one * by - other * ay) / area, (other * ax - one * bx) / area


@register_jitable
def _weights(x, y, n, found):
    """Whether triangle n, (a, b, c), goes on in the next one, (a, c, d), and makes a convex face with it; with the
    fourth corner as a sum of the other three, the weights of which make one."""
    if x[n, 0] != x[n + 1, 0] or y[n, 0] != y[n + 1, 0] or x[n, 2] != x[n + 1, 1] or y[n, 2] != y[n + 1, 1]:
        return False
    ux, uy = x[n, 1] - x[n, 0], y[n, 1] - y[n, 0]
    vx, vy = x[n, 2] - x[n, 0], y[n, 2] - y[n, 0]
    wx, wy = x[n + 1, 2] - x[n, 0], y[n + 1, 2] - y[n, 0]
    area = ux * vy - vx * uy
    if abs(area) < 1e-9:
        return False
    two, three = (wx * vy - vx * wy) / area, (ux * wy - wx * uy) / area
    found[0], found[1], found[2] = 1.0 - two - three, two, three
    # The second corner and the fourth lie on either side of the third, and the other way round.
    return two < 0 and three > 0 and found[0] > 0


@register_jitable
def _joins(x, y, near, tones, n, weights, off):
    """Whether two triangles are one face: they lie in one plane, and their colours nearly do. `off`: by how much the
    fourth corner's colour is off the plane of the others."""
    if not _weights(x, y, n, weights):
        return False
    far = near[n + 1, 2]
    if abs(weights[0] * near[n, 0] + weights[1] * near[n, 1] + weights[2] * near[n, 2] - far) > 1e-4 * abs(far):
        return False
    for c in range(3):
        flat = weights[0] * tones[n, 0, c] + weights[1] * tones[n, 1, c] + weights[2] * tones[n, 2, c]
        off[c] = tones[n + 1, 2, c] - flat
        if abs(off[c]) > EVEN:
            return False
    return True


@compiled(
    int64(
        written(float32, 2),
        written(float32, 2),
        written(float32, 2),
        written(float32, 2),
        read(float64, 2),
        read(float64, 2),
        read(float64, 2),
        read(float64, 3),
        float64,
        float64,
        boolean,
    )
)
def faces_of(out_x, out_y, planes, at, xs, ys, near, tones, left, top, join):
    """Triangles, as `seen` gives them, as faces that `depth.faces` takes, and how many those are. Places are in samples
    from a pixel of the frame. `join`: where two that follow each other lie in one plane, with colours that go on
    evenly, they are one face, and their colours are moved into one plane by as little as can be (least squares).
    """
    total, count, n = xs.shape[0], 0, 0
    x, y = np.empty((total, 3)), np.empty((total, 3))
    for i in range(total):
        for k in range(3):
            x[i, k], y[i, k] = (xs[i, k] - left) * 2.0, (ys[i, k] - top) * 2.0
    weights, off, tone = np.empty(3), np.empty(3), np.empty(3)
    while n < total:
        whole = join and n + 1 < total and _joins(x, y, near, tones, n, weights, off)
        for k in range(3):
            out_x[count, k], out_y[count, k] = float32(x[n, k]), float32(y[n, k])
        last = n + 1 if whole else n
        out_x[count, 3], out_y[count, 3] = float32(x[last, 2]), float32(y[last, 2])
        ax, ay = x[n, 1] - x[n, 0], y[n, 1] - y[n, 0]
        bx, by = x[n, 2] - x[n, 0], y[n, 2] - y[n, 0]
        area = ax * by - bx * ay
        area = np.inf if abs(area) < 1e-9 else area
        across, down = _slope(near[n, 1] - near[n, 0], near[n, 2] - near[n, 0], ax, ay, bx, by, area)
        planes[count, 0], planes[count, 1], planes[count, 2] = float32(near[n, 0]), float32(across), float32(down)
        at[count, 0], at[count, 1] = float32(x[n, 0]), float32(y[n, 0])
        spread = 1.0 + weights[0] ** 2 + weights[1] ** 2 + weights[2] ** 2
        for c in range(3):
            for k in range(3):
                tone[k] = tones[n, k, c] + (weights[k] * off[c] / spread if whole else 0.0)
            across, down = _slope(tone[1] - tone[0], tone[2] - tone[0], ax, ay, bx, by, area)
            at[count, 2 + 3 * c] = float32(tone[0])
            at[count, 3 + 3 * c], at[count, 4 + 3 * c] = float32(across), float32(down)
        count += 1
        n = last + 1
    return count
