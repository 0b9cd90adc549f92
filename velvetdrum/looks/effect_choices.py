"""Effects to choose from: the designs of every kind, and chains of several with a purpose."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import velvetdrum.picture.layers  # noqa: F401  (makes the effect kinds known)
from velvetdrum.scene.designs import Design
from velvetdrum.scene.document import Document
from velvetdrum.scene.effects import EFFECT_FAMILIES, EFFECT_KINDS, new_effect


@dataclass(frozen=True)
class EffectChoice:
    """A design of an effect kind."""

    kind: str
    design: Design

    @property
    def effect(self) -> Document:
        """The effect in its stored form."""
        return new_effect(self.kind, **self.design.settings)


def effect_choices() -> list[EffectChoice]:
    """All designs of effects, by their families; a kind without designs is its own."""
    result = []
    for kind, cls in EFFECT_KINDS.items():
        designs = cls.designs or (Design(cls.family, cls.title, {}),)
        result += [EffectChoice(kind, design) for design in designs]
    order = list(EFFECT_FAMILIES)
    return sorted(result, key=lambda choice: order.index(choice.design.family))


@dataclass(frozen=True)
class ChainPatch:
    """What moves a setting of a chain's effect: by its place in the chain."""

    effect: int
    setting: str
    low: Any
    high: Any
    join: str = "replace"


@dataclass(frozen=True)
class EffectChain:
    """A row of effects with a purpose; its patches take a signal of the project that it comes to."""

    name: str
    purpose: str
    effects: tuple[tuple[str, dict[str, Any]], ...]
    patches: tuple[ChainPatch, ...] = ()

    @property
    def stored(self) -> Document:
        """Its effects and patches in the form that the shelf keeps; `signal` names none yet."""
        effects = [new_effect(kind, **settings) for kind, settings in self.effects]
        patches = [
            {
                "setting": f"effect:{effects[patch.effect]['id']}:{patch.setting}",
                "signal": "",
                "from": patch.low,
                "to": patch.high,
                "join": patch.join,
                "on": True,
                "lag_ms": 0.0,
            }
            for patch in self.patches
        ]
        return {"effects": effects, "patches": patches}


def _chain(
    name: str, purpose: str, *effects: tuple[str, dict[str, Any]], patches: tuple[ChainPatch, ...] = ()
) -> EffectChain:
    return EffectChain(name, purpose, effects, patches)


CHAINS = (
    _chain(
        "Lamp light",
        "Makes bright parts shine, warmer toward the night",
        ("glow", {"radius": 8.0, "gain": 140.0, "colour": "#ffb070", "tint": 40.0}),
        ("adjust", {"contrast": 108.0, "temperature": 12.0}),
        ("vignette", {"amount": 45.0}),
        patches=(ChainPatch(0, "gain", 60, 260),),
    ),
    _chain(
        "Film evening",
        "Soft contrast, faded blacks and grain",
        ("levels", {"out_black": 8.0, "out_white": 96.0, "blue_black": -8.0}),
        ("adjust", {"saturation": 86.0, "temperature": 14.0}),
        ("grain", {"amount": 16.0}),
        ("vignette", {"amount": 50.0}),
    ),
    _chain(
        "Beam through fog",
        "Rays out of what is bright, stronger when it is loud",
        ("light-rays", {"length": 55.0, "gain": 220.0, "tint": 40.0}),
        ("glow", {"radius": 5.0, "gain": 70.0}),
        patches=(ChainPatch(0, "gain", 60, 420),),
    ),
    _chain(
        "Lift off the page",
        "Bevel and shadow for logos and words",
        ("bevel", {"width": 0.7}),
        ("shadow", {"distance": 1.2, "softness": 1.4, "solid": 65.0}),
    ),
    _chain(
        "Neon sign",
        "A line of light with its glow",
        ("outline", {"fill": 0.0, "place": "middle", "width": 0.5, "colour": "#ff8a76"}),
        ("glow", {"level": 10.0, "radius": 5.0, "gain": 240.0}),
        patches=(ChainPatch(1, "gain", 120, 420),),
    ),
    _chain(
        "Hit in the lens",
        "Colours part and the frame trembles on each hit",
        ("channel-offsets", {"amount": 0.0, "way": "out"}),
        ("shake", {"amount": 0.0, "turn": 0.0}),
        patches=(ChainPatch(0, "amount", 0, 2.2), ChainPatch(1, "amount", 0, 1.6)),
    ),
    _chain(
        "Torn signal",
        "Blocks and lines slip when it is loud",
        ("block-slips", {"share": 0.0}),
        ("line-jitter", {"share": 0.0, "amount": 2.0}),
        ("scan-lines", {"amount": 25.0}),
        patches=(ChainPatch(0, "share", 0, 40), ChainPatch(1, "share", 0, 60)),
    ),
    _chain(
        "Night water",
        "Dark, grey, trembling",
        ("adjust", {"saturation": 20.0, "exposure": -1.0, "contrast": 115.0}),
        ("turbulence", {"amount": 2.0, "scale": 30.0, "detail": 3}),
        ("ripple", {"amount": 0.5}),
    ),
    _chain(
        "Tide glass",
        "A kaleidoscope with soft edges",
        ("kaleidoscope", {"wedges": 4}),
        ("uneven-blur", {"by": "middle", "size": 50.0, "radius": 2.0}),
        ("vignette", {"amount": 40.0}),
    ),
    _chain(
        "Smoke trail",
        "Earlier pictures rise and fade",
        ("afterimages", {"count": 10, "move_y": -1.2, "fade": 22.0, "tint": 50.0, "colour": "#a99bff"}),
        ("glow", {"radius": 4.0, "gain": 60.0}),
    ),
    _chain(
        "Poster print",
        "Few colours, hard steps",
        ("posterise", {"levels": 5}),
        (
            "gradient-map",
            {
                "stepped": True,
                "colours": [
                    {"at": 0.0, "colour": "#1b1119"},
                    {"at": 0.35, "colour": "#7c2f52"},
                    {"at": 0.6, "colour": "#ff7a66"},
                    {"at": 0.85, "colour": "#ffe3b0"},
                ],
            },
        ),
    ),
    _chain(
        "Miniature harbour",
        "A narrow sharp band and rich colours",
        ("uneven-blur", {"size": 12.0, "radius": 2.2}),
        ("adjust", {"saturation": 145.0, "contrast": 110.0}),
    ),
)
"""The chains that ship."""
