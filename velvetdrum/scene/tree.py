"""How layers hang together: which group each is in, and which it reads for its masks."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol, TypeVar

from velvetdrum.declare.schema import Declared
from velvetdrum.scene.kinds import Layer
from velvetdrum.scene.parts import PART_SORTS, Parts
from velvetdrum.scene.problems import LayerGone, Problem
from velvetdrum.signals.signal_set import loop_in


class InTree(Protocol):
    """What is needed of a placed layer here."""

    @property
    def id(self) -> str:
        """Its id in the document."""

    @property
    def name(self) -> str:
        """What it is called."""

    @property
    def visible(self) -> bool:
        """False when it is switched off."""

    @property
    def solo(self) -> bool:
        """True when it is to be drawn alone."""

    @property
    def group(self) -> str:
        """The id of the group that it is in; empty when in none."""

    @property
    def layer(self) -> Layer:
        """The layer itself."""

    @property
    def parts(self) -> Parts:
        """Its masks, effects and so on, by their sort."""


def check_tree(layers: Sequence[InTree]) -> list[Problem]:
    """What is wrong with groups and masks: one that is gone, one that is no group, or a way that leads round."""
    known = {layer.id: layer for layer in layers}
    problems = []
    for index, layer in enumerate(layers):
        path = f"/layers/{index}"
        if layer.group and (layer.group not in known or not known[layer.group].layer.holds_members):
            problems.append(Problem(f"{path}/group", f"The group that {layer.name} was in is gone; take it out of it."))
        for name in _reading(layer.layer):
            if getattr(layer.layer, name) not in known:
                sentence = f"The layer that {layer.name} shows is gone; choose another, or remove it."
                problems.append(Problem(f"{path}/settings/{name}", sentence))
        for sort, row in layer.parts.items():
            for number, placed in enumerate(row):
                gone = [name for name in _reading(placed.part) if getattr(placed.part, name) not in known]
                sentence = f"The layer that this {sort} of {layer.name} reads is gone; choose another, or remove it."
                where = f"{path}/{PART_SORTS[sort].listed}/{number}/settings"
                problems += [LayerGone(f"{where}/{name}", sentence) for name in gone]
    if problems:
        return problems
    reads = {layer.id: [other for _, other in _read(layer)] for layer in layers}
    groups: dict[str, tuple[str, ...]] = {layer.id: (layer.group,) if layer.group else () for layer in layers}
    places = {layer.id: index for index, layer in enumerate(layers)}
    inside = loop_in(groups)
    if inside:
        sentence = f"A group can't be inside of itself: {_describe_loop(inside, known, ' is in ')}."
        return [Problem(f"/layers/{places[inside[0]]}/group", sentence)]
    # A group draws its members, so whoever reads a group reads all that its members read.
    for layer in layers:
        if layer.group:
            reads[layer.group] = [*reads[layer.group], layer.id]
    loop = loop_in({ident: tuple(others) for ident, others in reads.items()})
    if loop:
        ident, sort = next((ident, sort) for ident in loop for sort, _ in _read(known[ident]))
        needs = _describe_loop(loop, known, " needs ")
        if not sort:
            sentence = f"A layer can't show itself again: {needs}. Choose another layer."
            return [Problem(f"/layers/{places[ident]}/settings", sentence)]
        sentence = f"{PART_SORTS[sort].called} can't lead back to its own layer: {needs}. Choose another layer."
        return [Problem(f"/layers/{places[ident]}/{PART_SORTS[sort].listed}", sentence)]
    return []


def _read(layer: InTree) -> list[tuple[str, str]]:
    """The layers that one reads, each with the sort of the part that does; empty for the layer itself."""
    own = [("", getattr(layer.layer, name)) for name in _reading(layer.layer)]
    return own + [
        (sort, other) for sort, row in layer.parts.items() for placed in row for other in placed.part.layers()
    ]


def _reading(part: Declared) -> list[str]:
    """The settings that name a layer, where they do."""
    return [name for name, setting in part.settings.items() if setting.names_layer and getattr(part, name)]


T = TypeVar("T", bound=InTree)


def members_by_group(layers: Iterable[T]) -> dict[str, tuple[T, ...]]:
    """The layers that are drawn, back to front, by the group that they are in. While any visible one is solo, only solo
    layers are drawn, with the groups that they are in and the members that they have."""
    visible = [layer for layer in layers if layer.visible]
    above = {layer.id: layer.group for layer in visible}
    alone = {layer.id for layer in visible if layer.solo}
    if alone:
        kept = set(alone)
        for ident in alone:
            while above.get(ident):
                ident = above[ident]
                kept.add(ident)
        visible = [layer for layer in visible if layer.id in kept or _within(layer.group, above, alone)]
    out: dict[str, tuple[T, ...]] = {}
    for layer in visible:
        out[layer.group] = (*out.get(layer.group, ()), layer)
    return out


def _within(group: str, above: dict[str, str], wanted: set[str]) -> bool:
    while group:
        if group in wanted:
            return True
        group = above.get(group, "")
    return False


def _describe_loop(loop: list[str], known: Mapping[str, InTree], word: str) -> str:
    return word.join(known[ident].name for ident in loop)
