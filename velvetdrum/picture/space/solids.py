"""Solids: faces in space, lit and drawn by depth with four samples a pixel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import kept
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import depth as kernels
from velvetdrum.picture.space.camera import NEAREST, Camera, Values

_SLOPE = 0.7
"""How far a corner leans toward its solid's middle when its edges are wholly rounded."""


@dataclass(frozen=True)
class Lights:
    """One light from a direction (azimuth to the right of the viewer and elevation, in degrees), what is there from all
    sides, and a lamp at a point. Strengths are shares of 1; colours sRGB from 0 to 1."""

    azimuth_deg: float = -35.0
    elevation_deg: float = 50.0
    strength: float = 0.75
    colour: tuple[float, float, float] = (1.0, 1.0, 1.0)
    ambient: float = 0.35
    lamp: tuple[float, float, float] = (0.0, 0.0, 0.0)
    lamp_strength: float = 0.0
    lamp_colour: tuple[float, float, float] = (1.0, 1.0, 1.0)
    lamp_reach: float = 40.0
    """Distance, in per cent of the short side, at which the lamp has a half of its strength."""

    @property
    def direction(self) -> Values:
        """Unit vector toward the light."""
        azimuth, up = np.deg2rad(self.azimuth_deg), np.deg2rad(self.elevation_deg)
        return np.array([np.sin(azimuth) * np.cos(up), -np.sin(up), np.cos(azimuth) * np.cos(up)])


@dataclass(frozen=True, eq=False)
class Mesh:
    """Triangles in space: corners in per cent of the short side, shape (n, 3, 3), the direction that each corner faces
    (unit vectors, likewise), and colours, sRGB from 0 to 1, shape (n, 3). `closed`: faces that look away are not
    seen."""

    corners: Values
    normals: Values
    colours: Values
    closed: bool = True
    glow: float = 0.0
    """How much of its colour shines by itself, 0 to 1."""

    def moved(self, matrix: Values) -> Mesh:
        """The mesh placed by an affine matrix, shape (4, 4)."""
        linear = matrix[:3, :3]
        normals = self.normals @ np.linalg.inv(linear + np.eye(3) * 1e-12)
        return replace(
            self,
            corners=self.corners @ linear.T + matrix[:3, 3],
            normals=normals / np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-12),
        )


@dataclass(frozen=True, eq=False)
class Drawn:
    """What solids leave for what is drawn after them: 1 / depth of what is nearest, for each pixel of the canvas."""

    nearest: NDArray[np.float32] = field(default_factory=lambda: np.zeros((0, 0), np.float32))


def boxes(centres: Values, halves: Values, colours: Values, form: str = "box", rounding: float = 0.0) -> Mesh:
    """Solids of one form about centres, shape (n, 3), with half their sides, shape (n, 3), each in a colour.
    `rounding`, 0 to 1, lets corners face outward, as if the edges were round."""
    corners, normals, closed = _form(form, round(float(rounding), 3))
    count = len(centres)
    placed = centres[:, None, None] + corners[None] * halves[:, None, None]
    faced = normals[None] / np.maximum(halves, 1e-6)[:, None, None] if form in ("sphere", "cylinder") else normals[None]
    faced = faced / np.linalg.norm(faced, axis=-1, keepdims=True)
    faced = np.broadcast_to(faced, placed.shape)
    return Mesh(
        placed.reshape(-1, 3, 3),
        np.ascontiguousarray(faced).reshape(-1, 3, 3),
        np.repeat(colours, len(corners), axis=0) if count else np.zeros((0, 3)),
        closed,
    )


@kept
def _form(form: str, rounding: float) -> tuple[Values, Values, bool]:
    """Triangles of a form within -1 to 1, shape (n, 3, 3), the directions of their corners, and whether it is
    closed."""
    faces: list[tuple[Values, Values]] = []
    if form == "sphere":
        up = np.linspace(0, np.pi, 9)
        around = np.linspace(0, 2 * np.pi, 17)
        grid = np.array(
            [[(np.sin(u) * np.sin(a), -np.cos(u), np.sin(u) * np.cos(a)) for a in around] for u in up], np.float64
        )
        for i in range(8):
            for j in range(16):
                quad = np.array([grid[i, j], grid[i, j + 1], grid[i + 1, j + 1], grid[i + 1, j]])
                faces.append((quad, quad))
    elif form == "cylinder":
        around = np.linspace(0, 2 * np.pi, 21)
        rim = np.stack([np.sin(around), np.zeros(21), np.cos(around)], axis=1)
        up = np.array([0.0, 1.0, 0.0])
        for i in range(20):
            low, high = rim[i : i + 2] + up, rim[i : i + 2] - up
            quad = np.array([high[0], high[1], low[1], low[0]])
            faces.append((quad, quad * (1, 0, 1)))
            for y, order in ((-1.0, (1, 0)), (1.0, (0, 1))):
                cap = np.array([up * y, rim[i + order[0]] + up * y, rim[i + order[1]] + up * y, up * y])
                faces.append((cap, np.broadcast_to(np.array([0.0, y, 0.0]), (4, 3))))
    elif form == "plate":
        quad = np.array([[-1.0, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]])
        faces.append((quad, np.broadcast_to(np.array([0.0, 0.0, 1.0]), (4, 3))))
    else:
        for axis in range(3):
            for side in (-1.0, 1.0):
                normal = np.zeros(3)
                normal[axis] = side
                one, other = (axis + 1) % 3, (axis + 2) % 3
                quad = np.zeros((4, 3))
                quad[:, axis] = side
                quad[:, one] = (-1, 1, 1, -1)
                quad[:, other] = (-1, -1, 1, 1)
                # Seen from outside, corners go round clockwise on the screen.
                quad = quad if side > 0 else quad[::-1]
                faces.append((quad, normal + (quad - normal) * _SLOPE * rounding))
    corners = np.array([quad[list(pick)] for quad, _ in faces for pick in ((0, 1, 2), (0, 2, 3))])
    normals = np.array([way[list(pick)] for _, way in faces for pick in ((0, 1, 2), (0, 2, 3))])
    solid = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) > 1e-9
    normals = normals / np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-12)
    return corners[solid], normals[solid], form != "plate"


