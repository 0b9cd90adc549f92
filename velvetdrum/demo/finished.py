"""Projects that show effects: glass rings over mirrored haze, and a beacon over dark, trembling water."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.designs import song_signals
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.scene.designs import even_ramp
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.signal_part import COLOURS, new_signal
from velvetdrum.signals.audio_range import AudioRange


def place_of(effect: Document, name: str) -> str:
    """The address of an effect's setting, for patches."""
    return f"effect:{effect['id']}:{name}"


def glass_tide(track: Document, recording: Analysis) -> Document:
    """Turning glass rings over mirrored haze in hard steps; each has its size and its turn from the sound."""
    kick, lead, shimmer, beat = song_signals(track, recording)
    turn = new_signal("clock", "Every eight bars", colour=COLOURS[1], every=8, unit="bars", shape="saw")
    ground = new_layer("backdrop", "Deep", fill="plain", plain="#0a0f22")
    haze = new_layer(
        "haze",
        "Haze",
        scale=90.0,
        detail=5,
        contrast=62.0,
        speed=4.0,
        boil=0.14,
        thick="#f2f2f2",
        thin="#050505",
        density=100.0,
        veil=100.0,
    )
    mirrored = new_effect("mirror", lines=2, angle=90.0)
    stepped = new_effect(
        "gradient-map",
        stepped=True,
        colours=even_ramp("#0a0f22", "#123a52", "#1f7f86", "#5fc4b4", "#c4e6c8", "#ffd9a0", "#ff7a66", "#7c2f52"),
    )
    edge = new_effect("soft-blur", radius=0.12)
    haze["effects"] = [mirrored, stepped, edge]
    haze["patches"] = [new_patch(place_of(mirrored, "angle"), turn, 90.0, 450.0)]

    rims = new_layer("group", "Rims")
    members: list[Document] = []
    rings: list[Document] = []
    for number, (name, radius, width, signal, way, bevel) in enumerate(
        (
            ("Great ring", 34.0, 12.0, lead, 1, True),
            ("Middle ring", 20.5, 8.5, kick, -1, False),
            ("Small ring", 9.0, 7.0, shimmer, 1, True),
        )
    ):
        glass = new_effect(
            "glass-ring",
            under="behind",
            radius=radius,
            width=width,
            bend=70.0 - 12 * number,
            facets=(16, 0, 9)[number],
            dispersion=0.0,
            softness=0.3,
        )
        ring = new_layer("shape", name, form="ring", radius=radius + width / 2, hole=60.0)
        ring["effects"] = [glass]
        if bevel:
            ring["effects"].append(new_effect("bevel", width=1.1, light=62.0, shade=42.0))
        ring["effects"].append(new_effect("shadow", distance=0.6, softness=1.6, solid=55.0))
        ring["patches"] = [
            new_patch(place_of(glass, "radius"), signal, radius - 1.6, radius + 2.4),
            new_patch(place_of(glass, "turn"), turn, 0.0, 360.0 * way),
        ]
        rings.append(ring)
        rim = new_layer(
            "shape",
            f"{name}, rim",
            form="ring",
            radius=radius + width / 2,
            hole=97.6,
            plain=("#f4eadb", "#c8b8ff", "#9fe6d8")[number],
            layer_opacity=70.0,
        )
        rim["group"] = rims["id"]
        rim["patches"] = [
            new_patch("radius", signal, radius + width / 2 - 1.6, radius + width / 2 + 2.4),
        ]
        members.append(rim)
    ghost = new_layer(
        "instance", "Ghost, twice as large", source=members[0]["id"], scale_x=200.0, scale_y=200.0, layer_opacity=26.0
    )
    ghost["effects"] = [new_effect("soft-blur", radius=0.5), new_effect("mirror", angle=45.0)]
    lights = new_layer("instance", "Highlights", source=members[0]["id"], blend="plus-lighter", layer_opacity=60.0)
    lights["effects"] = [
        new_effect("highlights", what="light", level=55.0),
        new_effect("glow", level=10.0, radius=2.5, gain=180.0),
    ]
    lights["patches"] = [new_patch("layer_opacity", kick, 20.0, 95.0)]
    flare = new_layer(
        "flare",
        "Flare on the beat",
        facets=8,
        ghosts=0,
        size=5.5,
        core=80.0,
        ring=55.0,
        streak=40.0,
        streak_length=70.0,
        colour="#fff0d2",
        edge_colour="#ffb27a",
    )
    flare["patches"] = [new_patch("gain", beat, 25.0, 150.0), new_patch("turn", turn, 0.0, 90.0)]
    whole = new_layer("whole-picture", "Finish")
    pump = new_effect("pump", quiet=-0.5, loud=0.2, black=3.0, white=97.0)
    whole["effects"] = [pump, new_effect("vignette", amount=62.0, size=42.0), new_effect("grain", amount=7.0)]
    whole["patches"] = [new_patch(place_of(pump, "amount"), lead, 20.0, 100.0)]
    document = new_document(
        "Glass tide",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[ground, haze, ghost, *rings, rims, *members, lights, flare, whole],
        track=track,
        signals=[kick, lead, shimmer, beat, turn],
    )
    return document


