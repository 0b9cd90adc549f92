"""The designs of the demo projects."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Any

from velvetdrum.audio.analysis import Analysis
from velvetdrum.picture.layers.spectrum import Spectrum
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.signal_part import COLOURS, new_signal
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import fit_range
from velvetdrum.signals.pickup_fit import fit_pickup
from velvetdrum.signals.sources.pickup import Pickup


def song_design(track: Document, recording: Analysis) -> Document:
    """Bars over still water: the spectrum stands on the horizon and is mirrored below it."""
    sky = new_layer(
        "backdrop",
        "Night",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=[
            {"at": 0, "colour": "#0d1024"},
            {"at": 0.4, "colour": "#232450"},
            {"at": 0.622, "colour": "#5a3a63"},
            {"at": 0.622, "colour": "#1b1630"},
            {"at": 1, "colour": "#0a0914"},
        ],
    )
    kick, lead, shimmer, beat = song_signals(track, recording)
    glowing = [
        {"at": 0, "colour": "#10132c"},
        {"at": 0.4, "colour": "#33306a"},
        {"at": 0.622, "colour": "#c06a72"},
        {"at": 0.622, "colour": "#2b2044"},
        {"at": 1, "colour": "#0c0b18"},
    ]
    sky["patches"] = [new_patch("colours", kick, sky["settings"]["colours"], glowing)]
    colours = [
        {"at": 0, "colour": "#ff7a66"},
        {"at": 0.3, "colour": "#f0b866"},
        {"at": 0.62, "colour": "#5fc4b4"},
        {"at": 1, "colour": "#a99bff"},
    ]
    common = {
        "bands": 72,
        "x": 50.0,
        "y": 62.2,
        "width": 80.0,
        "gap": 40.0,
        "colours": colours,
        "low_hz": 36.0,
        "high_hz": 13000.0,
        "release_ms": 200.0,
    } | _fitted(track, recording)
    bars = new_layer("spectrum", "Bars", grow="out", reach=47.0, **common)
    mirror = new_layer(
        "spectrum", "Reflection", grow="in", reach=24.0, **common | {"opacity": 24.0, "release_ms": 320.0}
    )
    bars["patches"] = [
        new_patch("gap", lead, 8.0, -14.0, "add"),
        new_patch("reach", kick, 0.92, 1.06, "multiply"),
    ]
    water = new_effect("wave", amount=0.5, wavelength=5.0, angle=90.0, speed=0.7)
    mirror["effects"] = [water, new_effect("soft-blur", radius=0.25)]
    bars["effects"] = [new_effect("glow", level=40.0, radius=2.4, gain=45.0)]
    mirror["patches"] = [new_patch("opacity", shimmer, 0.0, 26.0, "add"), new_patch("reach", beat, 0.0, 5.0, "add")]
    return new_document(
        "Still water",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[sky, mirror, bars],
        track=track,
        signals=[kick, lead, shimmer, beat],
    )


def song_signals(track: Document, recording: Analysis) -> tuple[Document, Document, Document, Document]:
    """What the designs for the song follow: kick, lead, shimmer, and a clock."""

    def pickup(name: str, colour: str, **settings: Any) -> Document:
        use = AudioRange(recording, track["in_s"], track["out_s"])
        length = track["out_s"] - track["in_s"]
        quiet, loud = fit_pickup(Pickup(settings), use, length, 0.0, length)
        return new_signal("pickup", name, colour=colour, **settings | {"quiet_db": quiet, "loud_db": loud})

    return (
        # Above the bass line, whose notes begin between the kicks and lie in the kick's own band.
        new_signal(
            "pickup",
            "Kick",
            colour=COLOURS[0],
            low_hz=120.0,
            high_hz=220.0,
            detector="hits",
            quiet_db=-20.0,
            loud_db=-9.0,
            attack_ms=4.0,
            release_ms=220.0,
        ),
        pickup("Lead", COLOURS[2], low_hz=420.0, high_hz=1800.0, attack_ms=30.0, release_ms=260.0),
        pickup(
            "Shimmer", COLOURS[3], low_hz=6000.0, high_hz=15_000.0, detector="hits", attack_ms=3.0, release_ms=120.0
        ),
        new_signal("clock", "Every beat", colour=COLOURS[4], decay_ms=200.0),
    )


def lamp_design(track: Document, recording: Analysis) -> Document:
    """A beam that turns a quarter round each bar, in a square frame; the light behind it beats with the kick."""
    kick, lead, shimmer, _ = song_signals(track, recording)
    bar = new_signal("clock", "Every four bars", colour=COLOURS[4], every=4, unit="bars", shape="saw")
    dark = [{"at": 0, "colour": "#3a2348"}, {"at": 0.5, "colour": "#20142f"}, {"at": 1, "colour": "#0d0916"}]
    lit = [{"at": 0, "colour": "#d9774f"}, {"at": 0.5, "colour": "#472146"}, {"at": 1, "colour": "#120b1c"}]
    ground = new_layer("backdrop", "Glow", start_x=50.0, start_y=50.0, end_x=118.0, end_y=50.0, colours=dark)
    ground["patches"] = [new_patch("colours", kick, dark, lit)]
    common = {
        "bands": 44,
        "x": 50.0,
        "y": 50.0,
        "width": 84.0,
        "gap": 44.0,
        "low_hz": 45.0,
        "high_hz": 12_000.0,
        "release_ms": 210.0,
        "least": 0.8,
    }
    reads = {"count": 44, "low_hz": 45.0, "high_hz": 12_000.0}
    colours = [{"at": 0, "colour": "#fff0c9"}, {"at": 0.5, "colour": "#f0b866"}, {"at": 1, "colour": "#ff7a66"}]
    beam = new_layer(
        "spectrum",
        "Beam",
        grow="both",
        reach=52.0,
        paint="level",
        colours=colours,
        **common | _fitted(track, recording, **reads),
    )
    beam["patches"] = [new_patch("turn", bar, 0.0, 360.0), new_patch("gap", lead, 6.0, -16.0, "add")]
    cross = new_layer(
        "spectrum",
        "Cross beam",
        grow="both",
        reach=30.0,
        opacity=26.0,
        colours=[{"at": 0, "colour": "#5fc4b4"}, {"at": 1, "colour": "#a99bff"}],
        **common | _fitted(track, recording, **reads),
    )
    beam["effects"] = [new_effect("glow", level=30.0, radius=3.0, gain=60.0)]
    cross["patches"] = [new_patch("turn", bar, 90.0, -270.0), new_patch("opacity", shimmer, 0.0, 50.0, "add")]
    return new_document(
        "Turning lamp",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[ground, cross, beam],
        track=track,
        signals=[kick, lead, shimmer, bar],
    )


def notice_design(track: Document, recording: Analysis) -> Document:
    """A voice in a square frame: few broad bars, warm from foot to tip."""
    ground = new_layer(
        "backdrop",
        "Evening",
        start_x=50.0,
        start_y=50.0,
        end_x=112.0,
        end_y=50.0,
        colours=[{"at": 0, "colour": "#7a2f45"}, {"at": 0.6, "colour": "#451c38"}, {"at": 1, "colour": "#1f1024"}],
    )
    bars = new_layer(
        "spectrum",
        "Voice",
        bands=28,
        low_hz=95.0,
        high_hz=7200.0,
        reach=44.0,
        width=74.0,
        gap=46.0,
        paint="level",
        release_ms=150.0,
        tilt_db=2.0,
        least=1.2,
        colours=[{"at": 0, "colour": "#ffd9a0"}, {"at": 0.5, "colour": "#f0b866"}, {"at": 1, "colour": "#ff7a66"}],
        **_fitted(track, recording, count=28, low_hz=95.0, high_hz=7200.0, tilt_db=2.0),
    )
    use = AudioRange(recording, track["in_s"], track["out_s"])
    reads = {"low_hz": 140.0, "high_hz": 3400.0, "attack_ms": 15.0, "release_ms": 220.0}
    quiet, loud = fit_pickup(Pickup(reads), use, use.out_s - use.in_s, 0.0, use.out_s - use.in_s)
    voice = new_signal("pickup", "Voice", colour=COLOURS[1], **reads | {"quiet_db": quiet, "loud_db": loud})
    way = new_signal("progress", "How far", colour=COLOURS[2], over="sound")
    bars["patches"] = [new_patch("gap", voice, 12.0, -16.0, "add")]
    bars["effects"] = [new_effect("glow", level=40.0, radius=2.6, gain=40.0)]
    ground["patches"] = [new_patch("end_x", voice, 0.0, 14.0, "add"), new_patch("start_x", way, 34.0, 66.0)]
    return new_document(
        "Harbour notice",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[ground, bars],
        track=track,
        signals=[voice, way],
    )


def _fitted(track: Document, recording: Analysis, **reads: float) -> Document:
    settings = replace(Spectrum({}).reads, **reads)  # type: ignore[arg-type]
    quiet, loud = fit_range(AudioRange(recording, track["in_s"], track["out_s"]), settings)
    return {"quiet_db": quiet, "loud_db": loud}
