"""Looks that ship: each is a function that puts layers on a scene, declared with what it is for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from typing import Any

from velvetdrum.scene.designs import even_ramp
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES, SHAPES
from velvetdrum.scene.signal_part import COLOURS, new_signal

_BEATS: dict[str, dict[str, Any]] = {"beat": {"decay_ms": 200.0}, "bars": {"unit": "bars", "shape": "saw", "every": 4}}
_BANDS = {
    "kick": {"attack_ms": 4.0, "release_ms": 220.0},
    "bass": {"attack_ms": 15.0, "release_ms": 240.0},
    "snare": {"attack_ms": 3.0, "release_ms": 180.0},
    "lead": {"attack_ms": 30.0, "release_ms": 300.0},
    "voice": {"attack_ms": 15.0, "release_ms": 240.0},
    "shimmer": {"attack_ms": 3.0, "release_ms": 160.0},
    "overall": {"attack_ms": 60.0, "release_ms": 600.0},
}
"""Envelopes of roles: short for what strikes, long for what swells."""


class LookScene:
    """What a look's function fills: layers, back to front, signals by role, and open places."""

    def __init__(self, colours: dict[str, str]) -> None:
        self.colours = colours
        self.layers: list[Document] = []
        self.places: list[Document] = []
        self.roles: dict[str, str] = {}
        self._signals: dict[tuple[str, str], Document] = {}

    @property
    def signals(self) -> list[Document]:
        """The signals that were asked for."""
        return list(self._signals.values())

    def colour(self, name: str) -> str:
        """A project colour: ground, ink, or an accent by its number."""
        return self.colours[name if name in self.colours else f"accent {name}"]

    def ramp(self, *names: str) -> list[Document]:
        """A gradient through project colours."""
        return even_ramp(*(name if name.startswith("#") else self.colour(name) for name in names))

    def role(self, role: str, **settings: Any) -> Document:
        """The signal that follows a role; another one where its settings differ."""
        key = role, repr(sorted(settings.items()))
        if key not in self._signals:
            kind, own = ("clock", _BEATS[role]) if role in _BEATS else ("pickup", _BANDS[role])
            name = {"beat": "Every beat", "bars": "Every few bars"}.get(role, role.capitalize())
            colour = COLOURS[len(self._signals) % len(COLOURS)]
            signal = new_signal(kind, name, colour=colour, **{**own, **settings})
            self.roles[signal["id"]] = role
            self._signals[key] = signal
        return self._signals[key]

    def add(self, kind: str, name: str, *, group: Document | None = None, **settings: Any) -> Document:
        """A layer in front of the others. `wide`, `square` and `tall` are what differs in such a frame."""
        shapes = [shape for shape in SHAPES if isinstance(settings.get(shape), dict)]
        frames = {shape: settings.pop(shape) for shape in shapes}
        layer = new_layer(kind, name, **settings)
        if frames:
            layer["frames"] = frames
        if group is not None:
            layer["group"] = group["id"]
        self.layers.append(layer)
        return layer

    def move(self, layer: Document, setting: str, role: str, low: Any, high: Any, join: str = "replace") -> None:
        """A patch from a role to a setting of a layer."""
        layer["patches"].append(new_patch(setting, self.role(role), low, high, join))

    def effect(self, layer: Document, kind: str, **settings: Any) -> Callable[[str], str]:
        """An effect at the end of a layer's row; gives the address of its settings, for patches."""
        effect = new_effect(kind, **settings)
        layer["effects"].append(effect)
        return lambda name: f"effect:{effect['id']}:{name}"

    def finish(self, *effects: tuple[str, dict[str, Any]]) -> Document:
        """A layer over the whole picture with effects."""
        layer = self.add("whole-picture", "Finish")
        for kind, settings in effects:
            self.effect(layer, kind, **settings)
        return layer

    def open(
        self,
        kind: str,
        *,
        optional: bool = True,
        beside: tuple[Document, ...] = (),
        instead: tuple[Document, ...] = (),
        **fills: Document,
    ) -> None:
        """An open place: layers by the setting that it goes into, those that are there with it, and those that stand
        for it while it is empty."""
        self.places.append(
            {
                "kind": kind,
                "optional": optional,
                "fills": {layer["id"]: setting for setting, layer in fills.items()}
                | {layer["id"]: "" for layer in beside},
                "instead": [layer["id"] for layer in instead],
            }
        )


@dataclass(frozen=True)
class ShelfLook:
    """A look that ships."""

    ident: str
    name: str
    about: str
    uses: tuple[str, ...]
    pace: str
    family: str
    frame: str
    """The shape that it was drawn for first."""
    build: Callable[[LookScene], None] = field(repr=False)
    colours: dict[str, str] = field(default_factory=dict)

    @cached_property
    def document(self) -> Document:
        """The look as a document without a sound; not to be written to."""
        scene = LookScene(self.colours)
        self.build(scene)
        document = new_document(
            self.name, frame=FRAMES[self.frame], rate=Fraction(30), layers=scene.layers, signals=scene.signals
        )
        document["colours"] = dict(self.colours)
        document["look"] = {
            "about": self.about,
            "uses": list(self.uses),
            "pace": self.pace,
            "family": self.family,
            "roles": scene.roles,
            "places": scene.places,
        }
        return document


LOOKS: dict[str, ShelfLook] = {}
"""All looks that ship, by their ids; imported with `velvetdrum.looks.shelf`."""


def ident_of(name: str) -> str:
    """The id of a look by its name, as people write it."""
    return name.strip().lower().replace(" ", "-")


def look(
    name: str,
    about: str,
    *,
    uses: tuple[str, ...],
    pace: str,
    family: str,
    colours: tuple[str, ...],
    frame: str = "wide",
) -> Callable[[Callable[[LookScene], None]], Callable[[LookScene], None]]:
    """Declares a look. `colours` are its ground, its ink and its accents."""

    def known(build: Callable[[LookScene], None]) -> Callable[[LookScene], None]:
        ident = ident_of(name)
        names = ["ground", "ink", *(f"accent {number}" for number in range(1, len(colours) - 1))]
        named = dict(zip(names, colours, strict=True))
        LOOKS[ident] = ShelfLook(ident, name, about, uses, pace, family, frame, build, named)
        return build

    return known
