"""Another layer shown once more, as the `use` element of SVG shows one."""

from __future__ import annotations

from fractions import Fraction
from typing import ClassVar

from velvetdrum.declare.settings import choice, layer, number
from velvetdrum.declare.vocabulary import clip_time
from velvetdrum.picture.bases.layer import DrawnLayer, RenderContext
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import layer_kind

_RUNNING = ("runs", ("along", "back"))
_HELD = ("runs", ("held",))


@layer_kind("instance", "Instance")
class Instance(DrawnLayer):
    """A layer or a group shown once more, placed, blended and changed on its own."""

    summary: ClassVar[str] = "{source}"
    designs: ClassVar[tuple[Design, ...]] = (Design("shape", "Instance", {}, source=("shape", {"form": "polygon"})),)
    turned: ClassVar[str] = ""

    source: str = layer(label="Layer", help="The layer or group that it shows, with its own effects and masks.")

    runs: str = choice(
        "along",
        {"along": "With the project", "held": "Held", "back": "Backward"},
        label="Runs",
        group="motion",
        help="What time of the layer it shows: that of the project, one time, or from its end to its beginning.",
    )
    delay_s: float = number(
        0,
        lo=-600,
        hi=600,
        unit="s",
        step=0.01,
        label="Delay",
        group="motion",
        when=_RUNNING,
        help="How much later it shows what the layer shows; earlier below 0.",
    )
    held_s: float = clip_time(
        label="Held at",
        when=_HELD,
        help="The time of the project whose picture it holds. Keyframes and signals run it as they like.",
    )

    @property
    def instance_of(self) -> str:
        return self.source

    def instance_time(self, time: Fraction, since: float, until: float) -> Fraction:
        match self.runs:
            case "held":
                return _exact(self.held_s)
            case "back":
                return _exact(since + until) - time - _exact(self.delay_s)
        return time - _exact(self.delay_s) if self.delay_s else time

    def draw(self, canvas: Canvas, at: RenderContext) -> None:
        """Nothing while no layer is chosen: the renderer draws the other one."""


def _exact(seconds: float) -> Fraction:
    """Seconds as a fraction, to the microsecond."""
    return Fraction(seconds).limit_denominator(1_000_000)
