"""Sound in: uploads, their progress, and what the strip and the player read of a recording."""

from __future__ import annotations

from typing import Any

import numpy as np
from flask import Blueprint, Response, abort, current_app, jsonify, request

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.decode import RATE
from velvetdrum.deliver.bundle import is_bundle
from velvetdrum.deliver.export import used_part
from velvetdrum.deliver.sound_mix import mixed, voices
from velvetdrum.limits.archive import looks_like_archive
from velvetdrum.scene.document import parse
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.signals import views
from velvetdrum.store.media import TooLarge
from velvetdrum.studio.http.fields import OneOf, Real, Text, Values, Whole
from velvetdrum.studio.http.requests import (
    SECONDS,
    UPLOAD_LIMIT,
    chunks,
    import_or_404,
    is_key,
    project_or_404,
    queries,
    services,
    takes,
    takes_file,
    uploaded_name,
)
from velvetdrum.studio.workers import mix_tasks, tasks

blueprint = Blueprint("sound", __name__)

_LONGEST_PIECE = 48_000 * 30
_LATEST = 48_000 * 3 * 3600
_PIECE = {"start": Whole(0, _LATEST, "First sample"), "count": Whole(1, _LONGEST_PIECE, "Samples, up to 30 seconds")}
_CHANNEL = OneOf("mix", "left", "right", "mid", "side", about="The part of the stereo sound", default="mix")


@blueprint.post("/sounds")
@queries(
    project=Text(64, "Id of the project whose sound it replaces", default=None),
    track=OneOf("", "beside", about="beside: it is added to that project's tracks", default=""),
)
@takes_file("A sound or a project file", UPLOAD_LIMIT)
def upload(query: dict[str, Any]) -> Any:
    """Take a sound or project file as the request's body; its name comes percent-coded in X-File-Name.

    With `?project=ID` the sound replaces that project's; with `&track=beside` it is added to its tracks.
    """
    limit = current_app.config["UPLOAD_LIMIT"]
    if request.content_length is not None and request.content_length > limit:
        raise TooLarge(f"The file is larger than {limit / 1e9:.1f} GB, which is the most that is taken.")
    here = services()
    name, project = uploaded_name("sound"), query["project"]
    if project:
        project_or_404(project)
    received, part = here.folder.receive(chunks(), name, limit)
    purpose: dict[str, Any] = {"project": project} if project else {}
    if project and query["track"]:
        purpose["track"] = True
    if looks_like_archive(part) and here.read(is_bundle, part):
        purpose = {"project_file": True}
    return jsonify(here.imports.begin(received, part, purpose)), 202


@blueprint.get("/imports/<ident>")
def import_state(ident: str) -> Any:
    """How far an import is, and what became of it."""
    row = import_or_404(ident)
    share = 1.0 if row.state == "done" else services().imports.share(ident)
    return jsonify(
        state=row.state,
        share=share,
        error=row.sentence,
        project=row.project_id,
        name=row.media.name,
        key=row.media.key,
        opening=bool(services().imports.opening(row)),
    )


@blueprint.get("/imports/<ident>/wave")
def import_wave(ident: str) -> Response:
    """The waveform as far as it has been read: 400 columns of lowest, highest and RMS, as `wave` gives them."""
    row = import_or_404(ident)
    answer = _binary(np.rint(services().imports.wave(row.media.key, 400) * 32767).astype("<i2"))
    answer.headers["Cache-Control"] = "no-store"
    return answer


@blueprint.post("/imports/<ident>/cancel")
@takes()
def cancel_import(ident: str, given: dict[str, Any]) -> Any:
    """Stop an import; one that has ended stays as it is."""
    if import_or_404(ident).state == "running":
        services().imports.cancel(ident)
    return jsonify(cancelled=ident)


@blueprint.get("/sounds/<key>")
def facts(key: str) -> Any:
    """What is known of a recording."""
    recording = _recording(key)
    return jsonify(vars(recording.facts) | {"samples": recording.samples, "heard": recording.pcm.shape[1]})


@blueprint.get("/sounds/<key>/wave")
@queries(**SECONDS, columns=Whole(1, 8192, "Columns"))
def wave(key: str, query: dict[str, Any]) -> Response:
    """Columns of the waveform between two seconds: lowest, highest and RMS as 16-bit little-endian values."""
    start, stop = _stretch(query)
    table = _recording(key).overview(start, stop, query["columns"])
    return _binary(np.rint(table * 32767).astype("<i2"))


@blueprint.get("/sounds/<key>/pcm")
@queries(**_PIECE)
def pcm(key: str, query: dict[str, Any]) -> Response:
    """Samples at 48 kHz as interleaved 16-bit little-endian values."""
    start, count = query["start"], query["count"]
    return _binary(np.asarray(_recording(key).pcm[start : start + count]).astype("<i2"))


@blueprint.get("/projects/<ident>/pcm")
@queries(
    **_PIECE,
    sum=OneOf(
        "kept", "now", "recorded", about="now: mixed just now; recorded: so, with voices as recorded", default="kept"
    ),
)
def mixed_pcm(ident: str, query: dict[str, Any]) -> Response:
    """As `pcm`, of a project's sound with the clips mixed in that are heard, always in stereo."""
    start, count = query["start"], query["count"]
    document = project_or_404(ident).document
    project, sources = parse(document), services().sources(document)
    if project.track is None or sources is None:
        abort(409, "There is no sound in this project yet.")
    use = used_part(project, sources)
    if query["sum"] != "kept" and sources.mix:
        plain = services().quickly(mix_tasks.mixed_now, sources, start, count, query["sum"] == "recorded")
        own: Any = np.frombuffer(plain, np.float32).reshape(-1, 2)
    else:
        own = np.asarray(_recording(project.track.media).pcm[start : start + count], np.float32) / 32767
    both = np.zeros((2, count), np.float32)
    both[:, : len(own)] = own.T if own.shape[1] == 2 else np.repeat(own.T, 2, axis=0)
    first = start - round(project.track.in_s * RATE)
    both += mixed(project, use, voices(project, use, sources.clips), first, count)
    answer = _binary(np.rint(np.clip(both, -1, 1) * 32767).astype("<i2").T)
    answer.headers["Cache-Control"] = "no-store"
    return answer


