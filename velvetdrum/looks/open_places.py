"""A look with a sound in it, and with what its open places ask for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import velvetdrum.picture.layers  # noqa: F401  (makes the layer kinds known)
from velvetdrum.looks.project_colours import recoloured
from velvetdrum.looks.refit import within_bounds
from velvetdrum.scene.cue_tracks import LONGEST_TAG
from velvetdrum.scene.document import Document, new_layer, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.look_section import LookSection, Place
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import unstuck
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.signals.suggest import heard_as

_SECONDS_A_BAR = 2.0
"""Where a sound has no beats."""


@dataclass(frozen=True)
class Filling:
    """What goes into the open places of a look; empty for what stays open."""

    title: str = ""
    artist: str = ""
    speaker: str = ""
    cover: str = ""
    """Content hash of a logo or cover."""
    film: str = ""
    """Content hash of a clip, or of a photo."""
    photo: bool = False
    """True where the film is a photo."""
    cues: Mapping[str, Document] = field(default_factory=dict)
    """Cues in stored form, by their ids."""
    language: str = "en"
    colours: Mapping[str, str] = field(default_factory=dict)
    """Project colours by name, as #rrggbb."""


def filled(
    look: Document, filling: Filling, track: Document, use: AudioRange, frame: FrameSize | None = None
) -> Document:
    """A project from a look: its signals find their roles in the sound, all that reads levels is fitted to it, and its
    places are filled; what stays open disappears.

    Parameters
    ----------
    look
        The document of a look.
    filling
        What goes into its places.
    track
        The track, in stored form.
    use
        Its used stretch.
    frame
        Another size of the frame; None for the look's own.
    """
    section = parse(look).look or LookSection("", ("song",), "lively", "", {}, ())
    length = use.out_s - use.in_s
    document = look | {"tracks": [track], "length_s": None, "name": _name(look, filling)}
    if frame is not None:
        document["frame"] = {"width": frame.width, "height": frame.height}
    document["signals"] = [
        _heard(signal, section.roles.get(signal["id"], ""), section.distances.get(signal["id"], {}), use, length)
        for signal in look["signals"]
    ]
    document["layers"] = [_fitted(layer, section.distances.get(layer["id"], {}), use) for layer in look["layers"]]
    said = {name: getattr(filling, name).strip()[:LONGEST_TAG] for name in ("title", "artist", "speaker")}
    document["tags"] = look.get("tags", {}) | {name: text for name, text in said.items() if text}
    for place in section.places:
        document["layers"] = _placed(document["layers"], place, filling, track["media"])
    rows = (
        {"words": {"name": "Words", "language": filling.language, "cues": dict(filling.cues)}} if filling.cues else {}
    )
    return recoloured(document | {"cue_tracks": rows}, filling.colours)


def heard_signal(signal: Document, role: str, use: AudioRange) -> Document:
    """What of a signal's settings a sound decides: the band of its role and its levels, or its levels alone.

    Parameters
    ----------
    signal
        A signal that follows a band.
    role
        Its role; empty for one that keeps its band.
    use
        The used stretch of a recording.
    """
    cls, length = SIGNAL_KINDS[signal["kind"]], use.out_s - use.in_s
    settings = cls.defaults() | signal["settings"]
    if role:
        return heard_as(role, use, length, settings)
    return cls(settings).fitted(use, length, 0.0, length)


def fitted_layer_settings(layer: Document, use: AudioRange) -> Document:
    """What of a layer's settings a sound decides, so that nothing of it sticks.

    Parameters
    ----------
    layer
        A layer.
    use
        The used stretch of a recording.
    """
    cls = LAYER_KINDS[layer["kind"]]
    fitted = cls.fitted(layer["settings"], use)
    if not fitted:
        return fitted
    reads = getattr(cls(layer["settings"] | within_bounds(cls, fitted)), "reads", None)
    return fitted if reads is None else fitted | {"loud_db": unstuck(use, reads).loud_db}


def fitted_to(document: Document, use: AudioRange) -> Document:
    """A project with all that reads levels fitted to a stretch of its sound, whatever it was set to.

    Parameters
    ----------
    document
        A project's document.
    use
        The used stretch of its recording.
    """
    signals = [
        _heard(signal, "", {}, use, use.out_s - use.in_s) if SIGNAL_KINDS[signal["kind"]].follows_band else signal
        for signal in document["signals"]
    ]
    return document | {"signals": signals, "layers": [_fitted(layer, {}, use) for layer in document["layers"]]}


def in_its_role(signal: Document, role: str, use: AudioRange) -> Document:
    """A signal that follows its role in a sound.

    Parameters
    ----------
    signal
        A signal.
    role
        Its role; empty for one that keeps its band.
    use
        The used stretch of a recording.
    """
    return _heard(signal, role, {}, use, use.out_s - use.in_s)


