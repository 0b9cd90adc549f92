"""Layer kinds: each is one class that declares its settings beside the code that draws it.

What every layer has, whatever it draws, is declared here: how solid it is, how it blends, when it is there, how it is
placed as a whole, and what part of it shows.
"""

from __future__ import annotations

from copy import copy
from functools import partial
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from velvetdrum.declare.schema import Declared, known_as
from velvetdrum.declare.settings import Condition, choice, flag, number
from velvetdrum.declare.vocabulary import degrees, percent
from velvetdrum.scene.designs import Design, GradientPlace, LevelScale, Sizing
from velvetdrum.signals.audio_range import AudioRange

BLEND_MODES = (
    "normal",
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
    "hue",
    "saturation",
    "color",
    "luminosity",
    "plus-lighter",
)
"""Blend modes by their names in W3C Compositing and Blending."""


class Layer(Declared):
    """Base of all layer kinds. What the page needs to know of a kind stands here, and is sent with its settings."""

    designs: ClassVar[tuple[Design, ...]] = ()
    """What there is to choose of it."""
    depth: ClassVar[int] = 2
    """Where a new one is put: 0 behind all, 1 in front of those alone, 2 in front of all."""
    sizings: ClassVar[tuple[Sizing, ...]] = ()
    """Settings that its handles change, where it is not scaled: the first whose conditions hold."""
    turned: ClassVar[str] = "turn"
    """The setting that turns it about its middle; empty where it has none that does."""
    drops: ClassVar[dict[str, str]] = {}
    """Files that it is made for when they are dropped on the page (picture, svg, clip): the setting that takes each."""
    fits: ClassVar[bool] = False
    """True when `fitted` reads something from a recording."""
    holds_members: ClassVar[bool] = False
    """True for a kind whose layers have members."""
    members_lie_flat: ClassVar[bool] = True
    """False for a kind whose members stand in space."""
    camera: ClassVar[dict[str, str]] = {}
    """Of a kind with a camera, the settings that dragging on the picture changes: across, up, and near (a share that is
    larger the farther away it stands)."""
    balls: ClassVar[tuple[tuple[str, ...], ...]] = ()
    """Settings that say where balls are (per cent of the short side from the frame's middle) and how large: X, Y,
    radius and, where it has one, Z of each; they are handled on the picture."""
    drawn_path: ClassVar[str] = ""
    """The setting with an outline as SVG path data: X and Y are its middle, `size` its longer side."""
    drawn_on: ClassVar[str] = ""
    """Of a kind with a drawn path: the setting that says how far its stroke is drawn, in per cent."""
    outlined: ClassVar[str] = ""
    """The kind that its outlines can become, as the path that is drawn."""
    parted: ClassVar[str] = ""
    """Of a kind that can be taken apart: the setting that names the part that alone is shown."""
    running: ClassVar[dict[str, str]] = {}
    """Of a kind that runs through a source of its own: the settings of its `in`, of its `speed` and of how far it
    is shifted (`slip`)."""
    gradient_place: ClassVar[GradientPlace | None] = None
    """Where its gradient lies, to be handled on the picture."""
    level_scale: ClassVar[LevelScale | None] = None
    """What is handled along its way of levels."""
    sounding: ClassVar[tuple[str, ...]] = ()
    """Settings that decide what is heard of it, where it has a sound of its own."""
    linked: ClassVar[tuple[str, str, str] | None] = None
    """A choice, the value with which a layer keeps its place to the recording, and the setting of that place in
    seconds."""
    sounds: ClassVar[tuple[Condition, ...]] = ()
    """When it is heard."""

    burns_captions: ClassVar[bool] = False
    """True for the kind that cues are drawn with when an export is to have them in its picture."""

    layer_opacity: float = percent(
        100, step=1, label="Layer opacity", group="layer", help="How solid the whole layer is."
    )
    blend: str = choice(
        "normal",
        {name: name.capitalize() for name in BLEND_MODES},
        group="layer",
        label="Blend mode",
        help="How it joins what is behind it (W3C Compositing and Blending).",
    )
    from_at: str = choice(
        "start",
        {"start": "Start", "sound": "First sound", "time": "A time"},
        label="In",
        group="layer",
        help="Moment at which the layer begins.",
    )
    from_s: float = number(
        0,
        lo=0,
        hi=10_800,
        unit="s",
        step=0.01,
        label="In time",
        group="layer",
        help="When it comes, in seconds of the project.",
        when=("from_at", ("time",)),
    )
    to_at: str = choice(
        "end",
        {"end": "End", "sound": "Last sound", "time": "A time"},
        label="Out",
        group="layer",
        help="Moment at which the layer ends.",
    )
    to_s: float = number(
        10,
        lo=0,
        hi=10_800,
        unit="s",
        step=0.01,
        label="Out time",
        group="layer",
        help="When it goes, in seconds of the project.",
        when=("to_at", ("time",)),
    )
    fade_in_s: float = number(
        0, lo=0, hi=60, unit="s", step=0.05, label="Fade in", group="layer", help="How long it takes to come."
    )
    fade_out_s: float = number(
        0,
        lo=0,
        hi=60,
        unit="s",
        step=0.05,
        label="Fade out",
        group="layer",
        help="How long it takes to go; it is gone at the end.",
    )
    move_x: float = number(
        0,
        lo=-200,
        hi=200,
        unit="%",
        label="Offset X",
        group="layer",
        help="Moves the whole layer, of the frame's width.",
    )
    move_y: float = number(
        0,
        lo=-200,
        hi=200,
        unit="%",
        label="Offset Y",
        group="layer",
        help="Moves the whole layer, of the frame's height.",
    )
    scale_x: float = number(
        100,
        lo=1,
        hi=400,
        unit="%",
        step=1,
        label="Scale X",
        group="layer",
        help="Width of the whole layer about its anchor.",
    )
    scale_y: float = number(
        100,
        lo=1,
        hi=400,
        unit="%",
        step=1,
        label="Scale Y",
        group="layer",
        help="Height of the whole layer about its anchor.",
    )
    flip_x: bool = flag(False, label="Flip across", group="layer", help="Left and right changed, about its anchor.")
    flip_y: bool = flag(False, label="Flip down", group="layer", help="Top and bottom changed, about its anchor.")
    spin: float = degrees(
        0,
        lo=-720,
        hi=720,
        label="Layer rotation",
        group="layer",
        help="Turns the whole layer about its anchor, clockwise.",
    )
    skew_x: float = degrees(
        0, lo=-75, hi=75, label="Skew X", group="layer", advanced=True, help="Leans it to the right, about its anchor."
    )
    skew_y: float = degrees(
        0, lo=-75, hi=75, label="Skew Y", group="layer", advanced=True, help="Leans it downward, about its anchor."
    )
    anchor_x: float = number(
        50,
        lo=-50,
        hi=150,
        unit="%",
        label="Anchor X",
        group="layer",
        advanced=True,
        help="The point about which it is scaled and turned, across the frame.",
    )
    anchor_y: float = number(
        50,
        lo=-50,
        hi=150,
        unit="%",
        label="Anchor Y",
        group="layer",
        advanced=True,
        help="The point about which it is scaled and turned, down the frame.",
    )

    in_space: str = choice(
        "in",
        {"in": "In space", "behind": "Flat, behind", "front": "Flat, in front"},
        label="Placement in depth",
        group="space",
        help="Whether the layer is in the space, or flat behind or in front of all that is in it.",
    )
    place_z: float = number(
        0,
        lo=-2000,
        hi=2000,
        unit="%",
        label="Position Z",
        group="space",
        help="Toward the viewer, or away from them below 0, of the frame's short side.",
    )
    turn_x: float = degrees(0, lo=-3600, hi=3600, label="Rotation X", group="space", help="About a line across it.")
    turn_y: float = degrees(0, lo=-3600, hi=3600, label="Rotation Y", group="space", help="About an upright line.")

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        result = super().check(values)
        timed = values["from_at"] == "time" and values["to_at"] == "time"
        if timed and values["to_s"] <= values["from_s"]:
            result.append(("to_s", "To must lie after From."))
        return result

    def time_span(self, length_s: float, sound: tuple[float, float] | None) -> tuple[float, float]:
        """When it comes and goes, in seconds of a project of this length. `sound` are the first and the last sound;
        without any, a span anchored to the sound is that of the project."""
        first, last = sound or (0.0, length_s)
        begin = {"start": 0.0, "sound": first, "time": self.from_s}[self.from_at]
        return begin, {"end": length_s, "sound": last, "time": self.to_s}[self.to_at]

    def fade_envelope(
        self, times: NDArray[np.float64], length_s: float, sound: tuple[float, float] | None
    ) -> NDArray[np.float64]:
        """How much of the layer is there at times, 0 to 1: its span and its fades, shape as `times`."""
        begin, end = self.time_span(length_s, sound)
        rise = (times - begin) / max(self.fade_in_s, 1e-6) if self.fade_in_s > 0 else np.ones_like(times)
        fall = (end - times) / max(self.fade_out_s, 1e-6) if self.fade_out_s > 0 else np.ones_like(times)
        # The last frame may begin after an uneven end; a layer that stays to the end stays for it.
        there = (times >= begin) & ((times < end) | (self.to_at == "end"))
        return np.asarray(np.clip(np.minimum(rise, fall), 0.0, 1.0) * there, np.float64)

    def presence(self, time_s: float, length_s: float, sound: tuple[float, float] | None) -> float:
        """How much of the layer is there at a time, 0 to 1: its opacity, its span and its fades, as `fade_envelope` has
        them."""
        begin, end = self.time_span(length_s, sound)
        if time_s < begin or (time_s >= end and self.to_at != "end"):
            return 0.0
        rise = (time_s - begin) / max(self.fade_in_s, 1e-6) if self.fade_in_s > 0 else 1.0
        fall = (end - time_s) / max(self.fade_out_s, 1e-6) if self.fade_out_s > 0 else 1.0
        return self.layer_opacity / 100 * min(max(min(rise, fall), 0.0), 1.0)

    @classmethod
    def fitted(cls, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
        """Settings, in stored form, that suit the used part of a recording; `settings` are those that are set."""
        return {}

    @classmethod
    def refitted(cls, settings: dict[str, Any], before: AudioRange, after: AudioRange) -> dict[str, Any]:
        """What of its settings changes, in stored form, when another sound takes the place of one: what is read from
        a recording stays as far from the fitted value as it was."""
        was, now = cls.fitted(settings, before), cls.fitted(settings, after)
        stored = cls.defaults() | settings
        return {name: stored[name] + now[name] - was[name] for name in was.keys() & now.keys()}

    @property
    def moved(self) -> bool:
        """True when it is not drawn just where its kind puts it."""
        rest = (self.move_x, self.move_y, self.spin, self.skew_x, self.skew_y) == (0, 0, 0, 0, 0)
        rest = rest and not self.flip_x and not self.flip_y
        return not rest or self.scale_x != 100 or self.scale_y != 100

    @property
    def direct(self) -> bool:
        """True when it can be drawn straight onto what is behind it, but for its presence and its masks."""
        return self.blend == "normal" and not self.moved


COMPOSITE_SETTINGS = frozenset(
    {"layer_opacity", "blend", "from_at", "from_s", "to_at", "to_s", "fade_in_s", "fade_out_s"}
)
"""Settings that say how and when a layer's picture joins the others, and nothing of that picture itself."""

GROUP = "group"
"""The kind of layers whose members lie flat, as one."""


def at_rest(layer: Any) -> Any:
    """A layer where its kind puts it: not moved, turned or scaled."""
    result = copy(layer)
    for name in ("move_x", "move_y", "spin", "skew_x", "skew_y"):
        setattr(result, name, 0.0)
    result.scale_x = result.scale_y = 100.0
    result.flip_x = result.flip_y = False
    return result


LAYER_KINDS: dict[str, type[Layer]] = {}
"""Every known kind by its name. Filled when `velvetdrum.picture.layers` is imported."""

layer_kind = partial(known_as, LAYER_KINDS)
"""Class decorator with a name and a title: makes a layer kind known."""
