"""A project fitted anew when another sound takes the place of its own: all that reads levels or frequencies."""

from __future__ import annotations

from typing import Any

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.declare.schema import Declared
from velvetdrum.scene.document import Document, parse
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.kinds import SIGNAL_KINDS


def refitted(document: Document, before: AudioRange, after: AudioRange) -> Document:
    """The document with its layers and signals fitted to another sound. What was moved by hand keeps its distance from
    the fitted value; patches and keyframes that move such a setting go with it.

    Parameters
    ----------
    document
        A project's document, as it was made for the sound before.
    before
        The used stretch of that sound.
    after
        The used stretch of the new one.
    """
    signals = [_signal(signal, before, after) for signal in document["signals"]]
    return document | {"signals": signals, "layers": [_layer(layer, before, after) for layer in document["layers"]]}


def _signal(signal: Document, before: AudioRange, after: AudioRange) -> Document:
    cls = SIGNAL_KINDS[signal["kind"]]
    changed = cls(signal["settings"]).refitted(before, after)
    return signal | {"settings": signal["settings"] | within_bounds(cls, changed)}


def _layer(layer: Document, before: AudioRange, after: AudioRange) -> Document:
    cls = LAYER_KINDS[layer["kind"]]
    changed = within_bounds(cls, cls.refitted(layer["settings"], before, after))
    stored = cls.defaults() | layer["settings"]
    moved = {name: value - stored[name] for name, value in changed.items()}
    result = layer | {"settings": layer["settings"] | changed}
    if any(patch["setting"] in moved for patch in layer["patches"]):
        result["patches"] = [_patch(patch, moved.get(patch["setting"], 0.0)) for patch in layer["patches"]]
    if layer["keyframes"].keys() & moved.keys():
        result["keyframes"] = layer["keyframes"] | {
            name: [key | {"value": key["value"] + moved[name]} for key in keys]
            for name, keys in layer["keyframes"].items()
            if name in moved
        }
    return result


def _patch(patch: Document, by: float) -> Document:
    """A patch whose ends move with the setting; what adds or multiplies goes with it by itself."""
    if patch["join"] != "replace" or not by:
        return patch
    return patch | {"from": patch["from"] + by, "to": patch["to"] + by}


def within_bounds(cls: type[Declared], values: dict[str, Any]) -> dict[str, Any]:
    """Numbers brought to where the settings of a kind may lie."""
    return {name: min(max(value, cls.settings[name].lo), cls.settings[name].hi) for name, value in values.items()}


def out_of_time(document: Document, length_s: float) -> list[str]:
    """What no longer lies within a project of a length in seconds, as sentences: cues, markers and keyframes."""
    project = parse(document | {"length_s": None}) if document["tracks"] else parse(document)
    begin = project.begin_s
    cues = sum(cue.start_s - begin >= length_s for track in project.cue_tracks for cue in track.row)
    markers = sum(marker.time_s >= length_s for marker in project.markers)
    keys = sum(
        key["time_s"] >= length_s for layer in document["layers"] for row in layer["keyframes"].values() for key in row
    )
    counted = ((cues, "cue"), (markers, "marker"), (keys, "keyframe"))
    return [
        f"{count} {what}{'s' if count > 1 else ''} lie{'' if count > 1 else 's'} after the end of the new sound."
        for count, what in counted
        if count
    ]
