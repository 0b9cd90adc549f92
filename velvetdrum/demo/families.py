"""One scene for each family of figures: a ring of spectra, the waveform in four ways, a wall of meters."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.designs import song_signals
from velvetdrum.demo.finished import finishing
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES
from velvetdrum.signals.audio_range import AudioRange


def _ramp(*colours: str) -> list[dict[str, Any]]:
    return [{"at": index / max(len(colours) - 1, 1), "colour": colour} for index, colour in enumerate(colours)]


def _used(track: Document, recording: Analysis) -> AudioRange:
    return AudioRange(recording, track["in_s"], track["out_s"])


def lantern_ring(track: Document, recording: Analysis) -> Document:
    """Spectra around one lantern: bars outside, a blossom, and nested lines that turn within."""
    use = _used(track, recording)
    kick, lead, shimmer, beat = song_signals(track, recording)
    dark, lit = _ramp("#2a1a33", "#1a1022", "#0c0712"), _ramp("#8a3f4a", "#32183a", "#0e0815")
    glow = new_layer("backdrop", "Glow", start_x=50.0, start_y=50.0, end_x=112.0, end_y=50.0, colours=dark)
    glow["patches"] = [new_patch("colours", kick, dark, lit)]
    bars = fitted_layer(
        "spectrum",
        "Rays",
        {
            "base": "ring",
            "grow": "out",
            "mirror": True,
            "bands": 56,
            "radius": 29.0,
            "reach": 18.0,
            "gap": 46.0,
            "turn": 180.0,
            "paint": "level",
            "colours": _ramp("#fff0c9", "#f0b866", "#ff7a66", "#c0567e"),
            "release_ms": 220.0,
        },
        use,
    )
    bars["patches"] = [new_patch("radius", kick, 0.98, 1.05, "multiply"), new_patch("gap", lead, 6.0, -14.0, "add")]
    dots = fitted_layer(
        "spectrum",
        "Sparks",
        {
            "style": "dots",
            "base": "ring",
            "grow": "out",
            "mirror": True,
            "bands": 44,
            "radius": 30.5,
            "reach": 20.0,
            "low_hz": 1200.0,
            "dot": 0.7,
            "paint": "one",
            "plain": "#fff0c9",
            "opacity": 25.0,
        },
        use,
    )
    dots["patches"] = [new_patch("turn", beat, 0.0, 8.0), new_patch("opacity", shimmer, 0.0, 70.0, "add")]
    rings = fitted_layer(
        "spectrum",
        "Nested lines",
        {
            "style": "line",
            "base": "ring",
            "grow": "in",
            "mirror": True,
            "bands": 36,
            "radius": 27.0,
            "reach": 13.0,
            "line": 0.5,
            "copies": 6,
            "copy_size": 82.0,
            "copy_turn": 30.0,
            "copy_hue": 24.0,
            "copy_opacity": 88.0,
            "smooth": 1.5,
            "colours": _ramp("#ff7a66", "#e0ac55", "#5fc4b4"),
            "back": True,
            "release_ms": 260.0,
        },
        use,
    )
    bars["effects"] = [new_effect("glow", level=35.0, radius=2.6, gain=55.0)]
    return new_document(
        "Lantern ring",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[glow, dots, rings, bars, finishing(("vignette", {"amount": 50.0, "size": 45.0}))],
        track=track,
        signals=[kick, lead, shimmer, beat],
    )


def tide_line(track: Document, recording: Analysis) -> Document:
    """The waveform in four ways: a scope and a phase figure over graticules, what comes next, and the whole track."""
    use = _used(track, recording)
    kick, lead, *_ = song_signals(track, recording)
    night = new_layer(
        "backdrop",
        "Water",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=_ramp("#0a1a26", "#0d2b38", "#0b1a26"),
    )
    field = new_layer(
        "graticule", "Field", x=36.0, y=33.0, width=58.0, height=46.0, opacity=14.0, plain="#7cc0f2", spacing=7.0
    )
    scope = fitted_layer(
        "scope",
        "Scope",
        {
            "x": 36.0,
            "y": 33.0,
            "width": 58.0,
            "reach": 20.0,
            "line": 0.55,
            "paint": "along",
            "window_ms": 36.0,
            "colours": _ramp("#a8cf6a", "#5fc4b4", "#7cc0f2"),
            "afterglow_ms": 45.0,
        },
        use,
    )
    scope["patches"] = [new_patch("line", kick, 0.0, 0.35, "add")]
    disc = new_layer(
        "graticule", "Disc", mask="round", x=83.0, y=33.0, radius=23.0, opacity=14.0, plain="#7cc0f2", spacing=7.0
    )
    phase = fitted_layer(
        "phase",
        "Phase",
        {"x": 83.0, "y": 33.0, "radius": 22.0, "line": 0.3, "colours": _ramp("#5fc4b4", "#a99bff", "#f4eadb")},
        use,
    )
    strip = new_layer(
        "rolling-strip",
        "Coming",
        x=50.0,
        y=72.0,
        width=86.0,
        reach=18.0,
        seconds=8.0,
        bars=128,
        now=24.0,
        gap=36.0,
        colours=_ramp("#5fc4b4", "#7cc0f2"),
        rest="#7cc0f2",
        rest_opacity=34.0,
    )
    strip["patches"] = [new_patch("gap", lead, 8.0, -16.0, "add")]
    whole = new_layer(
        "whole-track",
        "Whole track",
        style="area",
        x=50.0,
        y=90.0,
        width=86.0,
        reach=7.0,
        shows="peak",
        paint="one",
        plain="#a8cf6a",
        rest="#7cc0f2",
        rest_opacity=24.0,
    )
    scope["effects"] = [new_effect("glow", level=25.0, radius=1.6, gain=90.0)]
    phase["effects"] = [new_effect("glow", level=25.0, radius=1.6, gain=90.0)]
    return new_document(
        "Tide line",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[
            night,
            field,
            disc,
            scope,
            phase,
            strip,
            whole,
            finishing(("vignette", {"amount": 40.0, "size": 50.0})),
        ],
        track=track,
        signals=[kick, lead],
    )


def signal_station(track: Document, recording: Analysis) -> Document:
    """A wall of meters, each with the ballistics of its standard."""
    kick, *_ = song_signals(track, recording)
    dark, lit = _ramp("#2d1a26", "#1b1119", "#100a10"), _ramp("#43232f", "#22141f", "#120b12")
    wall = new_layer("backdrop", "Wall", start_x=50.0, start_y=44.0, end_x=110.0, end_y=60.0, colours=dark)
    wall["patches"] = [new_patch("colours", kick, dark, lit)]
    dial = {
        "look": "dial",
        "columns": "mono",
        "ballistics": "vu",
        "zero_db": -10.0,
        "low_db": -30.0,
        "high_db": -5.0,
        "warning_db": -13.0,
        "over_db": -10.0,
        "tick_db": 5.0,
        "radius": 30.0,
        "segments": 27,
        "scale_size": 2.6,
    }
    layers = [
        wall,
        new_layer("meter", "Quasi-peak", x=13.0, y=48.0, length=70.0, thickness=15.0, segments=30, scale_size=2.4),
        new_layer("meter", "VU", x=46.0, y=34.0, **dial),
        new_layer(
            "meter",
            "Octaves",
            x=80.0,
            y=39.0,
            columns="bands",
            bands="octaves",
            ballistics="peak",
            length=52.0,
            thickness=48.0,
            segments=22,
            scale_size=2.4,
            tick_db=12.0,
            gap=26.0,
        ),
        new_layer(
            "meter",
            "Loudness",
            x=59.5,
            y=82.0,
            look="uncover",
            stands="lying",
            columns="mono",
            ballistics="short",
            zones="off",
            paint="field",
            field_x=59.5,
            field_size=120.0,
            length=120.0,
            thickness=9.0,
            corner=70.0,
            zero_db=-23.0,
            low_db=-41.0,
            high_db=-5.0,
            tick_db=3.0,
            scale_size=2.4,
            colours=_ramp("#5fc4b4", "#e0ac55", "#ff7a66"),
        ),
    ]
    for meter, strong in zip(layers[1:], (45.0, 45.0, 45.0, 18.0), strict=True):
        meter["effects"] = [
            new_effect("glow", level=30.0, radius=2.2, gain=strong),
            new_effect("shadow", distance=0.8, softness=1.4, solid=60.0),
        ]
    layers.append(finishing(("vignette", {"amount": 55.0, "size": 40.0}), ("grain", {"amount": 5.0})))
    return new_document(
        "Signal station", frame=FRAMES["wide"], rate=Fraction(30), layers=layers, track=track, signals=[kick]
    )
