"""A space: a camera before layers that have depth."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import ClassVar

import numpy as np

from velvetdrum.declare.oklab import parse_hex
from velvetdrum.declare.settings import choice, colour, flag, number, rate
from velvetdrum.declare.vocabulary import degrees, percent, seed
from velvetdrum.picture.bases.layer import DrawnLayer, InSpace, Member, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.noise import wander
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.space.camera import NEAREST, Camera, Lens, Pose, Values
from velvetdrum.picture.space.clouds import Cloud, draw_clouds
from velvetdrum.picture.space.floor import draw_grid
from velvetdrum.picture.space.placement import placed_at
from velvetdrum.picture.space.plates import draw_plate
from velvetdrum.picture.space.solids import Lights, Mesh, draw_solids
from velvetdrum.scene.designs import Design, Follow
from velvetdrum.scene.kinds import layer_kind

_FLOOR = ("floor", (True,))


@layer_kind("space", "Space")
class Space(DrawnLayer):
    """Layers in a space, seen by a camera: marks and solids have depth, flat pictures stand in it as plates."""

    summary: ClassVar[str] = "{view}° · {distance} %"
    holds_members: ClassVar[bool] = True
    members_lie_flat: ClassVar[bool] = False
    camera: ClassVar[dict[str, str]] = {"across": "orbit", "up": "elevation", "near": "distance"}
    turned: ClassVar[str] = ""
    designs: ClassVar[tuple[Design, ...]] = (
        Design("space", "Space, camera at rest", {}, shown=("dot-field", {"form": "sphere"})),
        Design(
            "space",
            "Space, camera circling",
            {"elevation": 14.0, "orbit_turns": 1.0, "aperture": 3.0, "fog_to": 260.0, "fog_from": 90.0},
            follows=(Follow("shake", "hits", 0.0, 0.8),),
            shown=("dot-field", {"form": "grid", "layers": 7, "rows": 9}),
        ),
    )

    orbit: float = degrees(0, lo=-3600, hi=3600, help="The camera goes round what it looks at, to the right.")
    elevation: float = degrees(0, lo=-89, hi=89, help="How far above it stands.")
    distance: float = number(
        100, lo=5, hi=1000, unit="%", step=1, curve="log", help="100 shows a flat layer as it is without a camera."
    )
    view: float = degrees(40, lo=1, hi=179, label="Field of view", help="Over the frame's short side; wide ones bend.")
    roll: float = degrees(0, lo=-720, hi=720, help="Turns the camera about its own axis.")
    look_x: float = number(
        0,
        lo=-1000,
        hi=1000,
        unit="%",
        label="Look at X",
        help="Look at X, from the middle, as a share of the frame's short side.",
        advanced=True,
    )
    look_y: float = number(
        0,
        lo=-1000,
        hi=1000,
        unit="%",
        label="Look at Y",
        help="Look at Y, from the middle, as a share of the frame's short side.",
        advanced=True,
    )
    look_z: float = number(
        0,
        lo=-1000,
        hi=1000,
        unit="%",
        label="Look at Z",
        help="Look at Z, from the middle, as a share of the frame's short side.",
        advanced=True,
    )
    orbit_turns: float = rate(
        0,
        lo=-100,
        hi=100,
        unit="turns",
        step=0.25,
        label="Turns",
        group="motion",
        help="Turns that the camera makes by itself.",
    )
    orbit_per: str = choice(
        "track",
        {"track": "Over all of it", "bar": "A bar", "minute": "A minute"},
        label="Turns in",
        group="motion",
        help="Time that those turns take.",
    )
    shake: float = number(0, lo=0, hi=30, unit="°", group="motion", help="How far it trembles aside.")
    shake_rate: float = rate(
        1.5, lo=0.05, hi=30, unit="Hz", step=0.05, curve="log", group="motion", help="How fast it trembles."
    )
    seed: int = seed(of="another way", group="motion")
    focus: float = number(
        0,
        lo=-1000,
        hi=1000,
        unit="%",
        group="motion",
        help="Distance of the plane in focus, beyond the point looked at.",
    )
    aperture: float = number(
        0, lo=0, hi=60, unit="%", step=0.1, group="motion", help="Wider blurs more of what is out of focus."
    )
    fog_from: float = number(
        80,
        lo=0,
        hi=1000,
        unit="%",
        step=1,
        label="Fog from",
        group="colour",
        help="Distance at which fog begins, as a share of the distance looked at.",
    )
    fog_to: float = number(
        0,
        lo=0,
        hi=2000,
        unit="%",
        step=1,
        label="Fog to",
        group="colour",
        help="Distance at which all is fog; 0 for none.",
    )
    fog_colour: str = colour("#0a0f22", help="Colour of the fog.")
    light_azimuth: float = degrees(
        -35,
        lo=-720,
        hi=720,
        label="Light from",
        group="colour",
        help="Direction of the light, toward the viewer's right.",
    )
    light_elevation: float = degrees(
        50, lo=-90, hi=90, label="Light elevation", group="colour", help="Elevation of the light: 90 is from above."
    )
    light: float = number(75, lo=0, hi=400, unit="%", step=1, group="colour", help="How strong the light is.")
    light_colour: str = colour("#ffffff", help="Colour of the light.")
    ambient: float = number(35, lo=0, hi=200, unit="%", step=1, group="colour", help="Light from all sides.")
    lamp: float = number(0, lo=0, hi=400, unit="%", step=1, group="colour", help="A lamp at a point; for signals.")
    lamp_x: float = number(
        0,
        lo=-1000,
        hi=1000,
        unit="%",
        label="Lamp X",
        group="colour",
        help="Lamp X, as a share of the frame's short side.",
        advanced=True,
    )
    lamp_y: float = number(
        -20,
        lo=-1000,
        hi=1000,
        unit="%",
        label="Lamp Y",
        group="colour",
        help="Lamp Y, as a share of the frame's short side.",
        advanced=True,
    )
    lamp_z: float = number(
        30,
        lo=-1000,
        hi=1000,
        unit="%",
        label="Lamp Z",
        group="colour",
        help="Lamp Z, as a share of the frame's short side.",
        advanced=True,
    )
    lamp_colour: str = colour("#ffd9a0", help="Colour of the lamp.", advanced=True)
    floor: bool = flag(False, help="A floor that mirrors solids and carries a grid.")
    floor_y: float = number(
        30, lo=-1000, hi=1000, unit="%", label="Floor at", help="Below the middle, of the short side.", when=_FLOOR
    )
    reflection: float = percent(35, step=1, help="How much of solids it mirrors.", when=_FLOOR)
    grid: float = percent(25, step=1, label="Floor grid", help="How solid its lines are.", when=_FLOOR)
    grid_colour: str = colour(
        "#5fc4b4", label="Colour of the grid", help="Colour of the lines of the grid.", when=_FLOOR
    )

    @property
    def still(self) -> bool:
        """As still as its members, where the camera does not move by itself."""
        return not self.orbit_turns and not self.shake and not self.integrals

    def _turns(self, seconds: float, at: RenderContext) -> float:
        """How far it has gone round by itself."""
        beats = at.beats
        if self.orbit_per == "bar" and beats is not None:
            bar = float(beats.bar_at(np.array([seconds]))[0])
            if "orbit_turns" in self.integrals and at.curves is not None and at.project is not None:
                return at.curves.integral("orbit_turns", at.project.length_s, beats.bar_at, "bar").between(0.0, bar)
            return bar * self.orbit_turns
        span = 60.0 if self.orbit_per == "minute" else 2.0
        if self.orbit_per == "track" and at.project is not None:
            span = max(at.project.length_s, 1e-3)
        return self.integral("orbit_turns", seconds) / span

    def standing(self, view: Viewport, at: RenderContext) -> Camera:
        """The camera for a frame at a time."""
        seconds = float(at.time)
        turns = self._turns(seconds, at)
        sway = (0.0, 0.0)
        if self.shake:
            changes = self.integral("shake_rate", seconds)
            sway = tuple(  # type: ignore[assignment]
                self.shake * wander(self.seed * 4 + number_, changes) for number_ in (0, 1)
            )
        pose = Pose(
            (self.look_x, self.look_y, self.look_z),
            self.orbit + 360 * turns,
            self.elevation,
            self.roll,
            self.distance / 100,
            sway,
        )
        # A very wide view would let the eye stand in the picture plane.
        lens = Lens(float(np.clip(self.view, 1, 170)), 0.0, self.aperture, self.fog_from, self.fog_to, self.fog_colour)
        camera = Camera.standing(view, pose, lens)
        if self.focus:
            sharp = max(camera.distance + self.focus, NEAREST)
            camera = Camera.standing(view, pose, Lens(lens.view_deg, sharp, *self._opening()))
        return camera

    def _opening(self) -> tuple[float, float, float, str]:
        return self.aperture, self.fog_from, self.fog_to, self.fog_colour

    def lit(self) -> Lights:
        """The lights, as they are now."""
        return Lights(
            self.light_azimuth,
            self.light_elevation,
            self.light / 100,
            _rgb(self.light_colour),
            self.ambient / 100,
            (self.lamp_x, self.lamp_y, self.lamp_z),
            self.lamp / 100,
            _rgb(self.lamp_colour),
        )

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        return Box(-1e5, -1e5, 1e5, 1e5)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        """Nothing of its own but its members."""

    def draw_members(self, canvas: Canvas, at: RenderContext, members: Sequence[Member]) -> None:
        """Flat ones behind; solids; plates and marks from the farthest to the nearest; flat ones before them."""
        shown = [member for member in members if member.presence > 0]
        for member in shown:
            if member.layer.in_space == "behind":
                member.draw(canvas)
        camera, lights = self.standing(canvas, at), self.lit()
        inside = [(member, InSpace(camera, lights, placed_at(member.layer, canvas))) for member in shown]
        inside = [(member, space) for member, space in inside if member.layer.in_space == "in"]
        meshes: list[Mesh] = []
        clouds: list[Cloud] = []
        others: list[tuple[Member, InSpace]] = []
        for member, space in inside:
            result = member.layer.meshes(canvas, member.moment) if member.plain else None
            marks = member.layer.clouds(canvas, member.moment) if member.plain and result is None else None
            if result is not None:
                meshes += [mesh.moved(space.place) for mesh in result]
            elif marks is not None:
                clouds += [_faded(cloud.moved(space.place), member.presence) for cloud in marks]
            else:
                others.append((member, space))
        if self.floor and meshes:
            self._mirrored(canvas, meshes, camera, lights)
        if self.floor and self.grid > 0:
            colour = 0xFF000000 | int(self.grid_colour[1:], 16)
            draw_grid(canvas, camera, self.floor_y, colour, self.grid / 100)
        # A depth for each pixel is only kept where something can hide something else.
        nearest = None
        if meshes or (len(others) > 1) or (others and clouds):
            nearest = draw_solids(canvas, meshes, camera, lights).nearest
        for member, space in sorted(others, key=lambda item: -_depth(camera, item[1].place)):
            if member.layer.has_depth:
                member.draw_in(canvas, space)
            else:
                mode = member.layer.blend
                draw_plate(canvas, member.draw_at_rest, member.bounds, camera, space.place, nearest, mode)
        draw_clouds(canvas, clouds, camera, nearest)
        for member in shown:
            if member.layer.in_space == "front":
                member.draw(canvas)

    def _mirrored(self, canvas: Canvas, meshes: list[Mesh], camera: Camera, lights: Lights) -> None:
        """Solids once more, upside down below the floor."""
        if self.reflection <= 0 or camera.eye[1] > self.floor_y:
            return
        flip = np.diag([1.0, -1.0, 1.0, 1.0])
        flip[1, 3] = 2 * self.floor_y
        draw_solids(canvas, [mesh.mirrored(flip) for mesh in meshes], camera, lights, self.reflection / 100)

    def notes(self, at: RenderContext) -> list[str]:
        if self.view > 170:
            return [f"A field of view of {self.view:g}° can't be drawn; the camera takes 170°."]
        return []


def _depth(camera: Camera, place: Values) -> float:
    """How far before the eye the middle of a member lies."""
    return float((place[:3, 3] - camera.eye) @ camera.axes[2])


def _faded(cloud: Cloud, presence: float) -> Cloud:
    return cloud if presence >= 1 else replace(cloud, alphas=cloud.alphas * presence)


def _rgb(value: str) -> tuple[float, float, float]:
    red, green, blue = parse_hex(value).tolist()
    return red, green, blue
