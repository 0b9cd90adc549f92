"""A project's design as a look of one's own: without its sound, with open places where its media were."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.looks.open_places import fitted_layer_settings, heard_signal
from velvetdrum.scene.document import Document
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.parts import PART_SORTS
from velvetdrum.scene.tracks_section import listening_to_the_sum
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.kinds import SIGNAL_KINDS

_PLACES = {"picture": "cover", "footage": "film"}
"""The places that media go into, by their sort."""

_TAGS = ("title", "artist", "speaker")
_FIELD = re.compile(r"\{(" + "|".join(_TAGS) + r")\}")


def kept_look(
    document: Document,
    use: AudioRange | None,
    name: str,
    about: str,
    chosen: set[str] | None = None,
    uses: Sequence[str] = (),
    tags: Sequence[str] = (),
) -> Document:
    """A look from a project: its layers, or chosen ones, with the signals that they follow.

    Parameters
    ----------
    document
        The project's document.
    use
        The used stretch of its sound, from which distances to what fits are kept; None where there is none.
    name
        What the look is called.
    about
        One line of what it is.
    chosen
        Ids of the layers that become the look, with the groups that they are in; None for all.
    uses
        What it is for; without any, what the project's own look is for, or anything.
    tags
        Words that it is found by.
    """
    if chosen is not None:
        chosen = _with_read(chosen, document["layers"])
    layers = [dict(layer) for layer in document["layers"] if chosen is None or layer["id"] in chosen]
    left = {layer["id"] for layer in layers}
    for layer in layers:
        layer["group"] = layer.get("group", "") if layer.get("group", "") in left else ""
    followed = {patch["signal"] for layer in layers for patch in layer["patches"]}
    signals = [signal for signal in document["signals"] if chosen is None or signal["id"] in followed]
    signals = _with_sources(signals, document["signals"])
    places: dict[str, Document] = {}

    def place(kind: str) -> Document:
        return places.setdefault(kind, {"kind": kind, "optional": True, "fills": {}, "instead": []})

    for index, layer in enumerate(layers):
        cls = LAYER_KINDS[layer["kind"]]
        for setting, declared in cls.settings.items():
            value = layer["settings"].get(setting)
            if declared.media in _PLACES and value:
                place(_PLACES[declared.media])["fills"][layer["id"]] = setting
                layers[index] = layer | {"settings": layer["settings"] | {setting: ""}}
                layer = layers[index]
            elif isinstance(value, str) and _FIELD.search(value):
                for tag in _FIELD.findall(value):
                    place(tag)
        if "cues" in cls.settings:
            place("words")["fills"][layer["id"]] = ""
    there = {signal["id"] for signal in signals}
    known = document.get("look", {}).get("roles", {})
    roles = {ident: role for ident, role in known.items() if ident in there}
    made = {
        **{key: document[key] for key in ("format", "version", "frame", "rate", "beats")},
        "name": name,
        "length_s": None,
        "tracks": [],
        "signals": signals,
        "markers": [],
        "cue_tracks": {},
        "tags": {},
        "layers": layers,
        "colours": document.get("colours", {}),
        "look": {
            "about": about,
            "uses": list(uses) or document.get("look", {}).get("uses", ["song", "voice", "loop"]),
            "tags": list(tags),
            "pace": document.get("look", {}).get("pace", "lively"),
            "family": "Kept",
            "roles": roles,
            "places": list(places.values()),
            "distances": _distances(layers, signals, roles, use) if use else {},
        },
    }
    return listening_to_the_sum(made)


def _with_read(chosen: set[str], layers: list[Document]) -> set[str]:
    """Chosen layers with the members of their groups, and with those that they, their masks and effects read."""
    while True:
        wanted = set(chosen)
        for layer in layers:
            if layer.get("group") in chosen:
                wanted.add(layer["id"])
            if layer["id"] in chosen:
                wanted |= set(_read_by(layer))
        if wanted == chosen:
            return chosen
        chosen = wanted


def _read_by(layer: Document) -> list[str]:
    """Ids of the layers that a layer reads."""
    owners = [(LAYER_KINDS, layer)]
    owners += [(sort.kinds, part) for sort in PART_SORTS.values() for part in layer.get(sort.listed, [])]
    return [
        str(part["settings"][name])
        for kinds, part in owners
        for name, setting in kinds[part["kind"]].settings.items()
        if setting.names_layer and part["settings"].get(name)
    ]


def _with_sources(signals: list[Document], known: list[Document]) -> list[Document]:
    """Signals with those that they read, in the order of the project."""
    wanted = {signal["id"] for signal in signals}
    while True:
        read = {
            value
            for signal in known
            if signal["id"] in wanted
            for name, setting in SIGNAL_KINDS[signal["kind"]].settings.items()
            if setting.names_signals
            for value in _named(signal["settings"].get(name))
        }
        if read <= wanted:
            return [signal for signal in known if signal["id"] in wanted]
        wanted |= read


def _named(value: Any) -> list[str]:
    if isinstance(value, str):
        return [value] if value else []
    return [item for item in value or [] if isinstance(item, str)]


def _distances(
    layers: list[Document], signals: list[Document], roles: Document, use: AudioRange
) -> dict[str, dict[str, float]]:
    """How far settings lie from what fits the sound that they were made for."""
    result = {}
    for signal in signals:
        cls = SIGNAL_KINDS[signal["kind"]]
        if cls.follows_band:
            heard = heard_signal(signal, roles.get(signal["id"], ""), use)
            result[signal["id"]] = _from(cls.defaults() | signal["settings"], heard)
    for layer in layers:
        own = LAYER_KINDS[layer["kind"]].defaults() | layer["settings"]
        result[layer["id"]] = _from(own, fitted_layer_settings(layer, use))
    return {ident: row for ident, row in result.items() if row}


def _from(own: Document, fitted: Document) -> dict[str, float]:
    levels = {name: round(float(own[name] - value), 2) for name, value in fitted.items() if name.endswith("_db")}
    return {name: by for name, by in levels.items() if abs(by) >= 0.05}
