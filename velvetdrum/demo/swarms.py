"""Projects that show particles, fields and depth: sparks, a swarm of lamps, plankton, a wall of light, and ridges."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.designs import song_signals
from velvetdrum.demo.finished import finishing, place_of
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.picture.figures.emission.designs import drawn
from velvetdrum.scene.designs import even_ramp
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES
from velvetdrum.signals.audio_range import AudioRange


def _within(group: Document, *members: Document) -> list[Document]:
    for member in members:
        member["group"] = group["id"]
    return [group, *members]


def _used(track: Document, recording: Analysis) -> AudioRange:
    return AudioRange(recording, track["in_s"], track["out_s"])


def sparks(track: Document, recording: Analysis) -> Document:
    """Particles leave a ring; their number, size and speed each follow the song; a wide camera circles them, with what
    is near and far out of focus, before a gradient that does not turn."""
    kick, lead, shimmer, beat = song_signals(track, recording)
    dark = even_ramp("#3a1436", "#1a0d26", "#07060f")
    ground = new_layer(
        "backdrop", "Glow", fill="radial", start_x=50.0, start_y=50.0, end_x=112.0, end_y=62.0, colours=dark
    )
    ground["patches"] = [new_patch("colours", kick, dark, even_ramp("#8a2a4e", "#2c1236", "#07060f"))]
    space = new_layer(
        "space",
        "Circling camera",
        view=62.0,
        elevation=24.0,
        orbit_turns=1.5,
        aperture=2.6,
        distance=92.0,
        fog_from=110.0,
        fog_to=330.0,
        fog_colour="#07060f",
    )
    ring = new_layer(
        "particles",
        "Sparks",
        radius=17.0,
        rate=260.0,
        speed=26.0,
        drag=1.1,
        life=2.6,
        dot=1.5,
        stray_z=80.0,
        wander=7.0,
        curl_size=30.0,
        by="seed",
        hard=True,
        colours=even_ramp("#ffe9c4", "#ffb24d", "#ff5a5f", "#a78bff", "#ff8fb8"),
        size_life=drawn((0, 30), (0.12, 100), (0.6, 80), (1, 10)),
        opacity_life=drawn((0, 0), (0.05, 100), (0.5, 90), (1, 0)),
    )
    ring["patches"] = [
        new_patch("rate", kick, 60.0, 1000.0),
        new_patch("speed", kick, 12.0, 78.0),
        new_patch("dot", lead, 0.9, 2.6),
        new_patch("orbit", lead, 6.0, 26.0),
    ]
    core = new_layer(
        "particles",
        "Dust of the ring",
        radius=17.0,
        rate=340.0,
        speed=3.0,
        speed_spread=100.0,
        life=1.6,
        dot=0.55,
        heading="any",
        stray_z=100.0,
        colours=even_ramp("#fff3d6", "#ffb27a"),
    )
    core["patches"] = [new_patch("dot", shimmer, 0.4, 1.3)]
    hoop = new_layer("shape", "Ring", form="ring", radius=17.3, hole=97.4, plain="#ffd9a0", blend="plus-lighter")
    hoop["patches"] = [new_patch("layer_opacity", beat, 18.0, 100.0)]
    finish = finishing(
        ("glow", {"level": 8.0, "radius": 4.0, "gain": 45.0}),
        ("vignette", {"amount": 50.0, "size": 52.0}),
        ("grain", {"amount": 5.0}),
    )
    return new_document(
        "Sparks",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[ground, *_within(space, hoop, core, ring), finish],
        track=track,
        signals=[kick, lead, shimmer, beat],
    )


def swarm(track: Document, recording: Analysis, lamp: str) -> Document:
    """The lamp as the particle, recoloured and spinning, in swarms that come with the beats. `lamp` is a picture's
    content hash."""
    kick, lead, shimmer, beat = song_signals(track, recording)
    dusk = even_ramp("#f3b27a", "#b2567a", "#3b2257")
    sky = new_layer("backdrop", "Dusk", fill="linear", start_x=50.0, start_y=100.0, end_x=50.0, end_y=0.0, colours=dusk)
    sky["patches"] = [new_patch("colours", lead, dusk, even_ramp("#ffd08a", "#d9688a", "#4a2a6b"))]
    space = new_layer("space", "Camera", view=52.0, aperture=3.2, distance=80.0, elevation=-6.0, fog_from=120.0)
    space["patches"] = [new_patch("orbit", lead, -9.0, 9.0)]
    common: dict[str, Any] = {
        "form": "picture",
        "image": lamp,
        "tint": "shade",
        "adds": False,
        "by": "seed",
        "hard": True,
        "heading": "any",
        "stray_z": 90.0,
        "wander": 9.0,
        "curl_size": 60.0,
        "dot_spread": 55.0,
    }
    far = new_layer(
        "particles",
        "Slow lamps",
        **common,
        base="rectangle",
        box_width=190.0,
        box_height=110.0,
        inside=True,
        rate=11.0,
        speed=5.0,
        life=8.0,
        dot=6.5,
        turning=18.0,
        colours=even_ramp("#ffe3b0", "#f0b866", "#ffffff"),
        size_life=drawn((0, 40), (0.2, 100), (0.8, 100), (1, 60)),
        opacity_life=drawn((0, 0), (0.15, 90), (0.85, 90), (1, 0)),
    )
    near = new_layer(
        "particles",
        "Lamps on the beat",
        **common,
        base="ring",
        radius=9.0,
        rate=0.0,
        burst_on="beats",
        burst=14,
        speed=46.0,
        drag=1.2,
        life=3.0,
        dot=9.0,
        turning=160.0,
        spread=180.0,
        colours=even_ramp("#fff6d8", "#ffcf5a", "#ff6a52", "#8fe3d2", "#c9b3ff"),
        size_life=drawn((0, 20), (0.12, 115), (0.25, 100), (1, 30)),
        opacity_life=drawn((0, 0), (0.05, 100), (0.7, 100), (1, 0)),
    )
    near["patches"] = [new_patch("dot", kick, 5.0, 13.0), new_patch("turning", shimmer, 60.0, 420.0)]
    middle = new_layer("logo", "Lamp", image=lamp, y=50.0, size=26.0, in_space="front")
    middle["effects"] = [new_effect("shadow", distance=0.0, softness=3.0, colour="#3b1230", solid=70.0)]
    middle["patches"] = [new_patch("size", beat, 24.5, 28.0)]
    return new_document(
        "Swarm",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[
            sky,
            *_within(space, far, near, middle),
            finishing(
                ("glow", {"level": 62.0, "radius": 3.0, "gain": 40.0}), ("vignette", {"amount": 42.0, "size": 55.0})
            ),
        ],
        track=track,
        signals=[kick, lead, shimmer, beat],
    )


def plankton(track: Document, recording: Analysis) -> Document:
    """A field that flows upward at rest and is pushed by three signals; a ball in its middle grows with the lead."""
    kick, lead, shimmer, _ = song_signals(track, recording)
    deep = new_layer(
        "backdrop",
        "Deep",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=even_ramp("#0d3a52", "#072236", "#030d18"),
    )
    space = new_layer("space", "Camera", view=48.0, aperture=1.6, fog_from=95.0, fog_to=240.0, fog_colour="#041522")
    space["patches"] = [new_patch("orbit", lead, -6.0, 6.0)]
    field = new_layer(
        "dot-field",
        "Plankton",
        columns=44,
        rows=30,
        layers=4,
        wide=230.0,
        high=140.0,
        deep=90.0,
        dot=0.5,
        scatter=90.0,
        rise=7.0,
        flow_amount=5.0,
        flow_scale=46.0,
        flow_speed=6.0,
        flow_detail=3,
        ball=12.0,
        ball_strength=120.0,
        by="moved",
        swell=130.0,
        colours=even_ramp("#1f7f86", "#4fd0b8", "#c8f7d8", "#fff3b0"),
        opacity=92.0,
    )
    field["patches"] = [
        new_patch("ball", lead, 8.0, 30.0),
        new_patch("flow_amount", kick, 3.5, 10.0),
        new_patch("dot", shimmer, 0.4, 0.7),
    ]
    heart = new_layer(
        "particles",
        "Heart",
        base="ring",
        radius=5.0,
        inside=True,
        rate=70.0,
        speed=6.0,
        life=1.8,
        heading="any",
        dot=1.6,
        form="soft",
        stray_z=100.0,
        colours=even_ramp("#fff6c8", "#8ff0d0", "#1f9fa0"),
    )
    heart["patches"] = [new_patch("radius", lead, 3.0, 14.0), new_patch("rate", lead, 30.0, 260.0)]
    finish = finishing(
        ("glow", {"level": 22.0, "radius": 3.4, "gain": 95.0}),
        ("light-rays", {"length": 46.0, "gain": 55.0, "decay": 75.0, "level": 55.0, "y": -10.0}),
        ("vignette", {"amount": 55.0, "size": 45.0}),
    )
    return new_document(
        "Plankton",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[deep, *_within(space, field, heart), finish],
        track=track,
        signals=[kick, lead, shimmer],
    )


def harbour_wall(track: Document, recording: Analysis) -> Document:
    """A row of lit boxes that grow from the floor, with rows of history behind them, and the camera looking at them."""
    use = _used(track, recording)
    kick, lead, _, beat = song_signals(track, recording)
    night = new_layer(
        "backdrop",
        "Night",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=even_ramp("#0a0c1e", "#1c1a3a", "#5a2f4f", "#1a1226"),
    )
    space = new_layer(
        "space",
        "Camera on the quay",
        view=44.0,
        elevation=15.0,
        orbit=-22.0,
        distance=116.0,
        look_y=5.0,
        floor=True,
        floor_y=24.0,
        reflection=42.0,
        grid=16.0,
        grid_colour="#ff9a7a",
        light=95.0,
        light_azimuth=-48.0,
        light_elevation=38.0,
        light_colour="#ffe0c0",
        ambient=30.0,
        lamp_x=0.0,
        lamp_y=-12.0,
        lamp_z=26.0,
        lamp_colour="#ff7a66",
        fog_from=88.0,
        fog_to=210.0,
        fog_colour="#1c1a3a",
        aperture=0.8,
    )
    space["patches"] = [new_patch("lamp", kick, 20.0, 260.0), new_patch("orbit", lead, -26.0, -14.0)]
    wall = fitted_layer(
        "solids",
        "Wall",
        {
            "bands": 26,
            "rows": 9,
            "step": 1,
            "unit": "beats",
            "span": 124.0,
            "height": 40.0,
            "base_y": 24.0,
            "row_gap": 9.0,
            "gap": 22.0,
            "rounding": 55.0,
            "release_ms": 260.0,
            "shine": 22.0,
            "by": "level",
            "colours": even_ramp("#3d3a8c", "#8a4f9e", "#ff7a66", "#ffd9a0"),
        },
        use,
    )
    dust = new_layer(
        "particles",
        "Sparks above",
        base="line",
        width=60.0,
        y=72.0,
        rate=40.0,
        speed=14.0,
        heading="fixed",
        spread=60.0,
        life=3.0,
        dot=0.55,
        stray_z=80.0,
        wander=6.0,
        colours=even_ramp("#fff3d6", "#ffb27a"),
    )
    dust["patches"] = [new_patch("rate", beat, 10.0, 120.0)]
    finish = finishing(
        ("glow", {"level": 58.0, "radius": 2.6, "gain": 55.0}),
        ("vignette", {"amount": 48.0, "size": 50.0}),
        ("grain", {"amount": 4.0}),
    )
    return new_document(
        "Harbour wall",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[night, *_within(space, wall, dust), finish],
        track=track,
        signals=[kick, lead, beat],
    )


def ridges(track: Document, recording: Analysis) -> Document:
    """Past spectra as ridges that go back to the horizon, under a lamp that rises with the lead."""
    use = _used(track, recording)
    kick, lead, _, _ = song_signals(track, recording)
    night = new_layer(
        "backdrop",
        "Evening",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=[
            {"at": 0.0, "colour": "#10122b"},
            {"at": 0.2, "colour": "#2b1f4a"},
            {"at": 0.38, "colour": "#7a3a5e"},
            {"at": 0.5, "colour": "#f0906a"},
            {"at": 0.54, "colour": "#ffd08a"},
            {"at": 0.6, "colour": "#140f26"},
            {"at": 1.0, "colour": "#140f26"},
        ],
    )
    moon = new_layer("shape", "Lamp over the sea", form="ellipse", width=30.0, height=30.0, y=26.0, plain="#ffe9c0")
    shine = new_effect("glow", level=20.0, radius=9.0, gain=90.0)
    moon["effects"] = [shine]
    moon["patches"] = [new_patch(place_of(shine, "gain"), kick, 50.0, 160.0), new_patch("y", lead, 30.0, 21.0)]
    space = new_layer(
        "space", "Camera", view=50.0, elevation=24.0, distance=92.0, fog_from=105.0, fog_to=330.0, fog_colour="#7a3a5e"
    )
    space["patches"] = [new_patch("elevation", lead, 22.0, 26.0)]
    lines = fitted_layer(
        "ridges",
        "Ridges",
        {
            "rows": 30,
            "step": 0.25,
            "unit": "beats",
            "wide": 220.0,
            "height": 20.0,
            "row_gap": 7.4,
            "base_y": 33.0,
            "deep": True,
            "taper": 45.0,
            "fill": "#140f26",
            "line": 0.34,
            "fade": 55.0,
            "release_ms": 240.0,
            "bands": 30,
            "colours": even_ramp("#fff3d6", "#ffb27a", "#d0608a", "#8a5fb0"),
        },
        use,
    )
    return new_document(
        "Ridges",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[
            night,
            moon,
            *_within(space, lines),
            finishing(
                ("glow", {"level": 60.0, "radius": 1.8, "gain": 35.0}), ("vignette", {"amount": 45.0, "size": 52.0})
            ),
        ],
        track=track,
        signals=[kick, lead],
    )
