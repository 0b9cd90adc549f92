"""The designed scene: dark drifting water, and a lamp that pulses with the kick inside a ring of bars that a gradient
shows through; one scene for wide, square and tall frames."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.designs import song_signals
from velvetdrum.demo.finished import finishing, place_of
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.masks import new_mask
from velvetdrum.signals.audio_range import AudioRange


def _stops(*colours: str) -> list[dict[str, Any]]:
    return [{"at": index / max(len(colours) - 1, 1), "colour": colour} for index, colour in enumerate(colours)]


def _key(time_s: float, value: float, ease: str = "ease-in-out") -> Document:
    return {"time_s": time_s, "value": value, "ease": ease}


def harbour_night(track: Document, recording: Analysis, lamp: str, water: str) -> Document:
    """`lamp` and `water` are the content hashes of the logo and the clip."""
    use = AudioRange(recording, track["in_s"], track["out_s"])
    kick, lead, shimmer, beat = song_signals(track, recording)
    night = new_layer(
        "backdrop",
        "Night",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=_stops("#2a1f3d", "#141228", "#080a14"),
    )
    sea = new_layer(
        "footage",
        "Dark water",
        clip=water,
        brightness=58.0,
        saturation=135.0,
        contrast=106.0,
        zoom=104.0,
        zoom_rate=14.0,
        speed=70.0,
        from_at="start",
        fade_in_s=0.2,
        fade_out_s=2.0,
    )
    sea["patches"] = [new_patch("brightness", kick, 0.0, 20.0, "add")]
    light = new_layer(
        "shape",
        "Light of the ring",
        form="ellipse",
        width=92.0,
        height=92.0,
        paint="field",
        field="angular",
        field_turn=0.0,
        back=True,
        colours=_stops("#ff7a66", "#f0b866", "#5fc4b4", "#7cc0f2", "#a99bff"),
    )
    ring = fitted_layer(
        "spectrum",
        "Ring of bars",
        {
            "base": "ring",
            "grow": "out",
            "mirror": True,
            "bands": 60,
            "radius": 24.0,
            "reach": 14.0,
            "gap": 40.0,
            "turn": 180.0,
            "least": 0.6,
            "corner": 100.0,
            "paint": "one",
            "plain": "#ffffff",
            "release_ms": 210.0,
            "low_hz": 40.0,
            "high_hz": 12_000.0,
            "from_at": "sound",
        },
        use,
    )
    ring["visible"] = False
    ring["patches"] = [new_patch("radius", kick, 1.0, 1.04, "multiply"), new_patch("gap", lead, 6.0, -14.0, "add")]
    light["masks"] = [new_mask("layer", source=ring["id"])]
    glow = new_layer(
        "shape",
        "Glow",
        form="ellipse",
        width=100.0,
        height=100.0,
        paint="field",
        field="radial",
        field_size=50.0,
        plain="#ff7a66",
        colours=_stops("#ffb46a", "#a4486e", "#2a1530"),
        blend="screen",
        layer_opacity=62.0,
    )
    glow["masks"] = [new_mask("shape", form="ellipse", width=52.0, height=52.0, feather=24.0)]
    glow["patches"] = [new_patch("layer_opacity", kick, 0.0, 46.0, "add")]
    disc = new_layer("shape", "Rim", form="ring", radius=21.2, hole=97.0, plain="#f4eadb", layer_opacity=70.0)
    disc["patches"] = [new_patch("layer_opacity", shimmer, 0.0, 30.0, "add")]
    logo = new_layer("logo", "Lamp", image=lamp, size=38.0, clear=6.0, pulse_by=9.0)
    logo["patches"] = [new_patch("pulse", kick, 0.0, 100.0)]
    shine = new_effect("glow", level=55.0, radius=2.6, gain=35.0)
    whole = new_layer("group", "Lamp and ring", fade_in_s=0.2, anchor_x=50.0, anchor_y=47.0, from_at="sound")
    members = [glow, ring, light, disc, logo]
    for member in members:
        member["group"] = whole["id"]
        for name in ("x", "y"):
            if name in member["settings"]:
                member["settings"][name] = 50.0 if name == "x" else 47.0
    for name, value in (("field_x", 50.0), ("field_y", 47.0)):
        light["settings"][name] = glow["settings"][name] = value
    glow["masks"][0]["settings"] |= {"x": 50.0, "y": 47.0}
    whole["keyframes"] = {
        "scale_x": [_key(0.0, 84.0, "ease-out"), _key(4.0, 100.0, "hold"), _key(38.0, 100.0), _key(41.5, 90.0)],
        "scale_y": [_key(0.0, 84.0, "ease-out"), _key(4.0, 100.0, "hold"), _key(38.0, 100.0), _key(41.5, 90.0)],
    }
    whole["effects"] = [shine]
    whole["patches"] = [new_patch(place_of(shine, "gain"), kick, 20.0, 75.0)]
    # What channels lay over their videos is kept clear: the line below, in a tall frame the buttons on the right too.
    whole["frames"] = {"tall": {"move_y": -6.0, "scale_x": 90.0, "scale_y": 90.0}, "square": {"move_y": -1.0}}
    way = new_layer(
        "whole-track",
        "Way through the song",
        style="bars",
        bars=150,
        x=50.0,
        y=92.0,
        width=80.0,
        reach=4.0,
        shows="peak",
        gap=46.0,
        paint="one",
        plain="#f0b866",
        rest="#f4eadb",
        rest_opacity=26.0,
        grow="both",
        fade_in_s=1.5,
    )
    way["patches"] = [new_patch("reach", beat, 0.0, 1.2, "add")]
    way["frames"] = {
        "tall": {"y": 70.0, "width": 68.0},
        "square": {"y": 82.5, "width": 84.0},
        "wide": {"y": 83.5, "width": 62.0},
    }
    document = new_document(
        "Paper Lighthouse",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[night, sea, whole, *members, way, finishing(("vignette", {"amount": 45.0, "size": 50.0}))],
        track=track,
        signals=[kick, lead, shimmer, beat],
    )
    document["markers"] = [
        {"time_s": 0.16, "text": "Lamp comes"},
        {"time_s": 4.08, "text": "Drums"},
        {"time_s": 20.26, "text": "Quiet water"},
        {"time_s": 26.4, "text": "All again"},
    ]
    return document