def _name(look: Document, filling: Filling) -> str:
    return (filling.title.strip() or look["name"])[:200]


def _heard(signal: Document, role: str, distance: Mapping[str, float], use: AudioRange, length_s: float) -> Document:
    """A signal that follows its role in a sound; what keeps beats, in a sound that has none, runs by itself."""
    cls = SIGNAL_KINDS[signal["kind"]]
    settings = cls.defaults() | signal["settings"]
    if cls.keeps_beats and use.recording.facts.tempo_bpm is None:
        return _without_beats(signal, settings, use, length_s)
    if cls.follows_band:
        heard = heard_signal(signal, role, use)
        heard |= {name: heard[name] + by for name, by in distance.items() if name in heard}
        text = {name: value for name, value in heard.items() if isinstance(value, str)}
        settings |= text | within_bounds(cls, {name: value for name, value in heard.items() if name not in text})
    return signal | {"settings": settings}


def _without_beats(signal: Document, settings: dict[str, Any], use: AudioRange, length_s: float) -> Document:
    if settings["unit"] == "bars" or settings["shape"] == "saw":
        turns = settings["every"] * (1.0 if settings["unit"] == "bars" else 0.25)
        free = new_signal("lfo", signal["name"], shape=settings["shape"], rate_hz=1.0 / (turns * _SECONDS_A_BAR))
    else:
        free = new_signal("pickup", signal["name"], attack_ms=5.0, release_ms=settings["decay_ms"])
        free = _heard(free, "kick", {}, use, length_s)
    return free | {"id": signal["id"], "colour": signal["colour"]}


def _fitted(layer: Document, distance: Mapping[str, float], use: AudioRange) -> Document:
    cls = LAYER_KINDS[layer["kind"]]
    fitted = fitted_layer_settings(layer, use)
    if not fitted:
        return layer
    moved = fitted | {name: fitted[name] + by for name, by in distance.items() if name in fitted}
    return layer | {"settings": layer["settings"] | within_bounds(cls, moved)}


def _placed(layers: list[Document], place: Place, filling: Filling, heard: str) -> list[Document]:
    """Layers with a place filled: what shows it where there is something to show, what stands for it where not. The
    film of the sound that is heard runs with it."""
    value = {"cover": filling.cover, "film": filling.film, "words": "words" if filling.cues else ""}.get(
        place.kind, getattr(filling, place.kind, "")
    )
    result = []
    for layer in layers:
        setting = place.fills.get(layer["id"])
        if (setting is not None and not value) or (value and layer["id"] in place.instead):
            continue
        if setting:
            layer = _with_media(layer, setting, value, filling.photo and place.kind == "film")
            if value == heard:
                layer = with_its_sound(layer)
        result.append(layer)
    left = {layer["id"] for layer in result}
    # What read a layer that is gone reads nothing any more.
    return [_without(layer, left) for layer in result]


def with_its_sound(layer: Document) -> Document:
    """A layer that keeps its place to the recording, if it is of a kind that can.

    Parameters
    ----------
    layer
        A layer that shows the film of the recording.
    """
    linked = LAYER_KINDS[layer["kind"]].linked
    if linked is None:
        return layer
    choice, value, place = linked
    return layer | {"settings": layer["settings"] | {choice: value, place: 0.0}}


def _with_media(layer: Document, setting: str, value: str, photo: bool) -> Document:
    if not photo:
        return layer | {"settings": layer["settings"] | {setting: value}}
    # A photo in place of a clip: a picture layer of the same place, with what both have.
    picture = new_layer("picture", layer["name"], image=value)
    shared = picture["settings"].keys() & layer["settings"].keys() - {"image"}
    settings = picture["settings"] | {name: layer["settings"][name] for name in shared}
    known = set(settings)
    return layer | {
        "kind": "picture",
        "settings": settings,
        "patches": [patch for patch in layer["patches"] if patch["setting"] in known or ":" in patch["setting"]],
        "keyframes": {name: keys for name, keys in layer["keyframes"].items() if name in known},
    }


def _without(layer: Document, left: set[str]) -> Document:
    names = [name for name, setting in LAYER_KINDS[layer["kind"]].settings.items() if setting.names_layer]
    gone = {name: "" for name in names if layer["settings"].get(name) and layer["settings"][name] not in left}
    changed = layer | {"settings": layer["settings"] | gone} if gone else layer
    masks = [mask for mask in layer.get("masks", []) if mask["settings"].get("source", "") in left | {""}]
    return changed | {"masks": masks} if len(masks) < len(layer.get("masks", [])) else changed
