"""Paint as settings, and the colours that they make."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.oklab import Rgb, from_oklab, opacity_ramp, parse_hex, ramp, to_oklab
from velvetdrum.declare.settings import Stop, When, choice, colour, flag, number, rate, stops
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.limits.cache import cached
from velvetdrum.picture.bases.layer import DrawnLayer
from velvetdrum.picture.raster.viewport import Viewport
from velvetdrum.scene.designs import GradientPlace

TABLE = 1024
"""Steps of a gradient's table."""

GRADED = ("along", "level", "field", "time")
_FIELD = (("paint", ("field",)),)
_LINED = (("paint", ("field",)), ("field", ("linear", "radial", "angular")))
_CORNERS = (("paint", ("field",)), ("field", ("corners",)))


def transition(*, advanced: bool = False, when: When = ()) -> Any:
    """The setting for how the colours of a gradient meet."""
    return choice(
        "smooth",
        {"smooth": "Smooth", "steps": "Hard steps"},
        label="Transition",
        group="colour",
        help="Colours flow into each other, or each holds until the next.",
        advanced=advanced,
        when=when,
    )


def mixing(*, when: When = ()) -> Any:
    """The setting for the colour space of a gradient."""
    return choice(
        "oklab",
        {"oklab": "Oklab, even to the eye", "srgb": "sRGB"},
        label="Interpolation",
        group="colour",
        help="The colour space in which neighbouring colours are blended.",
        advanced=True,
        when=when,
    )


@dataclass(frozen=True)
class FieldPlan:
    """A fixed field in a frame: its form, and where it lies in pixels."""

    form: str
    x: float
    y: float
    reach: float
    degrees: float
    corners: tuple[str, str, str, str]
    frame: tuple[int, int]


@dataclass(frozen=True)
class Ink:
    """The colours of a figure at one time. Places along the figure, levels and places in the field go from 0 to 1."""

    paint: str
    plain: str
    colours: tuple[Stop, ...]
    mix: str
    steps: bool
    back: bool
    drifts: bool
    shift: float
    """How far the gradient has drifted, in turns of it."""
    hue: float
    """Hue rotation at the figure's end, in degrees."""
    hue_shift: float
    hue_back: bool
    field: FieldPlan
    opacity: float

    @property
    def by_item(self) -> bool:
        """True when every bar or dot has one colour of its own."""
        return self.paint in ("one", "along", "time")

    @property
    def even(self) -> bool:
        """True when the whole figure has one colour."""
        return self.paint in ("one", "time") and not self.hue

    def in_one(self, plain: str) -> Ink:
        """The ink in one colour (#rrggbb), without hue turns, as solid as it was."""
        return replace(self, paint="one", plain=plain, hue=0.0, hue_shift=0.0)

    def fainter(self, share: float) -> Ink:
        """The same ink, `share` as solid."""
        return replace(self, opacity=self.opacity * share)

    def table(self) -> Rgb:
        """The gradient as it stands now, shape (TABLE, 3), by place in it; not to be written to."""
        return _table(self)

    @property
    def clear(self) -> bool:
        """True when its gradient has places that are not solid."""
        return self.paint != "one" and any(len(value) == 9 for _, value in self.colours)

    def solid_table(self) -> NDArray[np.float64] | None:
        """How solid each entry of the table is, shape (TABLE,), 0 to 1; None where all are. Not to be written to."""
        return _solid_table(self) if self.clear else None

    def solid_along(self, places: NDArray[np.float64]) -> NDArray[np.float64] | float:
        """How solid items at places along the figure are, shape (n,); 1 where all are."""
        solid = self.solid_table()
        return 1.0 if solid is None else np.asarray(solid[np.rint(places * (TABLE - 1)).astype(np.intp)])

    def solid_at_level(self, places: NDArray[np.float64], levels: NDArray[np.float64]) -> NDArray[np.float64] | float:
        """As `solid_along`, for items of one level each."""
        return self.solid_along(np.clip(levels, 0, 1) if self.paint == "level" else places)

    def turned(self, rgb: Rgb, along: NDArray[np.float64]) -> Rgb:
        """Colours with their hue turned as it is at places along the figure."""
        if not self.hue and not self.hue_shift:
            return rgb
        places = 1.0 - np.abs(2.0 * along - 1.0) if self.hue_back else along
        angle = np.deg2rad(self.hue * places + 360.0 * self.hue_shift)
        lab = to_oklab(rgb)
        out = lab.copy()
        out[..., 1] = lab[..., 1] * np.cos(angle) - lab[..., 2] * np.sin(angle)
        out[..., 2] = lab[..., 1] * np.sin(angle) + lab[..., 2] * np.cos(angle)
        return from_oklab(out)

    def along(self, places: NDArray[np.float64]) -> Rgb:
        """Colours of items at places along the figure, shape (n, 3). For paints that are `by_item`."""
        return self.turned(self.table()[np.rint(places * (TABLE - 1)).astype(np.intp)], places)

    def at_level(self, places: NDArray[np.float64], levels: NDArray[np.float64]) -> Rgb:
        """Colours of items of one level each. For all paints but the fixed field."""
        if self.paint != "level":
            return self.along(places)
        return self.turned(self.table()[np.rint(np.clip(levels, 0, 1) * (TABLE - 1)).astype(np.intp)], places)


@cached
def _table(ink: Ink) -> Rgb:
    if ink.paint == "one":
        return np.broadcast_to(parse_hex(ink.plain), (TABLE, 3))
    result = ramp(ink.colours, 4 * TABLE, ink.mix, ink.steps)[_entries(ink)]
    result.flags.writeable = False
    return result


