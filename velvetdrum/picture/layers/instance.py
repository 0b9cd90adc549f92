"""Another layer shown once more, as the `use` element of SVG shows one."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.settings import layer
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import layer_kind


@layer_kind("instance", "Instance")
class Instance(DrawnLayer):
    """A layer or a group shown once more, placed, blended and changed on its own."""

    summary: ClassVar[str] = "{source}"
    designs: ClassVar[tuple[Design, ...]] = (Design("shape", "Instance", {}),)
    turned: ClassVar[str] = ""

    source: str = layer(label="Layer", help="The layer or group that it shows, with its own effects and masks.")

    @property
    def instance_of(self) -> str:
        return self.source

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        """Nothing while no layer is chosen: the renderer draws the other one."""
