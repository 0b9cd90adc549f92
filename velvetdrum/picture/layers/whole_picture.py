"""The whole picture so far, for effects to work on."""

from __future__ import annotations

from typing import ClassVar

from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import layer_kind


@layer_kind("whole-picture", "Whole picture")
class WholePicture(DrawnLayer):
    """All that lies behind it, as one picture: its effects and masks work on that."""

    designs: ClassVar[tuple[Design, ...]] = (
        # By itself it changes nothing: its picture is shown laid over itself.
        Design("ground", "Whole picture", {}, shown=("whole-picture", {"blend": "screen"})),
    )
    takes_behind: ClassVar[bool] = True
    turned: ClassVar[str] = ""

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        """Nothing of its own."""
