"""Designs to choose from: those of every kind, with their ranges read from a recording."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.scene.designs import FAMILIES, Design
from velvetdrum.scene.document import Document, new_layer
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.audio_range import AudioRange


@dataclass(frozen=True)
class LayerChoice:
    """A design of a kind."""

    kind: str
    design: Design


def choices() -> list[LayerChoice]:
    """All designs, by their families; within one the kinds with more to choose stand first."""
    result = [LayerChoice(kind, design) for kind, cls in LAYER_KINDS.items() for design in cls.designs]
    order = list(FAMILIES)
    counted = {kind: len(cls.designs) for kind, cls in LAYER_KINDS.items()}
    return sorted(result, key=lambda choice: (order.index(choice.design.family), -counted[choice.kind]))


def choice_layers(
    use: AudioRange | None, first: int = 0, count: int | None = None
) -> list[tuple[LayerChoice, Document]]:
    """A run of choices, each with its layer, ranges and gains read from the used part of a recording."""
    run = choices()[first : None if count is None else first + count]
    return [(choice, fitted_layer(choice.kind, choice.design.name, choice.design.settings, use)) for choice in run]


def pictured_layers(layer: Document, design: Design) -> list[Document]:
    """What stands for a design in a picture of it, the hindmost first: its layer, or another one; before a layer that
    shows another, that one, which is not seen by itself."""
    if design.shown:
        return [new_layer(design.shown[0], **design.shown[1])]
    if design.source is None:
        return [layer]
    other = new_layer(design.source[0], **design.source[1]) | {"visible": False}
    names = [name for name, setting in LAYER_KINDS[layer["kind"]].settings.items() if setting.names_layer]
    return [other, {**layer, "settings": layer["settings"] | dict.fromkeys(names, other["id"])}]


def fitted_layer(kind: str, name: str, settings: dict[str, Any], use: AudioRange | None) -> Document:
    """A layer of a kind; what is not set of its ranges is read from the recording."""
    return new_layer(kind, name, **settings | (fitted_settings(kind, settings, use) if use else {}))


def fitted_settings(kind: str, settings: dict[str, Any], use: AudioRange) -> dict[str, Any]:
    """The settings of a layer that suit a recording; none for kinds that read nothing from it."""
    return LAYER_KINDS[kind].fitted(settings, use)
