"""Older documents brought to the present form, one step a version."""

from __future__ import annotations

import operator
from collections.abc import Callable
from typing import Any

from velvetdrum.scene.problems import Document

VERSION = 7


def _to_2(document: Document) -> Document:
    """Version 2 brought signals, beats and patches."""
    layers = _each(document, lambda layer: {"patches": [], **layer})
    return {**document, "version": 2, "beats": {}, "signals": [], "layers": layers}


def _each(document: Document, change: Callable[[Document], Document]) -> Any:
    """The layers, each changed; what is no layer, or no list, stays as it is and is told later."""
    layers = document.get("layers")
    if not isinstance(layers, list):
        return layers
    return [change(layer) if isinstance(layer, dict) else layer for layer in layers]


_RENAMED = {"bars": "bands", "height": "reach", "colour_by": "paint"}
_CHANGED = {
    "grow": {"up": "out", "down": "in"},
    "colour_by": {"frequency": "along"},
}


_ADDED: Document = {"group": "", "masks": [], "keyframes": {}, "frames": {}}
"""What version 3 added to every layer."""

_LAYER_PARTS: Document = {"name": "", "visible": True, "settings": {}, "patches": [], **_ADDED, "effects": []}
"""What a layer may leave out."""


def _to_3(document: Document) -> Document:
    """Version 3 made of the row of bars a spectrum on any base shape, and brought groups, masks, keyframes, overrides
    and markers. Lengths of bars, once per cent of the frame's height, are per cent of its short side."""
    frame = document.get("frame")
    sides: list[Any] = [frame.get("width"), frame.get("height")] if isinstance(frame, dict) else []
    usable = len(sides) == 2 and all(_is_number(side) and side > 0 for side in sides)
    factor = float(sides[1]) / min(float(side) for side in sides) if usable else 1.0
    layers = _each(document, lambda layer: _ADDED | (_spectrum(layer, factor) if _is_bars(layer) else layer))
    return {**document, "version": 3, "layers": layers, "markers": []}


def _is_bars(layer: Any) -> bool:
    return isinstance(layer, dict) and layer.get("kind") == "spectrum-bars"


def _spectrum(layer: Document, factor: float) -> Document:
    given = layer.get("settings")
    settings = {}
    for name, value in given.items() if isinstance(given, dict) else []:
        result = _CHANGED.get(name, {}).get(value, value) if isinstance(value, str) else value
        settings[_RENAMED.get(name, name)] = _longer(result, factor) if name == "height" else result
    patches = layer.get("patches", [])
    if isinstance(patches, list):
        patches = [_patch(patch, factor) if isinstance(patch, dict) else patch for patch in patches]
    return {**layer, "kind": "spectrum", "settings": settings, "patches": patches}


def _patch(patch: Document, factor: float) -> Document:
    name = patch.get("setting")
    out = {**patch, "setting": _RENAMED.get(name, name) if isinstance(name, str) else name}
    if name == "height" and patch.get("join", "replace") != "multiply":
        out |= {end: _longer(patch[end], factor) for end in ("from", "to") if end in patch}
    return out


def _longer(value: Any, factor: float) -> Any:
    return min(value * factor, 200.0) if _is_number(value) and factor != 1.0 else value


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _to_4(document: Document) -> Document:
    """Version 4 brought effects, and masks that can be off."""
    return {**document, "version": 4, "layers": _each(document, lambda layer: {"effects": [], **layer})}


def _to_5(document: Document) -> Document:
    """Version 5 brought cue tracks and tags."""
    return {**document, "version": 5, "cue_tracks": {}, "tags": {}}


def _to_6(document: Document) -> Document:
    """Version 6 draws the size and the opacity of particles over their lives as curves."""
    return {**document, "version": 6, "layers": _each(document, _with_life_curves)}


