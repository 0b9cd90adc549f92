"""Signals: their curves for the page, fitting, suggestions, beats, and tables out and in."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, jsonify, request

from velvetdrum.kinds.settings import is_number
from velvetdrum.scene.document import parse
from velvetdrum.scene.edits import apply
from velvetdrum.scene.problems import Document
from velvetdrum.signals.grid import BeatGrid, tapped
from velvetdrum.signals.tables import TableError, points_from_csv
from velvetdrum.signals.use import Use
from velvetdrum.studio import tasks
from velvetdrum.studio.asking import body, project_or_404, services, whole
from velvetdrum.studio.start import file_name

blueprint = Blueprint("signals", __name__)

_MOST_COLUMNS = 4096
_MOST_TABLE = 20_000_000


@blueprint.post("/projects/<ident>/curves")
def curves(ident: str) -> Any:
    """Curves as `tasks.read_curves` gives them; `draft` is a JSON Patch that is looked at but not kept."""
    given = body()
    document = _drafted(ident, given)
    wanted: dict[str, Any] = {"signals": _texts(given.get("signals"))}
    if "count" in given:
        wanted |= {"start": whole(given, "start", 0, 1 << 31), "count": whole(given, "count", 1, _MOST_COLUMNS)}
    else:
        spans = given.get("spans")
        if not isinstance(spans, list) or not 1 <= len(spans) <= 4 or not all(isinstance(span, dict) for span in spans):
            abort(400, "Ask for one to four spans, or for a count of frames.")
        wanted["spans"] = [_span(span) for span in spans]
        wanted["detail"] = given.get("detail")
    here = services()
    return jsonify(here.quickly(tasks.read_curves, document, here.sources(document), wanted))


@blueprint.post("/projects/<ident>/fit-signals")
def fit_signals(ident: str) -> Any:
    """Quiet and loud level by signal, from the whole project or from a stretch of it."""
    given = body()
    document = _drafted(ident, given)
    here = services()
    sources = here.sources(document)
    if sources is None or not sources.analysis:
        abort(409, "There is no sound to read the range from yet.")
    length = parse(document).length_s
    start = _seconds(given, "from_s") if "from_s" in given else 0.0
    stop = _seconds(given, "to_s") if "to_s" in given else length
    return jsonify(here.quickly(tasks.fit_signals, document, sources, _texts(given.get("signals")), start, stop))


@blueprint.get("/projects/<ident>/suggestions")
def suggestions(ident: str) -> Any:
    document = project_or_404(ident).document
    here = services()
    return jsonify(here.quickly(tasks.suggest_signals, document, here.sources(document)))


@blueprint.post("/projects/<ident>/beats")
def beats(ident: str) -> Any:
    """The beat grid of a project: tempo, confidence, and the beats as seconds and whether they begin a bar."""
    document = _drafted(ident, body())
    project = parse(document)
    recording = services().recording(project.track.media) if project.track else None
    use = Use(recording, project.track.in_s, project.track.out_s) if project.track and recording else None
    grid = BeatGrid.of(project.beats, use)
    measured = recording.facts if recording else None
    return jsonify(
        tempo_bpm=round(grid.tempo_bpm, 2) if grid else None,
        measured_bpm=measured.tempo_bpm if measured else None,
        confidence=measured.tempo_confidence if measured else 0.0,
        beats=[[round(time, 4), first] for time, first in grid.between(0.0, project.length_s)] if grid else [],
    )


@blueprint.post("/projects/<ident>/taps")
def taps(ident: str) -> Any:
    """Beat settings from the seconds of the recording at which somebody tapped along."""
    project_or_404(ident)
    given = body().get("taps_s")
    if not isinstance(given, list) or len(given) > 1000 or not all(is_number(time) for time in given):
        abort(400, "Taps are a list of seconds.")
    try:
        return jsonify(tapped([float(time) for time in given]))
    except ValueError as problem:
        abort(422, str(problem))


@blueprint.post("/projects/<ident>/points")
def points(ident: str) -> Any:
    """Points of a drawn curve from a CSV table in the request's body."""
    project_or_404(ident)
    if (request.content_length or 0) > _MOST_TABLE:
        raise TableError("The table is larger than 20 MB. Use a lower rate.")
    try:
        text = request.get_data().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise TableError("The file is not a text table. Save it as CSV in UTF-8.") from None
    return jsonify(points=points_from_csv(text))


@blueprint.get("/projects/<ident>/signals.<any(csv, json):form>")
def download(ident: str, form: str) -> Response:
    """Curves at the project's frame rate: of one signal with `?signal=ID`, or of all."""
    row = project_or_404(ident)
    known = {item["id"]: item["name"] for item in row.document["signals"]}
    chosen = request.args.get("signal")
    if not known or (chosen is not None and chosen not in known):
        abort(404, "There is no such signal in this project.")
    here = services()
    idents = [chosen] if chosen else []
    text = here.quickly(tasks.signals_file, row.document, here.sources(row.document), idents, form)
    answer = Response(text, mimetype="text/csv" if form == "csv" else "application/json")
    name = file_name(f"{row.name} {known[chosen]}" if chosen else f"{row.name} signals")
    answer.headers.set("Content-Disposition", "attachment", filename=f"{name}.{form}")
    return answer


def _drafted(ident: str, given: dict[str, Any]) -> Document:
    document = project_or_404(ident).document
    if given.get("draft"):
        document, _ = apply(document, given["draft"])
    return document


def _span(given: dict[str, Any]) -> tuple[float, float, int]:
    start, stop = _seconds(given, "from_s"), _seconds(given, "to_s")
    if stop <= start:
        abort(400, "to_s must lie after from_s.")
    return start, stop, whole(given, "columns", 1, _MOST_COLUMNS)


def _texts(given: Any) -> list[str] | None:
    if given is None:
        return None
    if not isinstance(given, list) or not all(isinstance(item, str) for item in given):
        abort(400, "signals needs a list of ids.")
    return given


def _seconds(given: dict[str, Any], name: str) -> float:
    value = given.get(name)
    if not is_number(value) or not -1e5 < value < 1e5:
        abort(400, f"{name} needs seconds.")
    return float(value)