@blueprint.get("/projects/<ident>/sum")
def sum_state(ident: str) -> Any:
    """Under which key all that sounds in a project is heard, whether it is here, and how far it is; what is missing is
    made in the background."""
    document = project_or_404(ident).document
    return jsonify(vars(services().sums.state(document)))


@blueprint.get("/projects/<ident>/track-gains")
@queries(**SECONDS, columns=Whole(2, 2000, "Readings"))
def track_gains(ident: str, query: dict[str, Any]) -> Any:
    """What keyframes and voices make of the gain of each track that has such, in dB, between two seconds of the
    timeline."""
    named, (start, stop) = services().named(project_or_404(ident)), _stretch(query)
    analyses = services().sums.analyses(named.document)
    gains = services().quickly(mix_tasks.track_gains, named, analyses, start, stop, query["columns"])
    return jsonify(gains=gains)


@blueprint.get("/projects/<ident>/levels")
@queries(start=Whole(0, 1 << 31, "First reading"), count=Whole(1, 600, "Readings"))
def levels(ident: str, query: dict[str, Any]) -> Any:
    """Levels of the tracks and of their sum at readings of the timeline, 60 a second: dBFS, LUFS, correlation."""
    named, here = services().named(project_or_404(ident)), services()
    task = (named, here.sources(named.document), here.sums.analyses(named.document), query["start"], query["count"])
    return jsonify(here.quickly(mix_tasks.read_levels, *task))


@blueprint.get("/projects/<ident>/loudness")
@queries(count=Whole(2, 2000, "Values"))
def loudness(ident: str, query: dict[str, Any]) -> Any:
    """Short-term loudness from the begin of the used part to its end, in LUFS."""
    named, here = services().named(project_or_404(ident)), services()
    task = (named, here.sources(named.document), query["count"])
    return jsonify(lufs=here.quickly(mix_tasks.read_loudness, *task))


@blueprint.get("/sounds/<key>/spectrum")
@queries(**SECONDS, channel=_CHANNEL)
def spectrum(key: str, query: dict[str, Any]) -> Any:
    """Average and loudest level between two seconds, on the axis of the drawn spectrum."""
    task = (str(_recording(key).folder), query["channel"], *_stretch(query))
    average, loudest = services().quickly(tasks.read_spectrum, *task)
    return jsonify(hz=views.axis_hz(), average=average, loudest=loudest)


@blueprint.get("/sounds/<key>/spectra")
@queries(start=Whole(0, 1 << 31, "First reading"), count=Whole(1, 600, "Readings"), channel=_CHANNEL)
def spectra(key: str, query: dict[str, Any]) -> Response:
    """Levels on that axis at readings, 60 a second, as 16-bit little-endian hundredths of dBFS."""
    start, stop = query["start"], query["start"] + query["count"]
    return _binary(views.spectra(_recording(key), query["channel"], start, stop).astype("<i2"))


@blueprint.get("/sounds/<key>/spectrogram")
@queries(
    **SECONDS,
    channel=_CHANNEL,
    width=Whole(1, 2048, "Pixels across"),
    height=Whole(1, 1024, "Pixels down"),
    floor=Real(-140, -20, "dBFS", "The level that is dark", default=-84.0),
)
def spectrogram(key: str, query: dict[str, Any]) -> Response:
    """The sound between two seconds as a PNG: time across, frequency up."""
    recording, (start, stop) = _recording(key), _stretch(query)
    size = (query["width"], query["height"])
    data = services().quickly(
        tasks.draw_spectrogram, str(recording.folder), query["channel"], start, stop, *size, query["floor"]
    )
    answer = Response(data, mimetype="image/png")
    answer.headers["Cache-Control"] = "private, max-age=3600, immutable"
    return answer


@blueprint.post("/projects/<ident>/fit")
@takes(
    kind=OneOf(*LAYER_KINDS, about="Kind of the layer"),
    settings=Values(dict, "The layer's settings", default={}),
)
def fit(ident: str, given: dict[str, Any]) -> Any:
    """Levels or gain that suit a figure's settings and the used part of the sound, by the setting's name."""
    row = project_or_404(ident)
    track = parse(row.document).track
    recording = services().recording(track.media) if track else None
    if track is None or recording is None:
        abort(409, "There is no sound to read the range from yet.")
    task = (str(recording.folder), track.in_s, track.out_s, given["kind"], given["settings"])
    return jsonify(services().quickly(tasks.fit_layer, *task))


def _recording(key: str) -> Analysis:
    result = services().recording(key) if is_key(key) else None
    if result is None:
        abort(404, "There is no such recording here.")
    return result


def _stretch(query: dict[str, Any]) -> tuple[float, float]:
    if query["to"] <= query["from"]:
        abort(400, "to must lie after from.")
    return query["from"], query["to"]


def _binary(table: np.ndarray) -> Response:
    answer = Response(table.tobytes(), mimetype="application/octet-stream")
    # A recording's content never changes under its key.
    answer.headers["Cache-Control"] = "private, max-age=3600, immutable"
    return answer
