"""Solids: faces in space, lit and drawn by depth with four samples a pixel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.kernels import depth as depths
from velvetdrum.picture.raster.kernels import meshes as kernels
from velvetdrum.picture.space.camera import NEAREST, Camera, Values
from velvetdrum.picture.space.covers import FaceTexture, joined, rooms_for

_SLOPE = 0.7
"""How far a corner leans toward its solid's middle when its edges are wholly rounded."""

_BEYOND = 1.001
"""Cut a little beyond what is too near, so that rounding leaves no corner there."""


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
    cover: FaceTexture | None = None
    """A picture that lies over the colour."""

    def mirrored(self, matrix: Values) -> Mesh:
        """The mesh placed by an affine matrix that turns it inside out, its faces still seen from outside.

        Parameters
        ----------
        matrix
            An affine matrix, shape (4, 4).
        """
        cover = self.cover and replace(self.cover, places=self.cover.places[:, ::-1])
        turned = replace(self, corners=self.corners[:, ::-1], normals=self.normals[:, ::-1], cover=cover)
        return turned.moved(matrix)

    def moved(self, matrix: Values) -> Mesh:
        """The mesh placed by an affine matrix, shape (4, 4).

        Parameters
        ----------
        matrix
            An affine matrix, shape (4, 4).
        """
        if np.array_equal(matrix, np.eye(4)):
            return self
        linear = matrix[:3, :3]
        corners = self.corners @ linear.T + matrix[:3, 3]
        if np.allclose(linear @ linear.T, np.eye(3), rtol=0, atol=1e-12):
            # Turned or mirrored alone: directions keep their length.
            return replace(self, corners=corners, normals=self.normals @ linear.T)
        normals = self.normals @ np.linalg.inv(linear + np.eye(3) * 1e-12)
        return replace(
            self, corners=corners, normals=normals / np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-12)
        )


@dataclass(frozen=True, eq=False)
class DepthMap:
    """What solids leave for what is drawn after them: 1 / depth of what is nearest, for each pixel of the canvas."""

    nearest: NDArray[np.float32] = field(default_factory=lambda: np.zeros((0, 0), np.float32))


def boxes(centres: Values, halves: Values, colours: Values, form: str = "box", rounding: float = 0.0) -> Mesh:
    """Solids of one form about centres, shape (n, 3), with half their sides, shape (n, 3), each in a colour.
    `rounding`, 0 to 1, lets corners face outward, as if the edges were round.

    Parameters
    ----------
    centres
        Middles in space, per cent of the short side, shape (n, 3).
    halves
        Half the sizes along x, y and z, per cent of the short side, shape (n, 3).
    colours
        BGR from 0 to 1, shape (n, 3).
    form
        Name of the form.
    rounding
        Radius of edges, as a share of the shortest side.
    """
    corners, normals, closed, _ = _form(form, round(float(rounding), 3))
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


def picture_places(form: str, count: int) -> Values:
    """Where the corners of `count` solids of a form have a picture that lies on each of their faces (about spheres and
    cylinders), shape (n, 3, 2).

    Parameters
    ----------
    form
        Name of the form.
    count
        How many.
    """
    return np.tile(_form(form, 0.0)[3], (count, 1, 1))


@cached
def _form(form: str, rounding: float) -> tuple[Values, Values, bool, Values]:
    """Triangles of a form within -1 to 1, shape (n, 3, 3), the directions of their corners, whether it is closed, and
    where their corners have a picture, shape (n, 3, 2)."""
    faces: list[tuple[Values, Values]] = []
    places: list[Values] = []
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
                places.append(_about(j, 16, i / 8, (i + 1) / 8)[[0, 1, 3, 2]])
    elif form == "cylinder":
        around = np.linspace(0, 2 * np.pi, 21)
        rim = np.stack([np.sin(around), np.zeros(21), np.cos(around)], axis=1)
        up = np.array([0.0, 1.0, 0.0])
        for i in range(20):
            low, high = rim[i : i + 2] + up, rim[i : i + 2] - up
            quad = np.array([high[0], high[1], low[1], low[0]])
            faces.append((quad, quad * (1, 0, 1)))
            places.append(_about(i, 20, 0.0, 1.0)[[0, 1, 3, 2]])
            for y, order in ((-1.0, (1, 0)), (1.0, (0, 1))):
                cap = np.array([up * y, rim[i + order[0]] + up * y, rim[i + order[1]] + up * y, up * y])
                faces.append((cap, np.broadcast_to(np.array([0.0, y, 0.0]), (4, 3))))
                places.append(cap[:, [0, 2]] / 2 + 0.5)
    elif form == "plate":
        quad = np.array([[-1.0, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]])
        faces.append((quad, np.broadcast_to(np.array([0.0, 0.0, 1.0]), (4, 3))))
        places.append(quad[:, :2] / 2 + 0.5)
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
                # Upright and unmirrored as it is seen from outside.
                across, down = {0: (-quad[:, 2] * side, quad[:, 1]), 1: (quad[:, 0], -quad[:, 2] * side)}.get(
                    axis, (quad[:, 0] * side, quad[:, 1])
                )
                places.append(np.stack([across, down], axis=1) / 2 + 0.5)
    corners = np.array([quad[list(pick)] for quad, _ in faces for pick in ((0, 1, 2), (0, 2, 3))])
    normals = np.array([way[list(pick)] for _, way in faces for pick in ((0, 1, 2), (0, 2, 3))])
    solid = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) > 1e-9
    normals = normals / np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-12)
    pictures = np.array([place[list(pick)] for place in places for pick in ((0, 1, 2), (0, 2, 3))])
    return corners[solid], normals[solid], form != "plate", pictures[solid]


