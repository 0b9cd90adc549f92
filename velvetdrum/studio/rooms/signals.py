"""Signals: their curves for the page, fitting, suggestions, beats, and tables out and in."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, jsonify

from velvetdrum.audio.analysis import Analysis, SoundFacts
from velvetdrum.audio.sound_marks import point_of
from velvetdrum.deliver.marker_lists import MOST_BYTES as MOST_LIST
from velvetdrum.looks.role_signals import SIGNAL_ROLES
from velvetdrum.signals.grid import tapped
from velvetdrum.signals.midi_files import MOST_BYTES as MOST_MIDI
from velvetdrum.studio.http.fields import ListOf, ObjectOf, OneOf, Real, Text, Whole
from velvetdrum.studio.http.requests import (
    DRAFT,
    MOST_EDIT,
    MOST_TABLE,
    drafted,
    file_bytes,
    project_or_404,
    queries,
    services,
    takes,
    takes_file,
)
from velvetdrum.studio.rooms.start import file_name
from velvetdrum.studio.workers import mix_tasks, signal_tasks, tasks
from velvetdrum.studio.workers.keyframes import simplified_keyframes

blueprint = Blueprint("signals", __name__)

_MOST_COLUMNS = 4096
_IDENTS = ListOf(Text(64), 0, 64, "Ids of signals; all without it", default=None)
_SECOND = Real(-1e5, 1e5, "s")
_SPAN = ObjectOf({"from_s": _SECOND, "to_s": _SECOND, "columns": Whole(1, _MOST_COLUMNS)})


@blueprint.post("/projects/<ident>/curves")
@takes(
    MOST_EDIT,
    signals=_IDENTS,
    start=Whole(0, 1 << 31, "First frame", default=0),
    count=Whole(1, _MOST_COLUMNS, "Frames", default=None),
    spans=ListOf(_SPAN, 1, 4, "Stretches", default=None),
    detail=Text(64, "Id of the signal that is judged too", default=None),
    **DRAFT,
)
def curves(ident: str, given: dict[str, Any]) -> Any:
    """Curves as `signal_tasks.read_curves` gives them; `draft` is a JSON Patch that is looked at but not kept."""
    named = drafted(ident, given)
    wanted: dict[str, Any] = {"signals": given["signals"]}
    if given["count"] is not None:
        wanted |= {"start": given["start"], "count": given["count"]}
    elif given["spans"] is not None:
        wanted |= {"spans": [_span(span) for span in given["spans"]], "detail": given["detail"]}
    else:
        abort(400, "Ask for one to four spans, or for a count of frames.")
    here = services()
    return jsonify(here.quickly(signal_tasks.read_curves, named, here.sources(named.document), wanted))


@blueprint.post("/projects/<ident>/layers/<layer>/keyframes")
@takes(
    MOST_EDIT,
    setting=Text(200, "Address of the setting"),
    tolerance=Real(1e-4, 0.5, "of the setting's range", default=0.01),
    **DRAFT,
)
def keyframes(ident: str, layer: str, given: dict[str, Any]) -> Any:
    """What moves a number of a layer, as few keyframes; nothing is changed."""
    named = drafted(ident, given)
    placed = named.project.by_id.get(layer)
    setting = placed.setting_at(given["setting"]) if placed else None
    if setting is None or not setting.numeric or not setting.moves:
        abort(404, "This layer has no number of that name that moves.")
    here = services()
    sources = here.sources(named.document)
    asked = layer, given["setting"], given["tolerance"]
    return jsonify(keyframes=here.quickly(simplified_keyframes, named, sources, *asked))


@blueprint.post("/projects/<ident>/signals/<signal>/gain-points")
@takes(
    MOST_EDIT,
    low_db=Real(-60, 24, "dB", default=-20.0),
    high_db=Real(-60, 24, "dB", default=0.0),
    **DRAFT,
)
def signal_gain(ident: str, signal: str, given: dict[str, Any]) -> Any:
    """What a signal makes of the gain of a track, as few points; nothing is changed."""
    named, here = drafted(ident, given), services()
    if not any(one.id == signal for one in named.project.signals):
        abort(404, "This project has no such signal.")
    task = named, here.sources(named.document), signal, given["low_db"], given["high_db"]
    return jsonify(points=here.quickly(mix_tasks.gain_points, *task))


@blueprint.post("/projects/<ident>/fit-all")
@takes()
def fit_all(ident: str, given: dict[str, Any]) -> Any:
    """The patch that fits all that reads levels, layers and signals, to the used part; nothing is changed."""
    named, here = drafted(ident), services()
    return jsonify(patch=here.quickly(signal_tasks.fit_all, named, here.sources(named.document)))


@blueprint.post("/projects/<ident>/fit-signals")
@takes(
    MOST_EDIT,
    signals=_IDENTS,
    from_s=Real(-1e5, 1e5, "s", default=None),
    to_s=Real(-1e5, 1e5, "s", default=None),
    **DRAFT,
)
def fit_signals(ident: str, given: dict[str, Any]) -> Any:
    """Quiet and loud level by signal, from the whole project or from a stretch of it."""
    named = drafted(ident, given)
    here = services()
    sources = here.sources(named.document)
    if sources is None or not sources.analysis:
        abort(409, "There is no sound to read the range from yet.")
    length = named.project.length_s
    start, stop = given["from_s"] or 0.0, length if given["to_s"] is None else given["to_s"]
    if stop <= start:
        abort(400, "to_s must lie after from_s.")
    return jsonify(here.quickly(signal_tasks.fit_signals, named, sources, given["signals"], start, stop))


@blueprint.post("/projects/<ident>/role-signals")
@takes(role=OneOf(*SIGNAL_ROLES, about="What it follows"))
def signal_in_role(ident: str, given: dict[str, Any]) -> Any:
    """A signal that follows the kick, the voice, each beat, in a project's sound. Nothing is changed."""
    named, here = drafted(ident), services()
    sources = here.sources(named.document)
    return jsonify(signal=here.quickly(signal_tasks.signal_in_role, named, sources, given["role"]))


