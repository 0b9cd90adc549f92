"""What all layers have in common that consist of marks or solids in space."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.raster.viewport import Box, Viewport
from velvetdrum.picture.space.camera import Camera, Pose
from velvetdrum.picture.space.clouds import draw_clouds
from velvetdrum.picture.space.solids import Lights, draw_solids


class DeepLayer(DrawnLayer):
    """Base of layers that have depth. In a space they are seen by its camera, else by one of their own."""

    has_depth: ClassVar[bool] = True

    @property
    def rest_pose(self) -> Pose:
        """Where their own camera stands."""
        return Pose()

    def standing(self, view: Viewport, at: RenderContext) -> Camera | None:
        return Camera.standing(view, self.rest_pose)

    def paint_bounds(self, view: Viewport, at: RenderContext) -> Box:
        # Seen in perspective, they may be anywhere.
        return Box(-1e5, -1e5, 1e5, 1e5)

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        space = at.space
        camera = space.camera if space else Camera.standing(canvas, self.rest_pose)
        nearest = None
        meshes = self.meshes(canvas, at)
        if meshes:
            placed = [mesh.moved(space.place) for mesh in meshes] if space else meshes
            nearest = draw_solids(canvas, placed, camera, space.lights if space else Lights()).nearest
        clouds = self.clouds(canvas, at) or []
        draw_clouds(canvas, [cloud.moved(space.place) for cloud in clouds] if space else clouds, camera, nearest)