def _about(number: int, count: int, top: float, bottom: float) -> Values:
    """Where a field of a round form has a picture that goes once about it, its middle toward the viewer."""
    left = (number / count + 0.5) % 1
    return np.array([(x, y) for y in (top, bottom) for x in (left, left + 1 / count)])


def draw_solids(
    canvas: Canvas, meshes: Sequence[Mesh], camera: Camera, lights: Lights, opacity: float = 1.0
) -> DepthMap:
    """Draw meshes over what is on a canvas; gives what they hide.

    Parameters
    ----------
    canvas
        What is drawn on.
    meshes
        Solids in space.
    camera
        The camera that it is seen by.
    lights
        Lights of the space.
    opacity
        0 to 1.
    """
    left, top, right, bottom = canvas.area
    nearest = np.zeros((bottom - top, right - left), np.float32)
    parts = [_projected(mesh, camera, lights) for mesh in meshes if len(mesh.corners)]
    parts = [part for part in parts if len(part.x)]
    if not parts:
        return DepthMap(nearest)
    xs, ys = np.concatenate([part.x for part in parts]), np.concatenate([part.y for part in parts])
    low_x, high_x = max(int(xs.min()) - 1, left), min(int(xs.max()) + 2, right)
    low_y, high_y = max(int(ys.min()) - 1, top), min(int(ys.max()) + 2, bottom)
    if high_x <= low_x or high_y <= low_y:
        return DepthMap(nearest)
    width, height = high_x - low_x, high_y - low_y
    words, maps = _pictured(parts, (xs - low_x) * 2, (ys - low_y) * 2)
    faces = _faces(parts, xs, ys, (low_x, low_y), join=not len(maps))
    pixels, depth = np.empty((height, width), np.uint32), np.empty((height, width), np.float32)
    given, fog = maps.astype(np.float32), (camera.fog_colour[::-1] * 255).astype(np.float32)
    depths.faces(pixels, depth, faces.x, faces.y, faces.planes, faces.tones, given, fog, words)
    area = (low_x, low_y, high_x, high_y)
    canvas.blend(pixels.view(np.uint8).reshape(height, width, 4), area, opacity=opacity)
    nearest[low_y - top : high_y - top, low_x - left : high_x - left] = depth
    return DepthMap(nearest)


@dataclass(frozen=True, eq=False)
class _Part:
    """Triangles that are seen: corners in pixels and nearness, shape (n, 3), lit colours (blue, green, red, 0 to 255),
    shape (n, 3, 3); and of a mesh with a picture where corners have it, how much of it the fog hides, and the colour
    below."""

    x: Values
    y: Values
    near: Values
    tones: Values
    cover: FaceTexture | None
    fog: Values
    under: Values


@dataclass(frozen=True, eq=False)
class _Faces:
    """What the kernel is given of faces: corners, shape (n, 4); planes of nearness, (n, 3), and of colours, (n, 11)."""

    x: NDArray[np.float32]
    y: NDArray[np.float32]
    planes: NDArray[np.float32]
    tones: NDArray[np.float32]


def _faces(parts: Sequence[_Part], xs: Values, ys: Values, origin: tuple[int, int], join: bool) -> _Faces:
    """Triangles, at `xs` and `ys` in pixels, as faces whose corners are in samples from `origin`."""
    count = len(xs)
    nears, tones = np.concatenate([part.near for part in parts]), np.concatenate([part.tones for part in parts])
    x, y = np.empty((count, 4), np.float32), np.empty((count, 4), np.float32)
    planes, at = np.empty((count, 3), np.float32), np.empty((count, 11), np.float32)
    count = kernels.faces_of(x, y, planes, at, xs, ys, nears, tones, float(origin[0]), float(origin[1]), join)
    return _Faces(x[:count], y[:count], planes[:count], at[:count])