@blueprint.get("/projects/<ident>/suggestions")
def suggestions(ident: str) -> Any:
    """Pickups to offer for a project's sound."""
    named, here = drafted(ident), services()
    return jsonify(here.quickly(signal_tasks.suggest_signals, named, here.sources(named.document)))


@blueprint.post("/projects/<ident>/beats")
@takes(MOST_EDIT, **DRAFT)
def beats(ident: str, given: dict[str, Any]) -> Any:
    """The beat grid of a project: tempo, confidence, and the beats as seconds and whether they begin a bar."""
    named, here = drafted(ident, given), services()
    track = named.project.track
    sources = here.sources(named.document)
    folder = here.sums.folder_of(named.document, named.project.beats.listens) if track else None
    recording = Analysis(folder) if folder else None
    measured = recording.facts if recording else None
    grid = here.quickly(signal_tasks.read_beats, named, sources)
    return jsonify(
        measured_bpm=measured.tempo_bpm if measured else None,
        confidence=measured.tempo_confidence if measured else 0.0,
        readings=_readings(measured) if measured else [],
        **grid,
    )


@blueprint.post("/projects/<ident>/taps")
@takes(taps_s=ListOf(Real(-1e5, 1e5, "s"), 0, 1000, "Seconds of the recording"))
def taps(ident: str, given: dict[str, Any]) -> Any:
    """Beat settings from the seconds of the recording at which somebody tapped along."""
    project_or_404(ident)
    try:
        return jsonify(tapped(given["taps_s"]))
    except ValueError as problem:
        abort(422, str(problem))


@blueprint.post("/projects/<ident>/points")
@takes_file("A CSV table", MOST_TABLE)
def points(ident: str) -> Any:
    """Points of a drawn curve from a CSV table in the request's body."""
    project_or_404(ident)
    return jsonify(points=services().read(tasks.read_points, file_bytes(MOST_TABLE, "table")))