def beacon(track: Document, recording: Analysis, water: str) -> Document:
    """A ring that grows outward with two progress rings and a timer in it, in the colours of four corners, with glow
    and rays behind it, over dark, grey, trembling water. `water` is a clip's content hash."""
    use = AudioRange(recording, track["in_s"], track["out_s"])
    kick, lead, shimmer, _ = song_signals(track, recording)
    bar = new_signal("clock", "Every bar", colour=COLOURS[1], every=1, unit="bars", shape="saw")
    sea = new_layer("footage", "Grey water", clip=water, speed=45.0, zoom=112.0)
    tremble = new_effect("turbulence", amount=1.4, scale=26.0, detail=3, speed=0.5)
    sea["effects"] = [
        new_effect("adjust", saturation=12.0, exposure=-0.7, contrast=118.0, temperature=-12.0),
        tremble,
    ]
    sea["patches"] = [new_patch(place_of(tremble, "amount"), kick, 0.8, 3.2)]
    lamp = new_layer("group", "Beacon", fade_in_s=0.1, fade_out_s=0.1)
    ring = fitted_layer(
        "spectrum",
        "Ring",
        {
            "base": "ring",
            "grow": "out",
            "mirror": True,
            "bands": 54,
            "radius": 25.0,
            "reach": 13.0,
            "gap": 34.0,
            "turn": 180.0,
            "least": 0.7,
            "corner": 100.0,
            "paint": "one",
            "plain": "#ffffff",
            "release_ms": 230.0,
            "low_hz": 40.0,
            "high_hz": 11_000.0,
        },
        use,
    )
    ring["patches"] = [new_patch("radius", kick, 1.0, 1.05, "multiply")]
    outer = new_layer("progress", "Whole way", base="ring", radius=22.0, stroke=0.9, plain="#ffffff")
    inner = new_layer(
        "progress", "Bar", base="ring", radius=19.6, stroke=0.5, marks="dots", count=48, plain="#ffffff", over="value"
    )
    inner["patches"] = [new_patch("value", bar, 0.0, 100.0)]
    timer = new_layer(
        "text",
        "Timer",
        text="{remaining m:ss}",
        size=11.0,
        family="work-sans",
        weight=600.0,
        tabular=True,
        y=50.0,
        plain="#ffffff",
    )
    name = new_layer(
        "text", "Name", text="Paper Lighthouse", size=3.0, family="work-sans", weight=500.0, y=57.0, plain="#ffffff"
    )
    disc = new_layer(
        "shape", "Dark inside", form="ellipse", width=43.0, height=43.0, plain="#04060b", layer_opacity=72.0
    )
    members = [disc, ring, outer, inner, timer, name]
    for member in members:
        member["group"] = lamp["id"]
    corners = new_effect(
        "four-corners", corner_1="#ff5a4a", corner_2="#ffbe45", corner_3="#2fc7b0", corner_4="#8f6bff", size=34.0
    )
    glow = new_effect("glow", level=20.0, radius=3.2, gain=70.0)
    lamp["effects"] = [corners, new_effect("adjust", saturation=125.0), glow]
    lamp["patches"] = [new_patch(place_of(glow, "gain"), kick, 40.0, 190.0)]
    # Of the ring alone: letters would only veil it.
    behind = new_layer(
        "instance",
        "Rays behind",
        source=ring["id"],
        scale_x=92.0,
        scale_y=92.0,
        blend="plus-lighter",
        layer_opacity=80.0,
    )
    tinted = new_effect("four-corners", **corners["settings"])
    rays = new_effect("light-rays", length=62.0, gain=320.0, decay=70.0, level=25.0, what="light")
    behind["effects"] = [tinted, rays]
    behind["patches"] = [
        new_patch(place_of(rays, "gain"), lead, 120.0, 520.0),
        new_patch("layer_opacity", shimmer, 60.0, 100.0),
    ]
    whole = new_layer("whole-picture", "Finish")
    whole["effects"] = [
        new_effect("vignette", amount=62.0, size=42.0, softness=95.0),
        new_effect("grain", amount=9.0),
    ]
    return new_document(
        "Beacon",
        frame=FRAMES["tall"],
        rate=Fraction(30),
        layers=[sea, behind, lamp, *members, whole],
        track=track,
        signals=[kick, lead, shimmer, bar],
    )


def finishing(*effects: tuple[str, dict[str, Any]]) -> Document:
    """A layer over the whole picture with effects, as the other projects end with."""
    layer = new_layer("whole-picture", "Finish")
    layer["effects"] = [new_effect(kind, **settings) for kind, settings in effects]
    return layer