def _with_life_curves(layer: Document) -> Document:
    settings = layer.get("settings")
    names = ("dot_end", "opacity_in", "opacity_out", "tinted")
    if layer.get("kind") != "particles" or not isinstance(settings, dict):
        return layer
    rest = {name: value for name, value in settings.items() if name not in names}
    end, come, go = (
        settings[name] if _is_number(settings.get(name)) else default
        for name, default in zip(names[:3], (20.0, 6.0, 60.0), strict=True)
    )
    full = sorted({min(max(come / 100, 0.001), 0.98), min(max(1 - go / 100, 0.002), 0.99)})
    rest["tint"] = "none" if settings.get("tinted") is False else "form"
    rest["size_life"] = [{"at": 0, "value": 100}, {"at": 1, "value": min(max(end, 0), 400)}]
    rest["opacity_life"] = [
        {"at": 0, "value": 0},
        *({"at": at, "value": 100} for at in full),
        {"at": 1, "value": 0},
    ]
    return {**layer, "settings": rest}


_LIGHTS = ("glow", "light-rays", "highlights")


def _to_7(document: Document) -> Document:
    """Version 7 lets added light roll off before white; what was made before it keeps its light as it was."""
    return {**document, "version": 7, "layers": _each(document, _with_hard_light)}


def _with_hard_light(layer: Document) -> Document:
    effects = layer.get("effects")
    if not isinstance(effects, list):
        return layer
    return {**layer, "effects": [_hard(part) if isinstance(part, dict) else part for part in effects]}


def _hard(effect: Document) -> Document:
    settings = effect.get("settings", {})
    if effect.get("kind") not in _LIGHTS or not isinstance(settings, dict):
        return effect
    return {**effect, "settings": {"response": "hard", **settings}}


_STEPS: dict[int, Callable[[Document], Document]] = {1: _to_2, 2: _to_3, 3: _to_4, 4: _to_5, 5: _to_6, 6: _to_7}

_PARTS: Document = {"length_s": None, "beats": {}, "signals": [], "markers": [], "cue_tracks": {}, "tags": {}}
"""What a document may leave out."""


def upgraded(document: Document) -> Document:
    """The document in the present form, with all that it may leave out. One that is already, or that is no document,
    comes back as it is; what is wrong with one stays wrong, and is said by `scene.document.parse`."""
    while isinstance(document, dict) and _version(document) in _STEPS:
        document = _STEPS[_version(document)](document)
    return _whole(document) if isinstance(document, dict) and _version(document) == VERSION else document


def _version(document: Document) -> int:
    version = document.get("version")
    return version if isinstance(version, int) and not isinstance(version, bool) else 0


def _whole(document: Document) -> Document:
    layers = document.get("layers")
    if isinstance(layers, list):
        whole = [_whole_layer(layer) for layer in layers]
        # What is whole stays the very same object: whoever knows it need not look at it again.
        layers = layers if all(map(operator.is_, whole, layers)) else whole
    signals = _with_settings(document.get("signals"))
    same = layers is document.get("layers") and signals is document.get("signals")
    if same and document.keys() >= _PARTS.keys() | {"layers"}:
        return document
    return _PARTS | document | {"layers": layers} | ({"signals": signals} if "signals" in document else {})


def _whole_layer(layer: Any) -> Any:
    if not isinstance(layer, dict):
        return layer
    parts = {name: _with_settings(layer.get(name)) for name in ("effects", "masks")}
    changed = {name: listed for name, listed in parts.items() if listed is not layer.get(name)}
    if layer.keys() >= _LAYER_PARTS.keys():
        return layer | changed if changed else layer
    name = (
        {} if "name" in layer or not isinstance(layer.get("kind"), str) else {"name": layer["kind"].capitalize()[:80]}
    )
    return _LAYER_PARTS | name | layer | changed


def _with_settings(items: Any) -> Any:
    """Signals or parts, each with its settings, be they none; the very same list where all have them."""
    if not isinstance(items, list) or all(not isinstance(item, dict) or "settings" in item for item in items):
        return items
    return [item if not isinstance(item, dict) else {"settings": {}} | item for item in items]