@blueprint.post("/projects/<ident>/markers")
@takes_file("A list of markers", MOST_LIST)
def marker_list(ident: str) -> Any:
    """Entries of the CSV table or OpenTimelineIO file in the request's body: time, end, kind and text; nothing is
    changed."""
    project_or_404(ident)
    return jsonify(entries=services().read(tasks.read_markers, file_bytes(MOST_LIST, "list")))


@blueprint.get("/projects/<ident>/recording-marks")
def recording_marks(ident: str) -> Any:
    """Markers that the project's first recording brings in itself, in seconds of the project: cue points, chapters,
    and its in and out points where marks are called so."""
    named, here = services().named(project_or_404(ident)), services()
    sound = named.project.sound
    path = here.original(sound.tracks[0].media) if sound else None
    if sound is None or path is None:
        abort(409, "There is no sound in this project yet.")
    track = sound.tracks[0]
    marks = here.read(tasks.recording_marks, str(path))
    placed = [(time - track.in_s + track.at_s - sound.in_s, text) for time, text in marks]
    entries = [
        {"time_s": round(time, 4), "end_s": None, "kind": point_of(text) or "marker", "text": text}
        for time, text in placed
        if time >= 0
    ]
    return jsonify(entries=entries)


@blueprint.get("/projects/<ident>/markers.<any(csv, otio):form>")
def markers_download(ident: str, form: str) -> Response:
    """Markers, chapters and cues as a CSV table or an OpenTimelineIO timeline."""
    row = project_or_404(ident)
    text = services().quickly(tasks.markers_file, services().named(row), form)
    answer = Response(text, mimetype="text/csv" if form == "csv" else "application/json")
    answer.headers.set("Content-Disposition", "attachment", filename=f"{file_name(f'{row.name} markers')}.{form}")
    return answer


@blueprint.post("/projects/<ident>/notes")
@takes_file("A MIDI file", MOST_MIDI)
def notes(ident: str) -> Any:
    """Notes of the Standard MIDI File in the request's body: rows of begin and length in seconds, pitch, velocity and
    channel, with its tempo; nothing is changed."""
    project_or_404(ident)
    return jsonify(services().read(tasks.read_notes, file_bytes(MOST_MIDI, "MIDI file")))


@blueprint.get("/projects/<ident>/signals.<any(csv, json):form>")
@queries(signal=Text(64, "Id of a signal; all without it", default=None))
def download(ident: str, form: str, query: dict[str, Any]) -> Response:
    """Curves at the project's frame rate: of one signal with `?signal=ID`, or of all."""
    row = project_or_404(ident)
    known = {item["id"]: item["name"] for item in row.document["signals"]}
    chosen = query["signal"]
    if not known or (chosen is not None and chosen not in known):
        abort(404, "There is no such signal in this project.")
    here = services()
    idents = [chosen] if chosen else []
    text = here.quickly(signal_tasks.signals_file, here.named(row), here.sources(row.document), idents, form)
    answer = Response(text, mimetype="text/csv" if form == "csv" else "application/json")
    name = file_name(f"{row.name} {known[chosen]}" if chosen else f"{row.name} signals")
    answer.headers.set("Content-Disposition", "attachment", filename=f"{name}.{form}")
    return answer


def _readings(facts: SoundFacts) -> list[dict[str, Any]]:
    """The tempos to choose from, the likeliest first."""
    if facts.tempo_bpm is None:
        return []
    listed = [{"tempo_bpm": facts.tempo_bpm, "confidence": facts.tempo_confidence}, *facts.other_tempos]
    return [
        {"reading": str(number), "tempo_bpm": item["tempo_bpm"], "confidence": item["confidence"]}
        for number, item in enumerate(listed, 1)
    ]


def _span(given: dict[str, Any]) -> tuple[float, float, int]:
    if given["to_s"] <= given["from_s"]:
        abort(400, "to_s must lie after from_s.")
    return given["from_s"], given["to_s"], given["columns"]
