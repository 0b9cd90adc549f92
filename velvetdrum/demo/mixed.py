"""Projects of several tracks: a notice over a bed that goes down under it, and a song as four stems."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.finished import finishing
from velvetdrum.demo.worded import audiogram
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.scene.designs import even_ramp
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.audio_range import AudioRange

_TAIL_S = 3.0
_STEM_COLOURS = {"Drums": "#ff7a66", "Bass": "#e0ac55", "Keys": "#5fc4b4", "Lead": "#a99bff"}

_STEM_ROLES = {"Drums": "drums", "Bass": "bass", "Keys": "keys", "Lead": ""}


def bulletin(voice: Document, said: Analysis, bed: Document, lamp: str) -> Document:
    """The harbour notice over a calm bed: the bed goes down before each sentence and comes back after the last one."""
    document = audiogram(voice, said, lamp)
    end = voice["out_s"] + _TAIL_S
    even = {"role": "voice", "high_pass_hz": 80.0, "level": 70.0, "gate": 30.0}
    under = {
        "role": "bed",
        "gain_db": 3.0,
        "ducked": True,
        "depth_db": 11.0,
        "hold_ms": 700.0,
        "release_ms": 1200.0,
        "fade_in_s": 0.4,
        "fade_out_s": 2.5,
    }
    length = min(bed["out_s"], end)
    document["tracks"] = [
        voice | {"name": "Host voice", "colour": "#e0ac55", "settings": even},
        bed | {"name": "Evening bed", "colour": "#5fc4b4", "settings": under, "out_s": length, "at_s": 0.0},
    ]
    document["used"] = {"in_s": 0.0, "out_s": end}
    for signal in document["signals"]:
        signal["settings"]["listens"] = voice["id"]
    for layer in document["layers"]:
        if "listens" in layer["settings"]:
            layer["settings"]["listens"] = voice["id"]
    tide = new_layer(
        "spectrum",
        "Bed, low at the foot",
        style="line-area",
        base="line",
        y=99.0,
        width=112.0,
        reach=7.0,
        grow="out",
        bands=48,
        paint="one",
        plain="#5fc4b4",
        opacity=55.0,
        fill=60.0,
        line=0.3,
        quiet_db=-70.0,
        loud_db=-38.0,
        release_ms=500.0,
        listens=bed["id"],
    )
    document["layers"] = [document["layers"][0], tide, *document["layers"][1:]]
    return document | {"name": "Bulletin"}


def four_stems(stems: Mapping[str, tuple[Document, Analysis]]) -> Document:
    """The song as four stems, and a figure for each that follows its own alone."""
    tracks = [
        track | {"name": name, "colour": _STEM_COLOURS[name], "settings": {"role": _STEM_ROLES[name]}}
        for name, (track, _) in stems.items()
    ]
    idents = {track["name"]: track["id"] for track in tracks}
    uses = {name: AudioRange(recording, track["in_s"], track["out_s"]) for name, (track, recording) in stems.items()}
    pulse = new_signal(
        "pickup",
        "Drums, hits",
        colour=_STEM_COLOURS["Drums"],
        low_hz=40.0,
        high_hz=200.0,
        detector="hits",
        quiet_db=-24.0,
        loud_db=-10.0,
        release_ms=220.0,
        listens=idents["Drums"],
    )
    ground = new_layer(
        "backdrop",
        "Night",
        start_x=50.0,
        start_y=46.0,
        end_x=120.0,
        end_y=46.0,
        fill="radial",
        colours=even_ramp("#35243f", "#1d1428", "#0d0913"),
    )
    keys = fitted_layer(
        "spectrum",
        "Keys",
        {
            "style": "line-area",
            "base": "line",
            "y": 97.0,
            "width": 116.0,
            "reach": 30.0,
            "grow": "out",
            "mirror": True,
            "mirror_from": "middle",
            "bands": 40,
            "low_hz": 170.0,
            "high_hz": 5000.0,
            "smooth": 2.0,
            "line": 0.5,
            "fill": 42.0,
            "paint": "one",
            "plain": _STEM_COLOURS["Keys"],
            "release_ms": 420.0,
            "listens": idents["Keys"],
        },
        uses["Keys"],
    )
    drums = fitted_layer(
        "spectrum",
        "Drums",
        {
            "style": "bars",
            "base": "ring",
            "y": 48.0,
            "radius": 24.0,
            "reach": 11.0,
            "grow": "out",
            "mirror": True,
            "bands": 44,
            "gap": 44.0,
            "paint": "level",
            "colours": even_ramp("#a8423f", "#ff7a66", "#ffd3a8"),
            "release_ms": 150.0,
            "listens": idents["Drums"],
        },
        uses["Drums"],
    )
    bass = fitted_layer(
        "scope",
        "Bass",
        {
            "base": "ring",
            "y": 48.0,
            "radius": 18.0,
            "reach": 6.0,
            "grow": "both",
            "line": 1.1,
            "paint": "one",
            "plain": _STEM_COLOURS["Bass"],
            "listens": idents["Bass"],
        },
        uses["Bass"],
    )
    lead = fitted_layer(
        "scope",
        "Lead",
        {
            "base": "line",
            "y": 48.0,
            "width": 26.0,
            "reach": 13.0,
            "grow": "both",
            "line": 0.7,
            "paint": "one",
            "plain": _STEM_COLOURS["Lead"],
            "listens": idents["Lead"],
        },
        uses["Lead"],
    )
    heart = new_layer("shape", "Heart", form="ellipse", y=48.0, width=30.0, height=30.0, plain="#ff7a66", opacity=10.0)
    heart["patches"] = [new_patch(side, pulse, 30.0, 35.0) for side in ("width", "height")]
    title = new_layer(
        "text",
        "Title",
        text="Paper Lighthouse\nas four stems",
        family="archivo",
        weight=640.0,
        size=5.2,
        y=7.5,
        leading=112.0,
        plain="#f4eadb",
    )
    finish = finishing(("vignette", {"amount": 36.0, "size": 56.0, "softness": 95.0}), ("grain", {"amount": 4.0}))
    document = new_document(
        "Four stems",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[ground, keys, heart, drums, bass, lead, title, finish],
        signals=[pulse],
    )
    return document | {"tracks": tracks, "used": {"in_s": 0.0, "out_s": tracks[0]["out_s"]}}
