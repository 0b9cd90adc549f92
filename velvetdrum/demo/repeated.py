"""Projects that show what is repeated and traced: paper boats on a ring, and lead and drums drawn as lines."""

from __future__ import annotations

from fractions import Fraction

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.designs import song_signals
from velvetdrum.demo.finished import finishing, place_of
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.signal_part import COLOURS, new_signal
from velvetdrum.signals.audio_range import AudioRange

_HULL, _SAIL, _KEEL = "M0 46h100L80 82H20z", "M48 2v40H14zM54 12v30h26z", "M0 46h100l-6 11H6z"


def _boat() -> list[Document]:
    """A paper boat, as a group that is not seen by itself, and its parts."""
    boat = new_layer("group", "Boat") | {"visible": False}
    parts = [
        new_layer("shape", "Sail", form="path", path=_SAIL, size=21.0, y=42.4, plain="#fff6e2"),
        new_layer("shape", "Hull", form="path", path=_HULL, size=30.0, y=56.0, plain="#e7d4b8"),
        new_layer("shape", "Fold", form="path", path=_KEEL, size=30.0, y=51.6, plain="#ff7a66"),
    ]
    for part in parts:
        part["group"] = boat["id"]
    return [boat, *parts]


def paper_boats(track: Document, recording: Analysis) -> Document:
    """Paper boats on a ring, each lifted by its own band; lanterns lie on the water between them."""
    use = AudioRange(recording, track["in_s"], track["out_s"])
    kick, lead, shimmer, _ = song_signals(track, recording)
    slow = new_signal("total", "Way round", colour=COLOURS[1], of=[lead["id"]], full_s=26.0)
    ground = new_layer(
        "backdrop",
        "Night water",
        start_x=50.0,
        start_y=50.0,
        end_x=118.0,
        end_y=50.0,
        colours=[{"at": 0, "colour": "#1d4a63"}, {"at": 0.45, "colour": "#122c45"}, {"at": 1, "colour": "#070d1c"}],
    )
    boat = _boat()
    light = new_layer("shape", "Lantern", form="ellipse", width=6.0, height=6.0, plain="#ffd9a0") | {"visible": False}
    lanterns = fitted_layer(
        "array",
        "Lanterns",
        {
            "source": light["id"],
            "arrange": "sunflower",
            "count": 170,
            "outer": 27.0,
            "copy_size": 1.5,
            "size_0": 20.0,
            "size_1": 175.0,
            "lift": 0.0,
            "opacity_0": 26.0,
            "tint": "form",
            "by": "level",
            "colours": [
                {"at": 0, "colour": "#5fa8c4"},
                {"at": 0.5, "colour": "#ffcf8a"},
                {"at": 1, "colour": "#ff8f70"},
            ],
            "adds": True,
            "release_ms": 320.0,
        },
        use,
    )
    lanterns["patches"] = [new_patch("turn", slow, 0.0, 360.0)]
    boats = fitted_layer(
        "array",
        "Boats",
        {
            "source": boat[0]["id"],
            "count": 13,
            "base": "ring",
            "radius": 33.0,
            "copy_size": 24.0,
            "facing": "outward",
            "size_0": 62.0,
            "size_1": 118.0,
            "lift": 6.5,
            "release_ms": 260.0,
            "mirror": True,
        },
        use,
    )
    boats["patches"] = [new_patch("turn", slow, 0.0, -360.0), new_patch("lift", lead, 5.0, 8.0)]
    wake = new_effect("glow", level=30.0, radius=2.4, gain=60.0)
    lanterns["effects"] = [wake]
    lanterns["patches"].append(new_patch(place_of(wake, "gain"), kick, 30.0, 190.0))
    rim = new_layer("shape", "Ripple", form="ring", radius=30.0, hole=98.6, plain="#8fd0e0", layer_opacity=34.0)
    rim["patches"] = [new_patch("radius", kick, 29.0, 31.5), new_patch("layer_opacity", shimmer, 22.0, 70.0)]
    return new_document(
        "Paper boats",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[
            ground,
            *boat,
            light,
            lanterns,
            rim,
            boats,
            finishing(("vignette", {"amount": 58.0, "size": 44.0, "softness": 90.0}), ("grain", {"amount": 6.0})),
        ],
        track=track,
        signals=[kick, lead, shimmer, slow],
    )


def two_lines(track: Document, recording: Analysis) -> Document:
    """The lead and the drums as bright lines that go round with two bars, and as traces in lanes below."""
    kick, lead, shimmer, _ = song_signals(track, recording)
    after = new_signal("echo", "Drums, later", colour=COLOURS[5], of=[kick["id"]], delay=0.06, repeats=3, feedback=78.0)
    ground = new_layer(
        "backdrop",
        "Dusk",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=[{"at": 0, "colour": "#241031"}, {"at": 0.6, "colour": "#16122c"}, {"at": 1, "colour": "#0a0a18"}],
    )
    rounds = new_layer(
        "trace",
        "Lead and drums",
        form="ring",
        lines=2,
        y=38.0,
        radius=17.0,
        height=15.0,
        period=2.0,
        unit="bars",
        line=0.8,
        head=2.0,
        tail_s=3.9,
        fade=92.0,
        thin=80.0,
        colours=[{"at": 0, "colour": "#fff1d0"}, {"at": 0.3, "colour": "#ff9d6c"}, {"at": 1, "colour": "#8a5cff"}],
    )
    glow = new_effect("glow", level=12.0, radius=2.6, gain=120.0)
    rounds["effects"] = [glow]
    rounds["patches"] = [
        new_patch("level", lead, 0.0, 100.0),
        new_patch("level_2", after, 0.0, 70.0),
        new_patch(place_of(glow, "gain"), kick, 70.0, 240.0),
    ]
    lanes = new_layer(
        "trace",
        "Three lanes",
        form="strip",
        lines=3,
        stacked="apart",
        y=83.0,
        width=84.0,
        height=22.0,
        span_s=8.0,
        tail_s=8.0,
        fade=90.0,
        thin=40.0,
        line=0.34,
        head=1.1,
        by="line",
        grid=True,
        labels=False,
        grid_opacity=14.0,
        colours=[
            {"at": 0.16, "colour": "#ff9d6c"},
            {"at": 0.5, "colour": "#5fc4b4"},
            {"at": 0.84, "colour": "#a99bff"},
        ],
    )
    lanes["patches"] = [
        new_patch("level", kick, 0.0, 100.0),
        new_patch("level_2", lead, 0.0, 100.0),
        new_patch("level_3", shimmer, 0.0, 100.0),
    ]
    return new_document(
        "Two lines",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[
            ground,
            lanes,
            rounds,
            finishing(("vignette", {"amount": 50.0, "size": 46.0, "softness": 95.0}), ("grain", {"amount": 6.0})),
        ],
        track=track,
        signals=[kick, lead, shimmer, after],
    )
