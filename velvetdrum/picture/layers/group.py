"""A group: layers that move, fade, blend and are masked as one."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.declare.settings import flag
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.kinds import GROUP, layer_kind


@layer_kind(GROUP, "Group")
class Group(DrawnLayer):
    """Layers that move, fade, blend and are masked as one."""

    holds_members: ClassVar[bool] = True

    isolate: bool = flag(
        False,
        label="Isolated",
        group="layer",
        help="Its members blend with each other only, not with what is behind the group (CSS "
        "isolation). A group that is placed, masked, faded or blended always does.",
    )

    @property
    def still(self) -> bool:
        """As still as its members."""
        return True

    @property
    def direct(self) -> bool:
        return super().direct and not self.isolate

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        """Nothing of its own: the renderer draws its members."""