def _pictured(parts: Sequence[_Part], x: Values, y: Values) -> tuple[NDArray[np.uint32], Values]:
    """The sheet of all pictures, and for each triangle what the kernel asks of its own: none where no part has one."""
    covers = [part.cover for part in parts if part.cover is not None]
    if not covers:
        return np.zeros((1, 1), np.uint32), np.zeros((0, 16))
    words, rooms = joined([cover.sheet for cover in covers])
    maps, first = np.zeros((len(x), 16)), 0
    given = iter(rooms)
    for part in parts:
        last = first + len(part.x)
        if part.cover is not None:
            own = slice(first, last)
            room = rooms_for(next(given), part.cover.places, part.x, part.y)
            at = room[:, None, :2] + part.cover.places * room[:, None, 2:]
            # Over its depth a place is linear over the frame.
            linear = np.concatenate([at * part.near[..., None], part.fog], axis=2)
            maps[own, :9] = _slopes(x[own], y[own], linear).reshape(-1, 9)
            maps[own, 9:12] = part.under
            maps[own, 12:14], maps[own, 14:] = room[:, :2], room[:, :2] + room[:, 2:]
        first = last
    return words, maps


def _slopes(x: Values, y: Values, values: Values) -> Values:
    """Linear functions with given values at the corners of triangles, shape (n, 3, k): at the first corner, and by how
    much they grow across and down, shape (n, k, 3)."""
    first = values[:, 0]
    one, other = values[:, 1] - first, values[:, 2] - first
    ax, ay, bx, by = ((line[:, corner] - line[:, 0])[:, None] for corner, line in ((1, x), (1, y), (2, x), (2, y)))
    area = ax * by - bx * ay
    area = np.where(np.abs(area) < 1e-9, np.inf, area)
    return np.stack([first, (one * by - other * ay) / area, (other * ax - one * bx) / area], axis=-1)


def _projected(mesh: Mesh, camera: Camera, lights: Lights) -> _Part:
    """The triangles of a mesh that are seen, cut where they come too near to the eye."""
    mesh = _before(mesh, camera)
    count = len(mesh.corners)
    x, y, near, fog = (np.empty((count, 3)) for _ in range(4))
    tones, shown = np.empty((count, 3, 3)), np.empty(count, np.int32)
    given = [np.ascontiguousarray(values, np.float64) for values in (mesh.corners, mesh.normals, mesh.colours)]
    corners, normals, colours = given
    seen_by, lit_by, covered = camera.rows, _light_rows(lights, mesh.glow), mesh.cover is not None
    count = kernels.seen(
        x, y, near, tones, fog, shown, corners, normals, colours, seen_by, lit_by, mesh.closed, covered
    )
    shown = shown[:count]
    cover = mesh.cover and replace(mesh.cover, places=mesh.cover.places[shown])
    under = colours[shown, ::-1] * 255 if cover else np.zeros((0, 3))
    return _Part(x[:count], y[:count], near[:count], tones[:count], cover, fog[:count, :, None], under)


def _light_rows(lights: Lights, glow: float) -> Values:
    """Lights, and how much of its colour a mesh shines by itself, as `kernels.seen` takes them."""
    strengths = lights.ambient, lights.strength, lights.lamp_strength
    rows = [lights.direction, lights.colour, strengths, lights.lamp, lights.lamp_colour, (lights.lamp_reach, glow, 0.0)]
    return np.array(rows, np.float64)


def _before(mesh: Mesh, camera: Camera) -> Mesh:
    """A mesh without what lies behind the eye or too near to it: triangles that reach there are cut."""
    depth = (mesh.corners - camera.eye) @ camera.axes[2] - NEAREST * _BEYOND
    inside = depth > 0
    count = inside.sum(axis=1)
    if (count == 3).all():
        return mesh
    places = mesh.cover.places if mesh.cover else np.zeros((len(depth), 3, 0))
    values = np.concatenate([mesh.corners, mesh.normals, places], axis=2)
    kept_, colours = [values[count == 3]], [mesh.colours[count == 3]]
    for many in (1, 2):
        cut = np.flatnonzero(count == many)
        # The corner that is alone on its side comes first; the order round stays.
        alone = np.argmax(inside[cut] if many == 1 else ~inside[cut], axis=1)
        order = (alone[:, None] + np.arange(3)) % 3
        at, d = np.take_along_axis(values[cut], order[..., None], axis=1), np.take_along_axis(depth[cut], order, axis=1)
        one, other = (at[:, 0] + (at[:, n] - at[:, 0]) * (d[:, 0] / (d[:, 0] - d[:, n]))[:, None] for n in (1, 2))
        if many == 1:
            pieces = [np.stack([at[:, 0], one, other], axis=1)]
        else:
            pieces = [np.stack([one, at[:, 1], at[:, 2]], axis=1), np.stack([one, at[:, 2], other], axis=1)]
        kept_ += pieces
        colours += [mesh.colours[cut]] * len(pieces)
    values = np.concatenate(kept_)
    cover = mesh.cover and replace(mesh.cover, places=values[..., 6:])
    corners, normals = values[..., :3], values[..., 3:6]
    return replace(mesh, corners=corners, normals=normals, colours=np.concatenate(colours), cover=cover)
