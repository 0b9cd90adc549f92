"""Layer kinds: each is one class that declares its settings beside the code that draws it.

What every layer has, whatever it draws, is declared here: how solid it is, how it blends, when it is there, how it is
placed as a whole, and what part of it shows.
"""

from __future__ import annotations

from functools import partial
from typing import Any

from velvetdrum.kinds.declared import Declared, known_as
from velvetdrum.kinds.settings import choice, flag, number

BLEND_MODES = (
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light",
    "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity", "plus-lighter",
)  # fmt: skip
"""Blend modes by their names in W3C Compositing and Blending."""

_MASKED = ("mask_shape", ("rectangle", "ellipse", "ring"))


class Layer(Declared):
    """Base of all layer kinds."""

    layer_opacity: float = number(100, lo=0, hi=100, unit="%", step=1, label="Layer opacity", group="layer",
                                  help="How solid the whole layer is.")  # fmt: skip
    blend: str = choice("normal", {name: name.capitalize() for name in BLEND_MODES}, group="layer",
                        help="How it joins what is behind it (W3C Compositing and Blending).")  # fmt: skip
    lasts: str = choice(
        "all",
        {"all": "Always", "sound": "First to last sound", "typed": "From, to"},
        label="Shows",
        group="layer",
        help="When it is there.",
    )
    from_s: float = number(0, lo=0, hi=10_800, unit="s", step=0.01, label="From", group="layer",
                           help="When it comes, in seconds of the project.", when=("lasts", ("typed",)))  # fmt: skip
    to_s: float = number(10, lo=0, hi=10_800, unit="s", step=0.01, label="To", group="layer",
                         help="When it goes, in seconds of the project.", when=("lasts", ("typed",)))  # fmt: skip
    fade_in_s: float = number(0, lo=0, hi=60, unit="s", step=0.05, label="Fade in", group="layer",
                              help="How long it takes to come.", when=("lasts", ("sound", "typed")))  # fmt: skip
    fade_out_s: float = number(0, lo=0, hi=60, unit="s", step=0.05, label="Fade out", group="layer",
                               help="How long it takes to go; it is gone at the end.",
                               when=("lasts", ("sound", "typed")))  # fmt: skip
    move_x: float = number(0, lo=-200, hi=200, unit="%", label="Move across", group="layer",
                           help="Moves the whole layer, of the frame's width.")  # fmt: skip
    move_y: float = number(0, lo=-200, hi=200, unit="%", label="Move down", group="layer",
                           help="Moves the whole layer, of the frame's height.")  # fmt: skip
    scale_x: float = number(100, lo=1, hi=400, unit="%", step=1, label="Scale across", group="layer",
                            help="Width of the whole layer about its anchor.")  # fmt: skip
    scale_y: float = number(100, lo=1, hi=400, unit="%", step=1, label="Scale down", group="layer",
                            help="Height of the whole layer about its anchor.")  # fmt: skip
    spin: float = number(0, lo=-720, hi=720, unit="°", step=1, label="Turn all", group="layer",
                         help="Turns the whole layer about its anchor, clockwise.")  # fmt: skip
    skew_x: float = number(0, lo=-75, hi=75, unit="°", step=1, label="Skew across", group="layer", often=False,
                           help="Leans it to the right, about its anchor.")  # fmt: skip
    skew_y: float = number(0, lo=-75, hi=75, unit="°", step=1, label="Skew down", group="layer", often=False,
                           help="Leans it downward, about its anchor.")  # fmt: skip
    anchor_x: float = number(50, lo=-50, hi=150, unit="%", label="Anchor across", group="layer", often=False,
                             help="The point about which it is scaled and turned, across the frame.")  # fmt: skip
    anchor_y: float = number(50, lo=-50, hi=150, unit="%", label="Anchor down", group="layer", often=False,
                             help="The point about which it is scaled and turned, down the frame.")  # fmt: skip
    mask_shape: str = choice("none", {"none": "None", "rectangle": "Rectangle", "ellipse": "Ellipse", "ring": "Ring"},
                             label="Mask", group="layer", help="The part of the layer that shows.")  # fmt: skip
    mask_x: float = number(50, lo=-50, hi=150, unit="%", label="Mask across", group="layer", when=_MASKED,
                           help="Middle of the mask, across the frame.")  # fmt: skip
    mask_y: float = number(50, lo=-50, hi=150, unit="%", label="Mask down", group="layer", when=_MASKED,
                           help="Middle of the mask, down the frame.")  # fmt: skip
    mask_width: float = number(60, lo=0, hi=400, unit="%", label="Mask width", group="layer", when=_MASKED,
                               help="Of the frame's short side.")  # fmt: skip
    mask_height: float = number(60, lo=0, hi=400, unit="%", label="Mask height", group="layer", when=_MASKED,
                                help="Of the frame's short side.")  # fmt: skip
    mask_hole: float = number(50, lo=0, hi=100, unit="%", label="Mask hole", group="layer",
                              when=("mask_shape", ("ring",)), help="Inner size of the ring, of its outer.")  # fmt: skip
    mask_feather: float = number(0, lo=0, hi=60, unit="%", label="Feather", group="layer", when=_MASKED,
                                 help="Width over which the mask's edge fades, of the frame's short side.")  # fmt: skip
    mask_invert: bool = flag(False, label="Mask inverted", group="layer", when=_MASKED,
                             help="Shows what lies outside of the mask.")  # fmt: skip

    @classmethod
    def check(cls, values: dict[str, Any]) -> list[tuple[str, str]]:
        found = super().check(values)
        if values["lasts"] == "typed" and values["to_s"] <= values["from_s"]:
            found.append(("to_s", "To must lie after From."))
        return found

    def presence(self, time_s: float, sound: tuple[float, float] | None) -> float:
        """How much of the layer is there at a time, 0 to 1: its opacity, its span and its fades. `sound` are the first
        and the last sound in seconds of the project."""
        opacity = self.layer_opacity / 100
        if self.lasts == "all" or (self.lasts == "sound" and sound is None):
            return opacity
        begin, end = (self.from_s, self.to_s) if self.lasts == "typed" or sound is None else sound
        if not begin <= time_s < end:
            return 0.0
        rise = (time_s - begin) / self.fade_in_s if self.fade_in_s > 0 else 1.0
        fall = (end - time_s) / self.fade_out_s if self.fade_out_s > 0 else 1.0
        return opacity * min(rise, fall, 1.0)

    @property
    def moved(self) -> bool:
        """True when it is not drawn just where its kind puts it."""
        rest = (self.move_x, self.move_y, self.spin, self.skew_x, self.skew_y) == (0, 0, 0, 0, 0)
        return not rest or self.scale_x != 100 or self.scale_y != 100

    @property
    def direct(self) -> bool:
        """True when it can be drawn straight onto what is behind it, but for its presence."""
        return self.blend == "normal" and self.mask_shape == "none" and not self.moved


LAYER_KINDS: dict[str, type[Layer]] = {}
"""Every known kind by its name. Filled when `velvetdrum.picture.layers` is imported."""

layer_kind = partial(known_as, LAYER_KINDS)
"""Class decorator with a name and a title: makes a layer kind known."""
