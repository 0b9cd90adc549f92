"""A layer kind: a flag of one colour on the left of the frame."""

from typing import Any, ClassVar

from velvetdrum.declare.settings import colour, number
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.designs import Design, Sizing
from velvetdrum.scene.kinds import layer_kind
from velvetdrum.signals.audio_range import AudioRange


@layer_kind("pennant", "Pennant")
class Pennant(DrawnLayer):
    """A flag that hangs on the left."""

    designs: ClassVar[tuple[Design, ...]] = (Design("ground", "Red pennant", {"plain": "#ff0000"}),)
    depth: ClassVar[int] = 1
    fits: ClassVar[bool] = True
    sizings: ClassVar[tuple[Sizing, ...]] = (Sizing(across=("width",)),)

    width: float = number(25, lo=0, hi=100, unit="%", help="Of the frame.")
    plain: str = colour("#00ff00", label="Colour", help="Of the flag.")

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        return {"width": 50.0}

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        word = 0xFF000000 | int(self.plain[1:], 16)
        area = (0, 0, round(canvas.x(self.width)), canvas.height)
        canvas.part(area).view("uint32")[..., 0] = word
        canvas.touch(area)
