"""Figures to choose from: ready designs of every family, with their ranges read from a recording."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.audio.decode import RATE
from velvetdrum.picture.layers.spectrum import Spectrum
from velvetdrum.scene.document import Document, new_layer
from velvetdrum.signals.bars import fit_bars
from velvetdrum.signals.use import Use
from velvetdrum.signals.waves import columns

FAMILIES = {
    "spectrum": "Spectrum",
    "waveform": "Waveform",
    "meter": "Meter",
    "shape": "Shape, picture",
    "ground": "Behind it",
}
"""Families of figures, by their names, in the order in which they are shown."""


@dataclass(frozen=True)
class Choice:
    """One design to choose: its family, its name and what differs from the kind's defaults, in stored form."""

    family: str
    name: str
    kind: str
    settings: dict[str, Any]
    shown: tuple[str, dict[str, Any]] | None = None
    """Kind and settings of what stands for it in a picture of it, where it shows nothing by itself."""


def _ramp(*colours: str) -> list[dict[str, Any]]:
    return [{"at": index / max(len(colours) - 1, 1), "colour": colour} for index, colour in enumerate(colours)]


_WARM = _ramp("#ffe3b0", "#f0b866", "#ff7a66")
_DUSK = _ramp("#ff7a66", "#c06a92", "#a99bff")
_QUAY = _ramp("#5fc4b4", "#7cc0f2", "#a99bff")

CHOICES = (
    Choice("spectrum", "Bars", "spectrum", {}),
    Choice("spectrum", "Rising bars", "spectrum",
           {"grow": "out", "y": 84.0, "reach": 66.0, "bands": 40, "gap": 26.0, "corner": 40.0, "paint": "level",
            "colours": _DUSK, "caps": True}),
    Choice("spectrum", "Ring of bars", "spectrum",
           {"base": "ring", "grow": "out", "reach": 22.0, "bands": 60, "mirror": True, "radius": 24.0}),
    Choice("spectrum", "Segments", "spectrum",
           {"style": "segments", "bands": 28, "grow": "out", "y": 84.0, "reach": 66.0, "gap": 22.0, "corner": 20.0,
            "paint": "level", "colours": _ramp("#5fc4b4", "#e0ac55", "#ff7a66")}),
    Choice("spectrum", "Dots", "spectrum",
           {"style": "dots", "base": "ring", "grow": "out", "reach": 24.0, "bands": 90, "mirror": True,
            "colours": _QUAY, "dot": 1.2}),
    Choice("spectrum", "Hairlines", "spectrum",
           {"style": "hairlines", "bands": 110, "line": 0.28, "reach": 60.0, "colours": _WARM}),
    Choice("spectrum", "Line", "spectrum",
           {"style": "line", "bands": 48, "grow": "out", "y": 72.0, "reach": 52.0, "line": 0.8, "smooth": 1.5}),
    Choice("spectrum", "Shore", "spectrum",
           {"style": "line-area", "bands": 40, "grow": "out", "y": 78.0, "reach": 58.0, "smooth": 2.0,
            "colours": _QUAY}),
    Choice("spectrum", "Blossom", "spectrum",
           {"style": "area", "base": "ring", "grow": "out", "reach": 20.0, "bands": 28, "mirror": True, "repeat": 3,
            "smooth": 1.0, "colours": _DUSK}),
    Choice("spectrum", "Nested rings", "spectrum",
           {"style": "line", "base": "ring", "grow": "out", "reach": 22.0, "radius": 26.0, "bands": 40, "mirror": True,
            "copies": 5, "copy_size": 80.0, "copy_turn": 24, "copy_hue": 30, "copy_opacity": 86.0, "line": 0.6}),
    Choice("spectrum", "Clusters", "spectrum",
           {"bands": 14, "cluster": 5, "cluster_rate": 2.0, "gap": 34.0, "colours": _WARM}),
    Choice("spectrum", "Third-octaves", "spectrum",
           {"spacing": "third", "labels": True, "grow": "out", "y": 82.0, "reach": 62.0, "gap": 24.0, "corner": 20.0,
            "label_size": 2.0, "width": 90.0}),
    Choice("waveform", "Scope", "scope", {}),
    Choice("waveform", "Scope ring", "scope", {"base": "ring", "reach": 14.0, "radius": 28.0, "line": 0.8,
                                               "paint": "along", "back": True, "colours": _QUAY}),
    Choice("waveform", "Mirrored", "scope", {"style": "mirrored", "window_ms": 60, "paint": "level", "colours": _DUSK}),
    Choice("waveform", "Sweep", "scope", {"trigger": "beats", "afterglow_ms": 900, "line": 0.4, "plain": "#a8cf6a"}),
    Choice("waveform", "Phase figure", "phase", {}),
    Choice("waveform", "Whole track", "whole-track", {}),
    Choice("waveform", "Whole track, ring", "whole-track",
           {"base": "ring", "grow": "out", "reach": 18.0, "radius": 26.0, "bars": 120, "colours": _WARM}),
    Choice("waveform", "Rolling strip", "rolling-strip", {"colours": _QUAY}),
    Choice("waveform", "Rolling hills", "rolling-strip",
           {"style": "area", "grow": "out", "y": 76.0, "reach": 48.0, "seconds": 4.0, "shows": "both",
            "colours": _DUSK, "now": 62.0}),
    Choice("meter", "Segments", "meter", {}),
    Choice("meter", "Lying bars", "meter",
           {"look": "bar", "stands": "lying", "length": 130.0, "thickness": 20.0, "ballistics": "peak"}),
    Choice("meter", "Dial", "meter",
           {"look": "dial", "columns": "mono", "ballistics": "vu", "zero_db": -18, "low_db": -38, "high_db": -3,
            "warning_db": -18, "over_db": -15, "tick_db": 5, "radius": 52.0}),
    Choice("meter", "Loudness", "meter",
           {"look": "bar", "columns": "mono", "ballistics": "short", "zero_db": -23, "low_db": -41, "high_db": -5,
            "tick_db": 3, "warning_db": -22, "over_db": -14, "thickness": 12.0}),
    Choice("meter", "Low, mid, high", "meter",
           {"columns": "bands", "ballistics": "rms", "rms_ms": 120, "zones": "off", "paint": "along", "scale": False,
            "look": "bar", "corner": 60.0, "thickness": 44.0}),
    Choice("meter", "Octaves", "meter",
           {"columns": "bands", "bands": "octaves", "ballistics": "peak", "thickness": 92.0, "segments": 20}),
    Choice("meter", "Uncovered", "meter",
           {"look": "uncover", "stands": "lying", "columns": "mono", "ballistics": "rms", "rms_ms": 100,
            "zones": "off", "paint": "field", "field_size": 130.0, "length": 130.0, "thickness": 30.0,
            "scale": False, "corner": 40.0, "colours": _QUAY}),
    Choice("shape", "Ellipse", "shape", {}),
    Choice("shape", "Rectangle", "shape", {"form": "rectangle", "width": 60.0, "corner": 4.0, "plain": "#5fc4b4"}),
    Choice("shape", "Running ring", "shape",
           {"form": "ellipse", "filled": False, "stroked": True, "stroke": 1.6, "draw_to": 70.0, "paint": "field",
            "field": "angular", "colours": _QUAY, "width": 60.0, "height": 60.0}),
    Choice("shape", "Star", "shape", {"form": "star", "sides": 8, "hole": 55.0, "plain": "#ff7a66"}),
    Choice("shape", "Dashed line", "shape",
           {"form": "line", "width": 130.0, "stroke": 0.8, "dash": 2.4, "plain": "#f4eadb"}),
    Choice("shape", "Lighthouse", "shape", {"form": "path", "size": 60.0, "plain": "#f0b866"}),
    Choice("shape", "Picture", "picture", {},
           ("shape", {"form": "rectangle", "width": 76.0, "height": 50.0, "corner": 2.0, "paint": "field",
                      "field": "corners"})),
    Choice("shape", "Logo", "logo", {},
           ("shape", {"form": "path", "size": 46.0, "plain": "#f4eadb"})),
    Choice("shape", "Footage", "footage", {},
           ("backdrop", {"fill": "linear", "start_x": 0.0, "end_x": 100.0, "start_y": 0.0, "end_y": 100.0,
                         "colours": _ramp("#0d2b38", "#3f6f86", "#102030", "#5a3a63")})),
    Choice("ground", "Backdrop", "backdrop", {}),
    Choice("ground", "Haze", "haze", {}),
    Choice("ground", "Graticule", "graticule", {}),
    Choice("ground", "Round graticule", "graticule", {"mask": "round"}),
)  # fmt: skip