def draw_solids(canvas: Canvas, meshes: Sequence[Mesh], camera: Camera, lights: Lights, opacity: float = 1.0) -> Drawn:
    """Draw meshes over what is on a canvas; gives what they hide."""
    left, top, right, bottom = canvas.area
    nearest = np.zeros((bottom - top, right - left), np.float32)
    found = [
        part for mesh in meshes if len(mesh.corners) for part in [_projected(mesh, camera, lights)] if len(part[0])
    ]
    if not found:
        return Drawn(nearest)
    xs, ys, nears, tones = (np.concatenate(parts) for parts in zip(*found, strict=True))
    low_x, high_x = max(int(xs.min()) - 1, left), min(int(xs.max()) + 2, right)
    low_y, high_y = max(int(ys.min()) - 1, top), min(int(ys.max()) + 2, bottom)
    if high_x <= low_x or high_y <= low_y:
        return Drawn(nearest)
    width, height = high_x - low_x, high_y - low_y
    x, y = (xs - low_x) * 2, (ys - low_y) * 2
    planes, tones = _slopes(x, y, nears[..., None])[:, 0], _slopes(x, y, tones).reshape(-1, 9)
    given = x, y, planes, np.concatenate([x[:, :1], y[:, :1], tones], axis=1)
    pixels, depth = np.empty((height, width), np.uint32), np.empty((height, width), np.float32)
    kernels.triangles(pixels, depth, *(np.ascontiguousarray(values, np.float32) for values in given))
    area = (low_x, low_y, high_x, high_y)
    canvas.blend(pixels.view(np.uint8).reshape(height, width, 4), area, opacity=opacity)
    nearest[low_y - top : high_y - top, low_x - left : high_x - left] = depth
    return Drawn(nearest)


def _slopes(x: Values, y: Values, values: Values) -> Values:
    """Linear functions with given values at the corners of triangles, shape (n, 3, k): at the first corner, and by how
    much they grow across and down, shape (n, k, 3)."""
    first = values[:, 0]
    one, other = values[:, 1] - first, values[:, 2] - first
    ax, ay, bx, by = ((line[:, corner] - line[:, 0])[:, None] for corner, line in ((1, x), (1, y), (2, x), (2, y)))
    area = ax * by - bx * ay
    area = np.where(np.abs(area) < 1e-9, np.inf, area)
    return np.stack([first, (one * by - other * ay) / area, (other * ax - one * bx) / area], axis=-1)


def _projected(mesh: Mesh, camera: Camera, lights: Lights) -> tuple[Values, Values, Values, Values]:
    """Corners in pixels, nearness, and lit colours (blue, green, red, 0 to 255) of the triangles that are seen."""
    count = len(mesh.corners)
    seen = camera.seen(mesh.corners.reshape(-1, 3))
    x, y, depth = (values.reshape(count, 3) for values in (seen.x, seen.y, seen.depth))
    shown = (depth > NEAREST).all(axis=1)
    if mesh.closed:
        turn = (x[:, 1] - x[:, 0]) * (y[:, 2] - y[:, 0]) - (x[:, 2] - x[:, 0]) * (y[:, 1] - y[:, 0])
        shown &= turn > 0
    corners, normals, colours = mesh.corners[shown], mesh.normals[shown], mesh.colours[shown]
    if not mesh.closed:
        # A plate is lit on the side that is seen.
        toward = np.einsum("nki,nki->nk", normals, camera.eye - corners)
        normals = normals * np.where(toward < 0, -1.0, 1.0)[..., None]
    lit = shade(corners, normals, colours, lights, mesh.glow)
    fog = camera.fog(depth[shown].ravel()).reshape(-1, 3, 1)
    lit = lit + (camera.fog_colour - lit) * fog
    return x[shown], y[shown], 1 / depth[shown], lit[..., ::-1] * 255


def shade(corners: Values, normals: Values, colours: Values, lights: Lights, glow: float = 0.0) -> Values:
    """Colours of corners, shape (n, 3, 3), after Lambert's law: what is there from all sides, and of each light as much
    as the cosine of the angle to it; the lamp falls with the square of its distance."""
    amount = np.full((*normals.shape[:2], 1), lights.ambient) * np.ones(3)
    facing = np.maximum(normals @ lights.direction, 0.0)[..., None]
    amount = amount + lights.strength * facing * np.array(lights.colour)
    if lights.lamp_strength > 0:
        way = np.array(lights.lamp) - corners
        away = np.linalg.norm(way, axis=-1, keepdims=True)
        cosine = np.maximum(np.einsum("nki,nki->nk", normals, way / np.maximum(away, 1e-9)), 0.0)[..., None]
        fall = 1 / (1 + (away / lights.lamp_reach) ** 2)
        amount = amount + lights.lamp_strength * cosine * fall * np.array(lights.lamp_colour)
    return np.asarray(colours[:, None] * (amount * (1 - glow) + glow))
