"""Projects whose parts move by themselves: a lighthouse that is put together, and words that swell as they are said."""

from __future__ import annotations

from fractions import Fraction

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.designs import song_signals
from velvetdrum.demo.finished import finishing, place_of
from velvetdrum.demo.pictures import LIGHTHOUSE_PARTS
from velvetdrum.demo.worded import audiogram
from velvetdrum.scene.designs import even_ramp
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.effects import new_effect
from velvetdrum.scene.frames import FRAMES

_COME_FROM = {
    "beam": (0.0, 0.0, 0.0),
    "rock": (0.0, 60.0, 0.0),
    "tower": (0.0, 90.0, 0.0),
    "stripes": (-90.0, 0.0, 0.0),
    "gallery": (90.0, 0.0, 20.0),
    "lantern": (0.0, -80.0, 0.0),
    "roof": (40.0, -90.0, 120.0),
    "sea": (-120.0, 0.0, 0.0),
}
"""From how far each part comes: across and down in per cent of the frame, and its angle."""
_ORDER = ("rock", "sea", "tower", "stripes", "gallery", "lantern", "roof", "beam")


def put_together(track: Document, recording: Analysis, lighthouse: str) -> Document:
    """A lighthouse whose parts come from all sides, each to a beat, and stand together when the drums begin.
    `lighthouse` is the content hash of a logo with parts."""
    kick, lead, shimmer, _ = song_signals(track, recording)
    beats = [beat - track["in_s"] for beat in recording.facts.beats_s]
    times = {part: beats[place] if place < len(beats) else 0.5 * place for place, part in enumerate(_ORDER)}
    ground = new_layer(
        "backdrop",
        "Evening",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=even_ramp("#2c1b45", "#8a3f62", "#f0a070"),
    )
    sun = new_layer("shape", "Low sun", form="ellipse", x=50.0, y=63.0, width=46.0, height=46.0, plain="#ffd9a0")
    haze = new_effect("glow", level=0.0, radius=5.0, gain=70.0)
    sun["effects"] = [haze]
    sun["patches"] = [new_patch("layer_opacity", lead, 55.0, 95.0)]
    parts = [_part(name, lighthouse, times[name]) for name in LIGHTHOUSE_PARTS]
    by_name = dict(zip(LIGHTHOUSE_PARTS, parts, strict=True))
    light = new_effect("glow", level=20.0, radius=3.0, gain=90.0)
    by_name["lantern"]["effects"] = [light]
    by_name["lantern"]["patches"] = [new_patch(place_of(light, "gain"), kick, 40.0, 260.0)]
    by_name["beam"]["patches"] = [new_patch("scale_y", shimmer, 70.0, 150.0)]
    by_name["beam"]["settings"] |= {"blend": "plus-lighter", "anchor_y": 33.0}
    by_name["roof"]["patches"] = [new_patch("pulse", kick, 0.0, 100.0)]
    blurred = new_effect("shutter", angle=180.0, most=4)
    group = new_layer("group", "Lighthouse")
    for part in parts:
        part["group"] = group["id"]
    # Once all stands, nothing is left to be blurred.
    blurred["settings"] |= {"lasts": "time", "to_s": round(max(times.values()) + 0.5, 2)}
    group["effects"] = [blurred]
    title = new_layer(
        "text",
        "Title",
        text="Paper Lighthouse",
        family="recursive",
        weight=400.0,
        size=8.0,
        y=90.0,
        plain="#fff1dc",
        axis="wght",
        axis_by=560.0,
        tracking=30.0,
        enter="fade",
        each_s=0.6,
    )
    return new_document(
        "Put together",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[
            ground,
            sun,
            group,
            *parts,
            title,
            finishing(("vignette", {"amount": 40.0, "size": 52.0, "softness": 95.0}), ("grain", {"amount": 5.0})),
        ],
        track=track,
        signals=[kick, lead, shimmer],
    )


def _part(name: str, lighthouse: str, lands_s: float) -> Document:
    """A part of the lighthouse that lands at a time."""
    part = new_layer("logo", name.capitalize(), image=lighthouse, part=name, size=72.0, y=46.0, clear=0.0, pulse_by=4.0)
    across, down, angle = _COME_FROM[name]
    begin = max(lands_s - 0.7, 0.0)

    def way(first: float, last: float) -> list[Document]:
        return [
            {"time_s": begin, "value": first, "ease": "ease-out"},
            {"time_s": max(lands_s, begin + 0.1), "value": last, "ease": "linear"},
        ]

    part["keyframes"] = {"layer_opacity": way(0.0, 100.0)}
    for setting, far in (("move_x", across), ("move_y", down), ("spin", angle)):
        if far:
            part["keyframes"][setting] = way(far, 0.0)
    return part


def said_aloud(track: Document, recording: Analysis, lamp: str) -> Document:
    """The harbour notice as large type that swells as it is said, each word as far as it is loud."""
    document = audiogram(track, recording, lamp)
    (voice,) = document["signals"]
    said = next(layer for layer in document["layers"] if layer["name"] == "What is said")
    words = said | {"frames": {}}
    words["settings"] = said["settings"] | {
        "size": 15.0,
        "weight": 640.0,
        "family": "fraunces",
        "y": 43.0,
        "box_width": 86.0,
        "rows": 4,
        "loud_words": 46,
        "highlight": "sweep",
        "highlight_colour": "#ffc46b",
        "plain": "#b9a2c4",
        "leading": 104.0,
    }
    ground = new_layer(
        "backdrop",
        "Dusk",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=even_ramp("#1f1430", "#2b1a3e", "#120d1e"),
    )
    trace = new_layer(
        "trace",
        "Voice",
        form="strip",
        y=87.0,
        width=86.0,
        height=12.0,
        span_s=7.0,
        tail_s=7.0,
        fade=95.0,
        thin=60.0,
        line=0.7,
        head=1.8,
        colours=even_ramp("#ffe0b0", "#ff7a66", "#7a5cff"),
    )
    glow = new_effect("glow", level=10.0, radius=2.0, gain=110.0)
    trace["effects"] = [glow]
    trace["patches"] = [new_patch("level", voice, 0.0, 100.0), new_patch(place_of(glow, "gain"), voice, 40.0, 200.0)]
    return document | {
        "name": "Said aloud",
        "layers": [
            ground,
            trace,
            words,
            finishing(("vignette", {"amount": 46.0, "size": 48.0, "softness": 95.0}), ("grain", {"amount": 5.0})),
        ],
    }