@cached
def _solid_table(ink: Ink) -> NDArray[np.float64]:
    solid = opacity_ramp(ink.colours, 4 * TABLE, ink.steps)
    result = np.ones(TABLE) if solid is None else solid[_entries(ink)]
    result.flags.writeable = False
    return result


def _entries(ink: Ink) -> NDArray[np.intp]:
    """Which of four times as many steps of the gradient each entry of the table is."""
    places = np.zeros(TABLE) if ink.paint == "time" else np.linspace(0.0, 1.0, TABLE)
    if ink.drifts:
        places = places + ink.shift
        places = places - np.floor(places)
    if ink.back or (ink.drifts and not ink.steps):
        places = 1.0 - np.abs(2.0 * places - 1.0)
    return np.rint(places * (4 * TABLE - 1)).astype(np.intp)


class Painted(DrawnLayer):
    """Settings of everything that is coloured by paint."""

    gradient_place: ClassVar[GradientPlace | None] = GradientPlace(
        (("field_x", "field_y"),), "field_size", "field_turn"
    )

    paint: str = choice(
        "along",
        {"one": "One colour", "along": "Along", "level": "By level", "field": "Behind it", "time": "Over time"},
        label="Paint",
        group="colour",
        help="One colour; a gradient along the figure, from quiet to loud, fixed behind the whole, or over time.",
    )
    plain: str = colour("#e0ac55", label="Colour", help="The colour of the figure.", when=("paint", ("one",)))
    colours: tuple[Stop, ...] = stops(
        [(0.0, "#ff7a66"), (0.34, "#e0ac55"), (0.67, "#5fc4b4"), (1.0, "#a99bff")],
        label="Gradient",
        help="Colours from the start of the gradient to its end.",
        clear=True,
        when=("paint", GRADED),
    )
    field: str = choice(
        "linear",
        {"linear": "Linear", "radial": "Radial", "angular": "Conic", "corners": "Four corners"},
        label="Gradient type",
        group="colour",
        help="How the fixed gradient lies behind the figure.",
        when=_FIELD,
    )
    field_x: float = number(
        50,
        lo=-50,
        hi=150,
        unit="%",
        label="Gradient X",
        group="colour",
        help="Middle of the field, across the frame.",
        when=_LINED,
    )
    field_y: float = number(
        50,
        lo=-50,
        hi=150,
        unit="%",
        label="Gradient Y",
        group="colour",
        help="Middle of the field, down the frame.",
        when=_LINED,
    )
    field_size: float = number(
        100,
        lo=1,
        hi=400,
        unit="%",
        label="Gradient size",
        group="colour",
        help="From its start to its end, of the frame's short side.",
        when=(("paint", ("field",)), ("field", ("linear", "radial"))),
    )
    field_turn: float = degrees(
        90,
        label="Gradient angle",
        group="colour",
        help="Where a linear field leads, or an angular one begins: 0 is up, 90 to the right.",
        when=(("paint", ("field",)), ("field", ("linear", "angular"))),
    )
    corner_1: str = colour("#ff7a66", label="Top left", help="Colour of that corner.", when=_CORNERS)
    corner_2: str = colour("#e0ac55", label="Top right", help="Colour of that corner.", when=_CORNERS)
    corner_3: str = colour("#5fc4b4", label="Bottom right", help="Colour of that corner.", when=_CORNERS)
    corner_4: str = colour("#a99bff", label="Bottom left", help="Colour of that corner.", when=_CORNERS)
    opacity: float = percent(100, step=1, group="colour", help="How solid the figure is.")
    steps: str = transition(advanced=True, when=("paint", GRADED))
    mix: str = mixing(when=("paint", GRADED))
    back: bool = flag(
        False,
        label="Repeat mirrored",
        group="colour",
        advanced=True,
        when=("paint", GRADED),
        help="The gradient returns to its first colour, so that a closed shape has no seam.",
    )
    drift: float = rate(
        0,
        lo=-60,
        hi=60,
        unit="turns/min",
        group="colour",
        advanced=True,
        when=("paint", GRADED),
        help="How fast the gradient moves on. A smooth one then goes there and back.",
    )
    hue: float = degrees(
        0,
        lo=-720,
        hi=720,
        label="Hue rotation",
        group="colour",
        advanced=True,
        help="Turns the hue across the figure, up to this much at its end.",
    )
    hue_drift: float = rate(
        0, lo=-60, hi=60, unit="turns/min", group="colour", advanced=True, help="How fast all hues turn."
    )
    hue_back: bool = flag(
        False,
        label="Hue repeat mirrored",
        group="colour",
        advanced=True,
        help="The hue turns to the middle of the figure and back.",
    )

    @property
    def changing(self) -> bool:
        """True when its colours change over time by themselves."""
        return bool(self.drift or self.hue_drift or self.integrals) or self.paint == "time"

    def ink(self, canvas: Viewport, time_s: float, hue_turns: float = 0.0) -> Ink:
        """The colours of this layer in a frame of the canvas's size, all hues turned by `hue_turns`."""
        short = canvas.short / 100
        plan = FieldPlan(
            self.field,
            canvas.x(self.field_x),
            canvas.y(self.field_y),
            self.field_size * short,
            self.field_turn,
            (self.corner_1, self.corner_2, self.corner_3, self.corner_4),
            (canvas.width, canvas.height),
        )
        shift = self.integral("drift", time_s) / 60.0
        hue_shift = self.integral("hue_drift", time_s) / 60.0 + hue_turns
        return Ink(
            self.paint,
            self.plain,
            self.colours,
            self.mix,
            self.steps == "steps",
            self.back,
            self.drift != 0.0 or "drift" in self.integrals or self.paint == "time",
            shift % 1.0,
            self.hue,
            hue_shift % 1.0,
            self.hue_back,
            plan,
            self.opacity / 100,
        )
