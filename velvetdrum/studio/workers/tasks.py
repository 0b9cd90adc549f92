"""What worker processes do for the studio. Arguments and results are plain values."""

from __future__ import annotations

import logging
import math
import struct
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any

import numpy as np
from av.stream import Disposition

from velvetdrum.audio.analysis import Analysis, is_current
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.audio.errors import SoundError
from velvetdrum.audio.sound_marks import sound_marks
from velvetdrum.declare.settings import Stop
from velvetdrum.deliver.bundle import read_bundle
from velvetdrum.deliver.export import Sources, used_part
from velvetdrum.deliver.marker_lists import csv_of, entries_of, otio_of, read_list
from velvetdrum.limits.door import Bounds
from velvetdrum.limits.process import MEMORY_BYTES, limited_time
from velvetdrum.looks.drivers import Drivers
from velvetdrum.looks.effect_choices import effect_choices
from velvetdrum.looks.presets import choice_layers, fitted_settings, pictured_layers
from velvetdrum.looks.refit import out_of_time, refitted
from velvetdrum.picture.bases.layer import takes_behind
from velvetdrum.picture.figures.paint.palettes import palette_of
from velvetdrum.picture.frame.costs import costs_of
from velvetdrum.picture.frame.handles import handles, layer_notes, misfits
from velvetdrum.picture.frame.readings import reading_of
from velvetdrum.picture.frame.render import ProjectView, encode_still, render, watching
from velvetdrum.picture.frame.spectrogram import spectrogram
from velvetdrum.picture.media import pictures as images
from velvetdrum.picture.media.clips.clip import opened, traits_of
from velvetdrum.picture.media.clips.index import ClipError, open_clip
from velvetdrum.picture.media.clips.preparation import PROXY, prepare_clip
from velvetdrum.picture.media.cube_files import parse_cube
from velvetdrum.picture.media.picture_decoder import decoded
from velvetdrum.picture.media.svg.outline_file import svg_path_data
from velvetdrum.picture.raster.canvas import Canvas
from velvetdrum.picture.typesetting.specimens import shipped, specimen
from velvetdrum.picture.typesetting.typeface_files import check_typeface
from velvetdrum.scene.document import Document, new_layer, parse
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals import views
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.midi_files import read_midi
from velvetdrum.signals.tables import TableError, points_from_csv
from velvetdrum.studio.workers.damage import CLIP, SOUND, damage_as
from velvetdrum.studio.workers.notes import teller
from velvetdrum.studio.workers.scenes import Scene, document_of, project_of


def sound_bounds(path: str) -> Bounds:
    """Two minutes, and what an analysis of that many bytes can need at the most."""
    return _bounds(path, 120, 10)


def clip_bounds(path: str) -> Bounds:
    """The same for a clip."""
    return _bounds(path, 600, 60)


def bundle_bounds(path: str) -> Bounds:
    """The same for a project file."""
    return _bounds(path, 60, 2)


def _bounds(path: str, seconds: float, more: float) -> Bounds:
    """So many seconds, and more for each megabyte."""
    return Bounds(seconds + more * Path(path).stat().st_size / 1e6, MEMORY_BYTES)


_OPENING_S = 12.0


def analyse_sound(source: str, folder: str, key: str, notes: str, opening: str = "") -> dict[str, Any]:
    """Analyse a recording and give its facts; its first seconds before, into the folder `opening` if one is given.

    Progress goes to the file `notes` as a share from 0 to 1; the work stops when `notes` + ".cancel" appears.
    """
    path, target = Path(source), Path(folder)
    if is_current(target):
        return asdict(Analysis(target).facts)
    with damage_as(SoundError, SOUND):
        if opening:
            # What is wrong with it, the whole analysis says.
            with suppress(SoundError):
                analyse(path, Path(opening), key=key, most_s=_OPENING_S)
        return asdict(analyse(path, target, key=key, progress=teller(notes)).facts)


