"""What workers do with looks: filled with a project's sound, drawn as they move, kept from a project."""

from __future__ import annotations

import struct
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

import jsonpatch

import velvetdrum.looks.shelf  # noqa: F401  (makes the looks that ship known)
from velvetdrum.audio.analysis import Analysis
from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.looks.kept_look import kept_look
from velvetdrum.looks.open_places import Filling, filled
from velvetdrum.looks.project_colours import found_colours, recoloured, scheme_of
from velvetdrum.looks.shelf_look import LOOKS
from velvetdrum.picture.figures.paint.palettes import palette_of
from velvetdrum.picture.frame.moments import moments_of
from velvetdrum.picture.frame.render import ProjectView, encode_still
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.scene.document import Document, new_document, new_layer, new_track, parse
from velvetdrum.scene.frames import FRAMES, FrameSize
from velvetdrum.signals.audio_range import AudioRange

_QUALITY = 82
_COLOURS = 6
"""That are looked for in a picture."""


@cache
def shipped() -> dict[str, Document]:
    """The documents of the looks that ship, by their ids; not to be written to."""
    return {ident: look.document for ident, look in LOOKS.items()}


def fill_look(
    look: Document, filling: dict[str, Any], track: Document, sources: Sources, shape: str | None
) -> Document:
    """A look's document with a track and what goes into its places, in a frame of a shape."""
    use = AudioRange(Analysis(Path(sources.analysis)), track["in_s"], track["out_s"])
    values = {"cues" if name == "words" else name: value for name, value in filling.items()}
    return filled(look, Filling(**values), track, use, FRAMES[shape] if shape else None)


def opening_track(folder: str, key: str, name: str) -> Document:
    """The track of a recording's first seconds, by the folder of their analysis."""
    return new_track(key, name, Analysis(Path(folder)).facts.duration_s)


def begins_s(loudest_s: float) -> float:
    """Where the pictures of looks begin, in seconds, so that the loudest moment comes soon."""
    return max(loudest_s - 1.0, 0.0)


def draw_look(
    look: Document,
    filling: dict[str, Any],
    track: Document,
    sources: Sources,
    shape: str | None,
    width: int,
    rate: int,
    first: int,
    count: int,
) -> bytes:
    """Pictures of a look, so many a second, from a second before the loudest moment of a track on, packed as
    `tasks.draw_frames` does."""
    document = fill_look(look, filling, track, sources, shape)
    project = parse(document)
    loudest = next(mark["frame"] for mark in moments_of(document, sources.analysis) if mark["name"] == "loudest")
    begin = begins_s(float(loudest / project.rate))
    size = project.frame.scaled_to(width if project.frame.shape != "tall" else width * 9 // 16)
    view, canvas, out = (
        ProjectView(project, used_part(project, sources), sources.small),
        Canvas(size.width, size.height),
        [],
    )
    for number in range(first, first + count):
        frame = min(round((begin + number / rate) * float(project.rate)), project.frame_count - 1)
        view.at(project.time_of(frame), size).draw_frame(canvas)
        data = encode_still(canvas.pixels, "jpeg", _QUALITY)
        out.append(struct.pack("<II", frame, len(data)) + data)
    return b"".join(out)


def picture_colours(path: str, key: str, names: list[str]) -> dict[str, str]:
    """Project colours out of a picture, by the names that are wanted."""
    layer = new_layer("picture", image=key, width=100.0, height=100.0)
    size = FrameSize(256, 256)
    project = parse(new_document("Colours", frame=size, rate=Fraction(30), layers=[layer]) | {"length_s": 1.0})
    canvas = Canvas(size.width, size.height)
    ProjectView(project, None, {key: path}).at(Fraction(0), size).draw_frame(canvas, "transparent")
    return scheme_of([colour for _, colour in palette_of(canvas.pixels, _COLOURS)], names)


def recolour(document: Document, colours: dict[str, str]) -> list[dict[str, Any]]:
    """The patch (RFC 6902) that changes project colours, with all that is near them; of a project without any, the
    patch that finds them."""
    own = document.get("colours") or {}
    if not own:
        return [{"op": "add", "path": "/colours", "value": found_colours(document)}]
    patch: list[dict[str, Any]] = jsonpatch.make_patch(document, recoloured(document, colours)).patch
    return patch


def swapped(document: Document, look: Document) -> Document:
    """A project with a filled look in place of its design: its track, cues, markers and name stay, and so do the tags
    that the look was not given."""
    kept = {name: document[name] for name in ("name", "tracks", "length_s", "markers", "beats")}
    kept |= {name: document[name] for name in ("used", "notes") if name in document}
    tags = document.get("tags", {}) | look["tags"]
    cues = look["cue_tracks"] or document.get("cue_tracks", {})
    return look | kept | {"tags": tags, "cue_tracks": cues}


def held_places(document: Document) -> dict[str, str]:
    """What a project that came from a look has in its places for pictures and clips: content hashes by the places'
    kinds."""
    section = parse(document).look
    layers = {layer["id"]: layer["settings"] for layer in document["layers"]}
    result = {}
    for place in section.places if section else ():
        keys = [layers[ident].get(setting, "") for ident, setting in place.fills.items() if setting and ident in layers]
        if any(keys):
            result[place.kind] = next(filter(None, keys))
    return result


def keep_look(
    document: Document,
    sources: Sources | None,
    name: str,
    about: str,
    chosen: list[str] | None,
    uses: list[str],
    tags: list[str],
) -> Document:
    """A project's design, or chosen layers of it, as a look."""
    use = used_part(parse(document), sources)
    result = kept_look(document, use, name, about, set(chosen) if chosen else None, uses, tags)
    parse(result)
    return result
