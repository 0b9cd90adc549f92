"""A camera: how points in space come onto the frame, how sharp they are there, and how much of the fog is before them.

Space is measured in per cent of the frame's short side, from the frame's middle: x to the right, y down, z toward the
viewer, as CSS Transforms 2 has it. A camera at rest shows the plane z = 0 as a flat picture would be.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import parse_hex
from velvetdrum.picture.raster.viewport import Viewport

Values = NDArray[np.float64]

NEAREST = 2.0
"""What lies nearer to the eye than this, in per cent of the short side, is not seen."""


@dataclass(frozen=True)
class Lens:
    """What a camera sees, apart from where it stands: the angle of view over the short side in degrees, the distance
    that is sharp (per cent of the short side; 0 for that of the point looked at), and the diameter of its opening
    (likewise). Fog: where it begins and where nothing else is left, in per cent of the distance to the point looked
    at, and its colour; none where it ends before it begins."""

    view_deg: float = 40.0
    focus: float = 0.0
    aperture: float = 0.0
    fog_from: float = 0.0
    fog_to: float = 0.0
    fog_colour: str = "#000000"


@dataclass(frozen=True)
class Pose:
    """Where a camera stands: the point that it looks at, its turns about that (degrees; positive ones go to the right
    and up), its roll, and its distance as a share of the one at which z = 0 fills the frame."""

    look_at: tuple[float, float, float] = (0.0, 0.0, 0.0)
    orbit_deg: float = 0.0
    elevation_deg: float = 0.0
    roll_deg: float = 0.0
    distance: float = 1.0
    sway: tuple[float, float] = (0.0, 0.0)
    """How far it is turned aside besides, to the right and down, in degrees."""


@dataclass(frozen=True, eq=False)
class Projection:
    """Points as a camera sees them: places in pixels, how far before the eye they lie (per cent of the short side), and
    how many pixels a per cent has there."""

    x: Values
    y: Values
    depth: Values
    scale: Values

    @property
    def there(self) -> NDArray[np.bool_]:
        """True for points before the eye."""
        return self.depth > NEAREST


@dataclass(frozen=True, eq=False)
class Camera:
    """A camera for a frame. `axes` has the directions right, down and forward as rows, `eye` is where it stands."""

    eye: Values
    axes: Values
    focal: float
    """Pixels that a slope of 1 has on the frame."""
    middle: tuple[float, float]
    unit: float
    """Pixels of a per cent of the short side on the frame itself."""
    distance: float
    """From the eye to the point looked at."""
    lens: Lens = field(default_factory=Lens)

    @classmethod
    def standing(cls, view: Viewport, pose: Pose | None = None, lens: Lens | None = None) -> Camera:
        """A camera for a frame; by default one that shows z = 0 as it is.

        Parameters
        ----------
        view
            The frame.
        pose
            Where it stands and what it looks at.
        lens
            Its angle and its depth of field.
        """
        pose, lens = pose or Pose(), lens or Lens()
        rest = 50.0 / np.tan(np.deg2rad(lens.view_deg) / 2)
        away = max(rest * pose.distance, 2 * NEAREST)
        orbit, up = np.deg2rad(pose.orbit_deg), np.deg2rad(np.clip(pose.elevation_deg, -89.0, 89.0))
        look_at = np.array(pose.look_at)
        eye = look_at + away * np.array([np.sin(orbit) * np.cos(up), -np.sin(up), np.cos(orbit) * np.cos(up)])
        forward = (look_at - eye) / away
        right = np.cross(forward, [0.0, 1.0, 0.0])
        right /= np.linalg.norm(right)
        down = np.cross(right, forward)
        across, along = np.deg2rad(pose.sway)
        forward, right = _turned(forward, right, across)
        forward, down = _turned(forward, down, along)
        right, down = _turned(right, down, np.deg2rad(pose.roll_deg))
        unit = view.short / 100.0
        return cls(
            eye,
            np.stack([right, down, forward]),
            rest * unit,
            (view.width / 2, view.height / 2),
            unit,
            away,
            lens,
        )

    def seen(self, points: Values) -> Projection:
        """Points in space, shape (n, 3), on the frame. Those behind the eye have a depth of less than `NEAREST`, and no
        place.

        Parameters
        ----------
        points
            Places in space, shape (n, 3).
        """
        across, down, depth = ((points - self.eye) @ self.axes.T).T
        scale = self.focal / np.maximum(depth, NEAREST / 2)
        return Projection(self.middle[0] + across * scale, self.middle[1] + down * scale, depth, scale)

    @property
    def matrix(self) -> Values:
        """From points in space, homogeneous, to pixels times depth, pixels times depth, and depth: shape (3, 4)."""
        scaled = np.array([[self.focal, 0, self.middle[0]], [0, self.focal, self.middle[1]], [0, 0, 1.0]]) @ self.axes
        return np.concatenate([scaled, -(scaled @ self.eye)[:, None]], axis=1)

    @property
    def rows(self) -> Values:
        """The camera as compiled loops take it, in rows of three: eye; directions right, down and forward; focal length
        in pixels and the frame's middle; depths at which fog begins and ends, and the least that is divided by; the
        fog's colour, sRGB from 0 to 1."""
        fog = (share / 100 * self.distance for share in (self.lens.fog_from, self.lens.fog_to))
        rows = [self.eye, *self.axes, (self.focal, *self.middle), (*fog, NEAREST / 2), self.fog_colour]
        return np.array(rows, np.float64)

    @property
    def sharp_at(self) -> float:
        """How far before the eye it is sharp."""
        return self.lens.focus or self.distance

    def blur(self, depth: Values) -> Values:
        """Diameter in pixels of the circle that a point becomes at a depth: A f |d - s| / (d s), with the opening's
        diameter A, the focal length f in pixels and the sharp distance s (thin lens, far from its own length).

        Parameters
        ----------
        depth
            Distances along the axis, in units of the space.
        """
        if self.lens.aperture <= 0:
            return np.zeros(len(depth))
        d = np.maximum(depth, NEAREST)
        return self.lens.aperture * self.focal * np.abs(d - self.sharp_at) / (d * self.sharp_at)

    def fog(self, depth: Values) -> Values:
        """How much of what lies at a depth the fog hides, 0 to 1.

        Parameters
        ----------
        depth
            Distances along the axis, in units of the space.
        """
        low, high = (share / 100 * self.distance for share in (self.lens.fog_from, self.lens.fog_to))
        if high <= low:
            return np.zeros(len(depth))
        share = np.clip((depth - low) / (high - low), 0.0, 1.0)
        return np.asarray(share * share * (3 - 2 * share))

    @property
    def fog_colour(self) -> Values:
        """Colour of the fog, sRGB from 0 to 1."""
        return np.asarray(parse_hex(self.lens.fog_colour), np.float64)


def _turned(one: Values, other: Values, angle: float) -> tuple[Values, Values]:
    cos, sin = np.cos(angle), np.sin(angle)
    return one * cos + other * sin, other * cos - one * sin


def turns(x_deg: float, y_deg: float, z_deg: float = 0.0) -> Values:
    """A rotation in space, shape (3, 3), of column vectors: first about z, then y, then x, each as CSS `rotate3d` has
    it, in degrees.

    Parameters
    ----------
    x_deg
        Turn about x, in degrees.
    y_deg
        Turn about y, in degrees.
    z_deg
        Turn about z, in degrees.
    """
    (cx, sx), (cy, sy), (cz, sz) = ((np.cos(angle), np.sin(angle)) for angle in np.deg2rad([x_deg, y_deg, z_deg]))
    about_x = np.array([[1, 0, 0], [0, cx, -sx], [0, sx, cx]])
    about_y = np.array([[cy, 0, sy], [0, 1, 0], [-sy, 0, cy]])
    about_z = np.array([[cz, -sz, 0], [sz, cz, 0], [0, 0, 1]])
    return np.asarray(about_x @ about_y @ about_z)