def film_facts(path: str) -> dict[str, Any] | None:
    """Size in pixels, frames per second and length in seconds of a file's moving pictures; None where it has none. A
    cover that lies in a sound file does not move."""
    try:
        with open_clip(Path(path)) as container:
            stream = container.streams.video[0]
            rate, length = stream.average_rate, container.duration
            if stream.disposition & Disposition.attached_pic or not rate or not length:
                return None
            lies = traits_of(path).turn % 180 == 90
            return {
                "width": stream.height if lies else stream.width,
                "height": stream.width if lies else stream.height,
                "rate": float(rate),
                "length_s": length / 1e6,
                "heard": bool(container.streams.audio),
            }
    except ClipError:
        return None


def prepare_footage(source: str, folder: str, notes: str) -> dict[str, Any]:
    """Make the proxy, the times and the sound of a clip and give its facts; progress and stopping as in
    `analyse_sound`. Raises ClipError."""
    path = Path(source)
    with damage_as(ClipError, CLIP):
        return asdict(prepare_clip(path, Path(folder), teller(notes)))


PREVIEW_S = 20.0
"""Seconds of processor time that a preview may take."""


def timed(seconds: float, task: Callable[..., Any], /, *values: Any) -> Any:
    """Run a task under a time limit. Raises OverTime."""
    with limited_time(seconds):
        return task(*values)


def watched(notes: str, task: Callable[..., Any], /, *values: Any) -> Any:
    """Run a drawing task under a time limit, noting the id of the layer that is drawn in a file: should this process
    end, that is what ended it."""
    told = Path(notes)

    def note(layer: str) -> None:
        told.write_text(layer)

    with watching(note):
        return timed(PREVIEW_S, task, *values)


def prepare_picture(path: str, levels: str) -> dict[str, Any]:
    """Check a picture, write its levels into a folder, and give its facts. Raises PictureError."""
    return asdict(images.prepare_picture(Path(path), Path(levels)))


def unpack_bundle(path: str, folder: str) -> tuple[Document, dict[str, str]]:
    """Read a project file as `read_bundle` does, with paths as text."""
    document, files = read_bundle(Path(path), Path(folder))
    return document, {key: str(file) for key, file in files.items()}


def read_paths(data: bytes) -> str:
    """The shapes of an SVG file as path data. Raises PathError."""
    return svg_path_data(data)


