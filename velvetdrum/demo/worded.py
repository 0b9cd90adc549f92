"""The projects that show words: a lyric version of the song, and an audiogram of the spoken notice whose captions were
aligned by the application itself."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from velvetdrum.audio.analysis import Analysis
from velvetdrum.demo.designs import song_signals
from velvetdrum.demo.finished import finishing
from velvetdrum.looks.presets import fitted_layer
from velvetdrum.scene.cue_tracks import stored_cue
from velvetdrum.scene.designs import even_ramp
from velvetdrum.scene.document import Document, new_document, new_layer, new_patch
from velvetdrum.scene.frames import FRAMES
from velvetdrum.scene.masks import new_mask
from velvetdrum.scene.signal_part import COLOURS, new_signal
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.pickup_fit import fit_pickup
from velvetdrum.signals.sources.pickup import Pickup
from velvetdrum.words.alignment.aligner import align
from velvetdrum.words.cue_groups import CueShape, Token, cues_of
from velvetdrum.words.cues import Cue, Word

NOTICE_TEXT = """Good evening, Lantern Quay.
This is the harbour office. The night ferry leaves at ten past nine, from the east pier.
Fog is expected after midnight. Small boats, please keep your lamps lit.
And to whoever left a paper lighthouse on the breakwater: it is still burning."""

LYRIC = (
    "fold the letter into light",
    "set it burning on the stone",
    "every boat that lost the night",
    "reads the harbour home",
    "paper walls and paper stair",
    "quiet water, slow and wide",
    "somebody is always there",
    "waiting on the tide",
    "paper lighthouse, burn for me",
)
_FIRST_BEAT, _LINE_BEATS = 8, 8
OFFICE = "Harbour office"


def lyric_version(track: Document, recording: Analysis, water: str) -> Document:
    """Lines that fill with light as they are sung, over dark water; wide and tall. `water` is a clip's content hash."""
    kick, lead, _, beat = song_signals(track, recording)
    night = new_layer(
        "backdrop",
        "Night",
        fill="linear",
        start_x=50.0,
        start_y=0.0,
        end_x=50.0,
        end_y=100.0,
        colours=even_ramp("#241a3c", "#131126", "#06070f"),
    )
    sea = new_layer(
        "footage",
        "Dark water",
        clip=water,
        brightness=42.0,
        saturation=120.0,
        zoom=118.0,
        speed=50.0,
        from_at="start",
        fade_in_s=1.5,
        fade_out_s=2.0,
        layer_opacity=78.0,
    )
    glow = new_layer(
        "shape",
        "Glow",
        form="ellipse",
        x=50.0,
        y=46.0,
        width=150.0,
        height=90.0,
        paint="field",
        field="radial",
        field_x=50.0,
        field_y=46.0,
        field_size=70.0,
        colours=even_ramp("#a4486e", "#4a2350", "#000000"),
        blend="screen",
        layer_opacity=34.0,
    )
    glow["masks"] = [new_mask("shape", form="ellipse", x=50.0, y=46.0, width=96.0, height=52.0, feather=44.0)]
    glow["patches"] = [new_patch("layer_opacity", kick, 0.0, 42.0, "add")]
    bars = fitted_layer(
        "spectrum",
        "Horizon",
        {
            "bands": 96,
            "x": 50.0,
            "y": 88.0,
            "width": 100.0,
            "reach": 16.0,
            "gap": 46.0,
            "corner": 100.0,
            "mirror": True,
            "paint": "along",
            "back": True,
            "colours": even_ramp("#ff7a66", "#f0b866", "#5fc4b4"),
            "opacity": 62.0,
            "release_ms": 260.0,
            "from_at": "sound",
            "fade_in_s": 1.0,
        },
        AudioRange(recording, track["in_s"], track["out_s"]),
    )
    bars["frames"] = {"tall": {"y": 74.0}}
    title = new_layer(
        "text",
        "Title",
        text="Paper Lighthouse\n{artist}",
        size=10.0,
        leading=104.0,
        y=46.0,
        enter="blur",
        leave="fade",
        each_s=0.9,
        stagger_s=0.05,
        distance=50.0,
        to_at="time",
        to_s=3.9,
        shadow=60.0,
        box_width=84.0,
    )
    title["frames"] = {"tall": {"size": 9.0, "y": 40.0}}
    lyric = new_layer(
        "lyrics",
        "Lyric",
        style="pair",
        highlight="sweep",
        highlight_colour="#ffc46b",
        size=10.5,
        weight=640.0,
        y=45.0,
        box_width=80.0,
        enter="rise",
        leave="fade",
        parts="word",
        each_s=0.4,
        stagger_s=0.06,
        distance=40.0,
        from_at="time",
        from_s=3.9,
        shadow=70.0,
        shadow_soft=40.0,
        shadow_y=4.0,
        fainter=46.0,
    )
    lyric["patches"] = [new_patch("weight", lead, 0.0, 120.0, "add")]
    lyric["frames"] = {
        "tall": {"size": 13.0, "y": 34.0, "box_width": 78.0, "rows": 3},
        "square": {"size": 10.0, "y": 38.0},
    }
    way = new_layer(
        "progress",
        "Way through the song",
        y=97.0,
        width=92.0,
        stroke=0.5,
        plain="#f0b866",
        ground_opacity=16.0,
        over="sound",
        head=True,
        head_size=3.4,
    )
    way["patches"] = [new_patch("head_size", beat, 0.0, 1.6, "add")]
    way["frames"] = {"tall": {"y": 77.5, "width": 78.0}, "square": {"y": 84.0}, "wide": {"y": 95.0}}
    document = new_document(
        "Paper Lighthouse, the lyric",
        frame=FRAMES["wide"],
        rate=Fraction(30),
        layers=[night, sea, glow, bars, title, lyric, way, finishing(("vignette", {"amount": 45.0, "size": 45.0}))],
        track=track,
        signals=[kick, lead, beat],
    )
    document["tags"] = {"title": "Paper Lighthouse", "artist": "The Breakwater Choir"}
    document["cue_tracks"] = {"lyric": _track("Lyric", _sung(recording))}
    return document


