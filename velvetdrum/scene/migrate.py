"""Older documents brought to the present form, one step a version."""

from __future__ import annotations

from collections.abc import Callable

from velvetdrum.scene.problems import Document

VERSION = 2


def _to_2(document: Document) -> Document:
    """Version 2 brought signals, beats and patches."""
    layers = [
        {**layer, "patches": layer.get("patches", [])} if isinstance(layer, dict) else layer
        for layer in document.get("layers") or []
    ]
    return {**document, "version": 2, "beats": {}, "signals": [], "layers": layers}


_STEPS: dict[int, Callable[[Document], Document]] = {1: _to_2}


def upgraded(document: Document) -> Document:
    """The document in the present form. One that is already, or that is no document, comes back as it is."""
    while isinstance(document, dict) and document.get("version") in _STEPS:
        document = _STEPS[document["version"]](document)
    return document