def choice_layers(use: Use | None) -> list[tuple[Choice, Document]]:
    """Every choice with its layer, ranges and gains read from the used part of a recording."""
    return [(choice, fitted_layer(choice.kind, choice.name, choice.settings, use)) for choice in CHOICES]


def fitted_layer(kind: str, name: str, settings: dict[str, Any], use: Use | None) -> Document:
    """A layer of a kind; what is not set of its ranges is read from the recording."""
    return new_layer(kind, name, **settings | (fitted_settings(kind, settings, use) if use else {}))


def fitted_settings(kind: str, settings: dict[str, Any], use: Use) -> dict[str, Any]:
    """The settings of a layer that suit a recording: levels of a spectrum, gain of a scope or a phase figure. None for
    kinds that have no such setting."""
    if kind == "spectrum":
        own = Spectrum(settings).reads
        fitted = fit_bars(use, own)
        found: dict[str, Any] = {"quiet_db": fitted.quiet_db, "loud_db": fitted.loud_db}
        if fitted.high_hz != own.high_hz:
            found["high_hz"] = fitted.high_hz
        if fitted.tilt_db != own.tilt_db:
            found["tilt_db"] = fitted.tilt_db
        return found
    if kind in ("scope", "phase"):
        length = (use.out_s - use.in_s) * RATE
        count = max(int(length / RATE * 20), 1)
        tops = columns(use, "mix", use.in_s * RATE, length / count, count)[:, 0]
        # Nineteen in twenty stretches of 50 ms stay within the figure.
        top = max(float(np.percentile(tops[tops > 1e-3], 95)) if (tops > 1e-3).any() else 1.0, 1e-3)
        return {"gain_db": float(np.clip(np.round(-20 * np.log10(top) * 2) / 2, -20.0, 40.0))}
    return {}