def audiogram(track: Document, recording: Analysis, lamp: str) -> Document:
    """The notice for social channels: who speaks, what is said, how far it is. `lamp` is the logo's content hash."""
    use = AudioRange(recording, track["in_s"], track["out_s"])
    ground = new_layer(
        "backdrop",
        "Dusk",
        start_x=50.0,
        start_y=36.0,
        end_x=112.0,
        end_y=36.0,
        colours=even_ramp("#4a2d55", "#2a1c3a", "#140f1f"),
    )
    ring = fitted_layer(
        "whole-track",
        "The whole notice",
        {
            "base": "ring",
            "grow": "both",
            "radius": 23.0,
            "reach": 11.0,
            "x": 50.0,
            "y": 38.5,
            "bars": 140,
            "gap": 42.0,
            "style": "bars",
            "shows": "peak",
            "paint": "one",
            "plain": "#f0b866",
            "rest": "#f4eadb",
            "rest_opacity": 26.0,
        },
        use,
    )
    reads = {"low_hz": 140.0, "high_hz": 3400.0, "attack_ms": 15.0, "release_ms": 260.0}
    quiet, loud = fit_pickup(Pickup(reads), use, use.out_s - use.in_s, 0.0, use.out_s - use.in_s)
    voice = new_signal("pickup", "Voice", colour=COLOURS[1], **reads | {"quiet_db": quiet, "loud_db": loud})
    logo = new_layer("logo", "Lamp", image=lamp, x=50.0, y=38.5, size=31.0, clear=0.0, pulse_by=5.0)
    logo["patches"] = [new_patch("pulse", voice, 0.0, 100.0)]
    speaker = new_layer(
        "text",
        "Who speaks",
        text="{speaker}",
        family="work-sans",
        weight=700.0,
        size=4.6,
        case="upper",
        tracking=80.0,
        align="left",
        x=50.0,
        y=7.0,
        box_width=86.0,
        plain="#e9d3bd",
    )
    remaining = new_layer(
        "text",
        "Remaining time",
        text="\u2212{remaining m:ss}",
        family="work-sans",
        weight=700.0,
        size=4.6,
        align="right",
        x=50.0,
        y=7.0,
        box_width=86.0,
        plain="#e9d3bd",
    )
    said = new_layer(
        "lyrics",
        "What is said",
        highlight="word",
        highlight_colour="#ffc46b",
        size=8.2,
        weight=620.0,
        y=76.0,
        box_width=84.0,
        rows=2,
        leading=116.0,
        enter="fade",
        parts="all",
        each_s=0.14,
        hold=True,
    )
    bar = new_layer("progress", "Progress", y=90.0, width=84.0, stroke=1.0, plain="#f0b866", ground_opacity=20.0)
    for layer, tall in ((speaker, 15.5), (remaining, 15.5), (bar, 74.5)):
        layer["frames"] = {"tall": {"y": tall, "box_width": 80.0} if layer is not bar else {"y": tall, "width": 78.0}}
    for layer in (ring, logo):
        layer["frames"] = {"tall": {"y": 37.0}}
    said["frames"] = {
        "tall": {"size": 9.5, "y": 62.0, "box_width": 78.0, "rows": 3},
        "wide": {"size": 8.0, "y": 76.0, "box_width": 72.0},
    }
    document = new_document(
        "Evening notice",
        frame=FRAMES["square"],
        rate=Fraction(30),
        layers=[ground, ring, logo, speaker, remaining, said, bar],
        track=track,
        signals=[voice],
    )
    document["tags"] = {"title": "Evening notice", "speaker": OFFICE}
    result = align(recording.pcm, NOTICE_TEXT, start_s=track["in_s"], end_s=track["out_s"])
    tokens = [Token(item.token, item.word, item.line) for item in result.tokens]
    document["cue_tracks"] = {"notice": _track("Captions", cues_of(tokens, CueShape(chars=30), speaker=OFFICE))}
    return document


def _track(name: str, cues: list[Cue]) -> Document:
    return {
        "name": name,
        "language": "en",
        "cues": {f"cue-{number}": stored_cue(cue) for number, cue in enumerate(cues, 1)},
    }


def _sung(recording: Analysis) -> list[Cue]:
    """The lyric's lines, each over two bars of the song, its words on half beats of the first six."""
    beats = np.array(recording.facts.beats_s)
    if len(beats) < 2:
        return []

    def at(beat: float) -> float:
        return float(np.interp(beat, np.arange(len(beats)), beats))

    out = []
    for number, line in enumerate(LYRIC):
        words, first = line.split(), _FIRST_BEAT + number * _LINE_BEATS
        places = [first + round(index * 6 / len(words) * 2) / 2 for index in range(len(words))] + [first + 6.5]
        if places[-1] >= len(beats):
            break
        timed = tuple(
            Word(round(at(low), 3), round(at(high), 3), word)
            for word, low, high in zip(words, places, places[1:], strict=False)
        )
        out.append(Cue(timed[0].start_s, round(at(first + 7.6), 3), line, "", timed))
    return out
