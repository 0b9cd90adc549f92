"""Effects: what changes a layer's picture after it was drawn."""

from __future__ import annotations

from typing import Any, ClassVar

from velvetdrum.declare.setting import Setting
from velvetdrum.declare.settings import choice, flag, layer, number
from velvetdrum.declare.vocabulary import percent
from velvetdrum.scene.designs import Design
from velvetdrum.scene.kinds import BLEND_MODES
from velvetdrum.scene.parts import Part, new_part, part_sort
from velvetdrum.scene.problems import Document

EFFECTS = part_sort(
    "effect",
    listed="effects",
    called="An effect",
    most=40,
    optional=True,
    help="An effect changes the layer's picture once it is drawn and in its place. Each works on what the one before "
    "it left, and masks come after all of them.",
)
EFFECT_KINDS: dict[str, type[Effect]] = EFFECTS.kinds
"""Every known kind by its name. Filled when `velvetdrum.picture.effects` is imported."""

effect_kind = EFFECTS.kind
"""Class decorator with a name and a title: makes an effect kind known."""


class Effect(Part):
    """Base of all effect kinds: what every effect has."""

    family: ClassVar[str] = "colour"
    """Where it stands among the effects, see `EFFECT_FAMILIES`."""
    designs: ClassVar[tuple[Design, ...]] = ()
    """What there is to choose of it; the kind with its defaults where there are none."""

    strength: float = percent(100, step=1, group="effect", help="How much of it there is: 0 leaves the picture alone.")
    joins: str = choice(
        "replace",
        {"replace": "Replace"} | {name: name.capitalize() for name in BLEND_MODES},
        label="Blend mode",
        group="effect",
        help="How its result joins the picture that it was given: in its place, or in a mode of W3C Compositing.",
        advanced=True,
    )
    lasts: str = choice(
        "all",
        {"all": "All the time", "time": "A time"},
        label="Span",
        group="effect",
        help="When the effect is applied.",
        advanced=True,
    )
    from_s: float = number(
        0,
        lo=0,
        hi=10_800,
        unit="s",
        step=0.01,
        label="In time",
        group="effect",
        help="When it begins, in seconds of the project.",
        advanced=True,
        when=("lasts", ("time",)),
    )
    to_s: float = number(
        10,
        lo=0,
        hi=10_800,
        unit="s",
        step=0.01,
        label="Out time",
        group="effect",
        help="When it ends, in seconds of the project.",
        advanced=True,
        when=("lasts", ("time",)),
    )
    through: str = layer(
        label="Mask", group="effect", help="Another layer: the effect is seen where that one is.", advanced=True
    )
    through_by: str = choice(
        "alpha",
        {"alpha": "Alpha", "luminance": "Luminance"},
        label="Mask type",
        group="effect",
        help="Where the mask is solid, or where it is light.",
        advanced=True,
    )
    through_invert: bool = flag(
        False, label="Mask inverted", group="effect", help="The effect is seen where the mask is not.", advanced=True
    )

    def __init_subclass__(cls, **more: Any) -> None:
        # Its own settings stand before those that every effect has.
        if "first" not in vars(cls):
            own = [name for base in reversed(cls.__mro__) for name, value in vars(base).items() if _is_own(base, value)]
            cls.first = tuple(dict.fromkeys(own))
        super().__init_subclass__(**more)

    def at_work(self, time_s: float) -> bool:
        """False where it would change nothing: at no strength, and outside of its span."""
        return self.strength > 0 and (self.lasts == "all" or self.from_s <= time_s < self.to_s)


def _is_own(base: type, value: Any) -> bool:
    return isinstance(value, Setting) and base is not Effect and issubclass(base, Effect)


EFFECT_FAMILIES = {
    "light": "Light",
    "colour": "Colour",
    "blur": "Blur",
    "bend": "Bend",
    "edge": "Edge, depth",
    "time": "Time",
    "fault": "Signal faults",
}
"""Families of effects, by their names, in the order in which they are shown."""


def new_effect(kind: str, **settings: Any) -> Document:
    """An effect of a kind with its defaults, and the given settings in their stored form."""
    return new_part(EFFECTS, kind, **settings)
