"""Where a layer's settings are: its own by their names, those of its masks as `mask:ID:name`."""

from __future__ import annotations

from collections.abc import Mapping

from velvetdrum.kinds.declared import Declared
from velvetdrum.kinds.settings import Setting

MASK = "mask"


def split(place: str) -> tuple[str, str]:
    """The id of the mask (empty for the layer itself) and the name of the setting that an address means."""
    first, _, rest = place.partition(":")
    if first != MASK or not rest:
        return "", place
    mask, _, name = rest.partition(":")
    return mask, name


def setting_at(place: str, kind: type[Declared], masks: Mapping[str, type[Declared]]) -> Setting | None:
    """The declared setting at an address, or None. `masks` are the kinds of the layer's masks by their ids."""
    mask, name = split(place)
    owner = masks.get(mask) if mask else kind
    return owner.settings.get(name) if owner else None