def read_points(data: bytes) -> list[dict[str, Any]]:
    """Points of a drawn curve from a CSV table. Raises TableError."""
    try:
        return points_from_csv(data.decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise TableError("The file is not a text table. Save it as CSV in UTF-8.") from None


def read_notes(data: bytes) -> dict[str, Any]:
    """The notes of a Standard MIDI File, and what is to be said of it. Raises MidiError."""
    read = read_midi(data)
    return {
        "rows": read.rows,
        "tempo_bpm": read.tempo_bpm,
        "bar": read.bar,
        "map": read.map,
        "note": " ".join(read.notes),
    }


def read_markers(data: bytes) -> list[dict[str, Any]]:
    """The entries of a list of markers. Raises ListError."""
    return [asdict(entry) for entry in read_list(data)]


def recording_marks(path: str) -> list[tuple[float, str]]:
    """The marks that a recording brings in itself. Raises SoundError."""
    with damage_as(SoundError, SOUND):
        return sound_marks(Path(path))


def markers_file(scene: Scene, form: str) -> str:
    """Markers, chapters and cues of a project as a CSV table or an OpenTimelineIO timeline."""
    project = project_of(scene)
    entries = entries_of(project)
    return csv_of(entries) if form == "csv" else otio_of(entries, project)


def draw_frames(scene: Scene, sources: Sources | None, frames: list[int], width: int, form: str) -> bytes:
    """Draw frames at a width and pack them: for each, its number and its size as 32-bit little-endian words,
    then the picture."""
    project = project_of(scene)
    size = project.frame.scaled_to(min(width, project.frame.width))
    view = ProjectView(project, used_part(project, sources), sources.small if sources else None)
    canvas = Canvas(size.width, size.height)
    out = []
    for number in frames:
        view.at(project.time_of(number), size).draw_frame(canvas)
        data = encode_still(canvas.pixels, form)
        out.append(struct.pack("<II", number, len(data)) + data)
    return b"".join(out)


def draw_choices(
    scene: Scene, sources: Sources | None, frame: int, width: int, first: int, count: int
) -> tuple[list[Document], bytes]:
    """A run of the figures that there are to choose, as they would look over the backdrops of a project, at a frame:
    the layers, and the pictures packed as by `draw_frames`."""
    document, whole = document_of(scene), project_of(scene)
    use, media = used_part(whole, sources), sources.small if sources else None
    # What they stand on is drawn without the group and the masks that it has in the project.
    ground = [
        {**new_layer(layer["kind"]), "settings": layer["settings"], "id": layer["id"]}
        for layer in document["layers"]
        if LAYER_KINDS[layer["kind"]].depth == 0 and layer["visible"]
    ]
    listed, out = [], []
    drivers = Drivers(list(document["signals"]), use, whole.length_s)
    for number, (choice, layer) in enumerate(choice_layers(use, first, count)):
        fresh = drivers.drive(layer, choice.design.follows)
        below = [] if LAYER_KINDS[choice.kind].depth == 0 else ground
        if takes_behind(choice.kind):
            # It works on all that is there; on a backdrop alone little of it would be seen.
            below = document["layers"]
        drawn = pictured_layers(layer, choice.design)
        project = parse({**document, "layers": [*below, *drawn], "signals": [*document["signals"], *fresh]})
        size = project.frame.scaled_to(min(width, project.frame.width))
        data = encode_still(render(project, use, project.time_of(frame), size, media=media), "jpeg")
        listed.append({"name": choice.design.name, "layer": layer, "signals": fresh})
        out.append(struct.pack("<II", number, len(data)) + data)
    return listed, b"".join(out)


def small_picture(path: str, longest: int) -> bytes:
    """A stored picture or clip, small, as a JPEG; what is clear stands on grey."""
    if path.endswith(PROXY):
        clip = opened(path)
        pixels = clip.pixels(clip.frames // 2)
    else:
        pixels = images.small(path, longest)
    ground = np.array([134, 122, 138], np.uint16)
    shown = pixels[..., :3] + (255 - pixels[..., 3:].astype(np.uint16)) * ground // 255
    return encode_still(np.minimum(shown, 255).astype(np.uint8), "jpeg")


def find_handles(scene: Scene, sources: Sources | None, frame: int, width: int, height: int) -> dict[str, Any]:
    """The handles of all layers at a frame, in a picture of a size, and what falls outside of it."""
    project = project_of(scene)
    size = project.frame.__class__(width, height)
    use, media = used_part(project, sources), sources.small if sources else None
    result = handles(project, use, project.time_of(frame), size, media)
    notes = layer_notes(project, use, project.time_of(frame), media)
    return {"handles": [asdict(handle) for handle in result], "misfits": misfits(project, result, size), "notes": notes}


def read_typeface(data: bytes) -> dict[str, Any]:
    """What a typeface file says of itself, and its name in its own letters. Raises TypefaceError."""
    facts = check_typeface(data)
    with NamedTemporaryFile(suffix=facts.suffix) as file:
        file.write(data)
        file.flush()
        return asdict(facts) | {"specimen": typeface_specimen(file.name, facts.family)}


def shipped_typefaces() -> list[dict[str, Any]]:
    """The families that ship, each with its name in its own letters."""
    return shipped()


def typeface_specimen(path: str, text: str) -> tuple[str, float]:
    """A line in the letters of a typeface as path data, and its width; nothing for one that can't be laid out."""
    try:
        return specimen(text, path)
    except Exception:  # whatever a table's reader stumbles over
        logging.getLogger(__name__).warning("no specimen of a typeface", exc_info=True)
        return "", 0.0


def read_table(data: bytes) -> dict[str, Any]:
    """What a look-up table says of itself. Raises CubeError."""
    result = parse_cube(data)
    return {"suffix": ".cube", "title": result.title, "points": result.size, "dimensions": result.points.ndim - 1}


def draw_effect_choices(
    scene: Scene, sources: Sources | None, layer: str, frame: int, width: int, first: int, count: int
) -> tuple[list[Document], bytes]:
    """The project at a frame with each of a run of effects on one of its layers, after those that it has: the effects,
    and the pictures packed as by `draw_frames`."""
    document = document_of(scene)
    use, media = used_part(project_of(scene), sources), sources.small if sources else None
    listed, out = [], []
    for number, choice in enumerate(effect_choices()[first : first + count]):
        effect = choice.effect
        layers = [
            {**item, "effects": [*item.get("effects", []), effect]} if item["id"] == layer else item
            for item in document["layers"]
        ]
        project = parse({**document, "layers": layers})
        size = project.frame.scaled_to(min(width, project.frame.width))
        data = encode_still(render(project, use, project.time_of(frame), size, media=media), "jpeg")
        listed.append({"name": choice.design.name, "effect": effect})
        out.append(struct.pack("<II", number, len(data)) + data)
    return listed, b"".join(out)


def read_frame(scene: Scene, sources: Sources | None, frame: int, width: int) -> dict[str, Any]:
    """What a frame shows as instruments tell it, see `Reading`, and what its layers and effects cost in ms."""
    project = project_of(scene)
    size = project.frame.scaled_to(min(width, project.frame.width))
    view = ProjectView(project, used_part(project, sources), sources.small if sources else None)
    canvas = Canvas(size.width, size.height)
    stage = view.at(project.time_of(min(frame, project.frame_count - 1)), size)
    costs = costs_of(stage, canvas)
    result = reading_of(canvas.pixels)
    return {
        "waveform": [row.tobytes().hex() for row in result.waveform],
        "histogram": result.histogram.round(4).tolist(),
        "black": round(result.black, 4),
        "white": round(result.white, 4),
        "costs": costs,
        "width": size.width,
    }


def picture_palette(data: bytes, count: int) -> tuple[Stop, ...]:
    """The colours of a picture."""
    facts = images.check_picture(data)
    if facts.suffix == images.SVG:
        raise images.PictureError("An SVG picture has no pixels of its own. Bring a PNG, JPEG, WebP or GIF.")
    # Halved as often as leaves it large enough for its colours.
    halved = max(int(math.log2(max(facts.width, facts.height) / 256)), 0)
    return palette_of(decoded(data, halved), count)


def frame_palette(scene: Scene, sources: Sources | None, frame: int, count: int) -> tuple[Stop, ...]:
    """The colours of a frame of a project."""
    project = project_of(scene)
    size = project.frame.scaled_to(min(320, project.frame.width))
    media = sources.small if sources else None
    return palette_of(render(project, used_part(project, sources), project.time_of(frame), size, media=media), count)


def refit(document: Document, before: str, after: str, track: Document) -> tuple[Document, list[str]]:
    """A project's document with another track, fitted to its sound, and what no longer lies within it, as sentences;
    `before` and `after` are the folders of both analyses."""
    track_before = parse(document).track
    assert track_before is not None
    was = AudioRange(Analysis(Path(before)), track_before.in_s, track_before.out_s)
    now = AudioRange(Analysis(Path(after)), track["in_s"], track["out_s"])
    return refitted(document, was, now) | {"tracks": [track]}, out_of_time(document, now.out_s - now.in_s)


def draw_spectrogram(
    folder: str, channel: str, start_s: float, stop_s: float, width: int, height: int, floor_db: float
) -> bytes:
    """A spectrogram as a PNG."""
    return encode_still(spectrogram(Analysis(Path(folder)), channel, start_s, stop_s, width, height, floor_db), "png")


def read_spectrum(folder: str, channel: str, start_s: float, stop_s: float) -> tuple[list[float], list[float]]:
    """Average and loudest level of a stretch of a recording, on the axis of the drawn spectrum."""
    return views.spectrum_range(Analysis(Path(folder)), channel, start_s, stop_s)


def fit_layer(folder: str, in_s: float, out_s: float, kind: str, settings: dict[str, Any]) -> dict[str, Any]:
    """Settings that suit a layer of a kind to the used part of a recording."""
    return fitted_settings(kind, settings, AudioRange(Analysis(Path(folder)), in_s, out_s))
