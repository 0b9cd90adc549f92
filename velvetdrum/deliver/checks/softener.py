"""Which patch makes a picture flash, and how far it must be turned down until it no longer does."""

from __future__ import annotations

import copy
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from velvetdrum.declare.settings import is_number
from velvetdrum.deliver.checks.flashes import MOST_PER_S, FlashMeter, as_light
from velvetdrum.deliver.checks.frame_measures import see
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.scene.document import Document, parse
from velvetdrum.signals.audio_range import AudioRange

_MOST_PATCHES = 24
_LONGEST_S = 2.5
_SHARES = (0.7, 0.5, 0.35, 0.2, 0.1, 0.0)
"""Of what a patch moves now, tried from the mildest change on."""


@dataclass(frozen=True)
class Softening:
    """A patch turned down: its layer's index and name, its own index, the name of its signal, the end that it moves to,
    and how many flashes a second are left of how many."""

    layer: int
    layer_name: str
    patch: int
    signal_name: str
    to: float
    before: float
    after: float

    @property
    def label(self) -> str:
        """What a button says."""
        return f"soften {self.signal_name} to {self.layer_name}"

    @property
    def patches(self) -> list[dict[str, Any]]:
        """The edit, as a JSON Patch."""
        return [{"op": "replace", "path": f"/layers/{self.layer}/patches/{self.patch}/to", "value": self.to}]


def softened(
    document: Document,
    use: AudioRange | None,
    plan: ExportPlan,
    span: tuple[float, float],
    kind: str = "general",
    media: Mapping[str, str] | None = None,
) -> Softening | None:
    """The patch without which a stretch (seconds from the start of a small plan) flashes least, turned down as little
    as is enough; None where no patch of a number makes the difference.

    Parameters
    ----------
    document
        A project's document.
    use
        The used stretch of a recording.
    plan
        What is exported: frames, size, rate, format.
    span
        Seconds from and to.
    kind
        The kind by name.
    media
        Paths of the project's files by content hash.
    """
    rate = float(plan.fraction)
    first = plan.first + max(int(span[0] * rate), 0)
    last = min(plan.first + int(min(span[1], span[0] + _LONGEST_S) * rate) + 2, plan.last)

    def flashes(other: Document) -> float:
        seen = see(parse(other), use, plan, first, last, media=media)
        meter = FlashMeter()
        for number, cells in enumerate(seen.cells):
            meter.feed_cells(as_light(cells), number / rate)
        rates = meter.rates(kind)
        return float(rates.max()) if len(rates) else 0.0

    before = flashes(document)
    best: tuple[float, int, int] | None = None
    for layer, patch in _numbers(document)[:_MOST_PATCHES]:
        left = flashes(_turned_down(document, layer, patch, 0.0))
        if left < before and (best is None or left < best[0]):
            best = (left, layer, patch)
    if best is None:
        return None
    _, layer, patch = best
    for share in _SHARES:
        changed = _turned_down(document, layer, patch, share)
        after = flashes(changed)
        if after <= MOST_PER_S or share == _SHARES[-1]:
            names = {item["id"]: item["name"] for item in document["signals"]}
            item = changed["layers"][layer]
            signal = names.get(item["patches"][patch]["signal"], "the signal")
            return Softening(layer, item["name"], patch, signal, item["patches"][patch]["to"], before, after)
    return None


def _numbers(document: Document) -> list[tuple[int, int]]:
    """Layer and index of each patch of a number that is on, and seen."""
    return [
        (layer, patch)
        for layer, item in enumerate(document["layers"])
        if item.get("visible", True)
        for patch, held in enumerate(item.get("patches", []))
        if held.get("on", True) and is_number(held.get("from")) and is_number(held.get("to"))
    ]


def _turned_down(document: Document, layer: int, patch: int, share: float) -> Document:
    changed = copy.deepcopy(document)
    held = changed["layers"][layer]["patches"][patch]
    held["to"] = round(held["from"] + (held["to"] - held["from"]) * share, 4)
    return changed
