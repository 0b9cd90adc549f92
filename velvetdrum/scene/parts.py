"""Where a layer's settings are: its own by their names, those of its masks as `mask:ID:name`."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from velvetdrum.declare.declared import Declared
from velvetdrum.declare.settings import Setting

MASK = "mask"


def split(place: str) -> tuple[str, str]:
    """The id of the mask (empty for the layer itself) and the name of the setting that an address means."""
    first, _, rest = place.partition(":")
    if first != MASK or not rest:
        return "", place
    mask, _, name = rest.partition(":")
    return mask, name


@dataclass(frozen=True)
class Places:
    """The settings that a layer and its masks have, by their addresses. `masks` are the kinds of its masks by id."""

    kind: type[Declared]
    masks: Mapping[str, type[Declared]]

    @property
    def title(self) -> str:
        return self.kind.title

    def at(self, place: str) -> Setting | None:
        """The declared setting at an address, or None."""
        mask, name = split(place)
        owner = self.masks.get(mask) if mask else self.kind
        return owner.settings.get(name) if owner else None
