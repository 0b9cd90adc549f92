"""Designs: what a kind of layer offers to begin with, and how it is handled on the picture."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from velvetdrum.declare.setting import Condition

FAMILIES = {
    "spectrum": "Spectrum",
    "waveform": "Waveform",
    "meter": "Meter",
    "particles": "Particles",
    "fields": "Fields",
    "space": "Space",
    "words": "Words",
    "shape": "Shape, picture",
    "ground": "Behind it",
}
"""Families of designs, by their names, in the order in which they are shown."""


@dataclass(frozen=True)
class Follow:
    """A patch that a design comes with: the setting, what it follows (hits, the level of a part, or the beat), and the
    values that it moves between."""

    setting: str
    what: Literal["hits", "level", "beat"]
    low: float
    high: float


@dataclass(frozen=True)
class Design:
    """One design to choose: its family, its name and what differs from the kind's defaults, in stored form."""

    family: str
    name: str
    settings: dict[str, Any]
    shown: tuple[str, dict[str, Any]] | None = None
    """Kind and settings of what stands for it in a picture of it, where it shows nothing by itself."""
    source: tuple[str, dict[str, Any]] | None = None
    """Kind and settings of the layer that it shows in a picture of it, where it shows another one."""
    follows: tuple[Follow, ...] = ()
    """Patches that it comes with, from signals that are there, or are made for it."""


@dataclass(frozen=True)
class Sizing:
    """Which settings say how large a layer is by itself, while these conditions hold: those for its width and for its
    height, or those for both."""

    across: tuple[str, ...] = ()
    down: tuple[str, ...] = ()
    both: tuple[str, ...] = ()
    when: tuple[Condition, ...] = ()


@dataclass(frozen=True)
class GradientPlace:
    """Which settings say where a gradient lies in the frame: the ends of its line, or its middle with how far it
    reaches from its start to its end (per cent of the frame's short side) and how it is turned (0: upward)."""

    points: tuple[tuple[str, str], ...]
    size: str = ""
    turn: str = ""


@dataclass(frozen=True)
class LevelScale:
    """Which settings say what is at the ends of a level's way, which are levels on it, and the gradient along it."""

    low: str
    high: str
    marks: tuple[str, ...] = ()
    stops: str = ""
    stops_when: tuple[Condition, ...] = ()


def even_ramp(*colours: str) -> list[dict[str, Any]]:
    """A gradient through colours at even distances, in stored form."""
    return [{"at": index / max(len(colours) - 1, 1), "colour": colour} for index, colour in enumerate(colours)]


WARM = even_ramp("#ffe3b0", "#f0b866", "#ff7a66")
DUSK = even_ramp("#ff7a66", "#c06a92", "#a99bff")
QUAY = even_ramp("#5fc4b4", "#7cc0f2", "#a99bff")
