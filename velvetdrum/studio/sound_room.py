"""Sound in: uploads, their progress, and what the strip and the player read of a recording."""

from __future__ import annotations

from typing import Any
from urllib.parse import unquote

import numpy as np
from flask import Blueprint, Response, abort, current_app, jsonify, request

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.decode import RATE
from velvetdrum.deliver.bundle import is_bundle
from velvetdrum.deliver.export import used_part
from velvetdrum.deliver.mixing import mixed, voices
from velvetdrum.picture.choices import fitted_settings
from velvetdrum.scene.document import parse
from velvetdrum.signals import views
from velvetdrum.signals.use import Use
from velvetdrum.store import imports
from velvetdrum.store.media import TooLarge
from velvetdrum.studio import tasks
from velvetdrum.studio.asking import body, chunks, project_or_404, services

blueprint = Blueprint("sound", __name__)

_LONGEST_PIECE = 48_000 * 30


@blueprint.post("/sounds")
def upload() -> Any:
    """Take a sound or project file as the request's body; its name comes percent-coded in X-File-Name.

    With `?project=ID` the sound replaces that project's.
    """
    limit = current_app.config["UPLOAD_LIMIT"]
    if request.content_length is not None and request.content_length > limit:
        raise TooLarge(f"The file is larger than {limit / 1e9:.1f} GB, which is the most that is taken.")
    here = services()
    name = unquote(request.headers.get("X-File-Name", "sound"))
    project = request.args.get("project")
    if project:
        project_or_404(project)
    received, part = here.folder.receive(chunks(), name, limit)
    if is_bundle(part):
        try:
            return jsonify(here.open_bundle(part)), 202
        finally:
            part.unlink(missing_ok=True)
    return jsonify(here.begin_import(received, part, {"project": project} if project else {})), 202


@blueprint.get("/imports/<ident>")
def import_state(ident: str) -> Any:
    row = imports.find(services().db, ident)
    if row is None:
        abort(404, "There is no such import.")
    share = 1.0 if row.state == "done" else services().import_share(ident)
    return jsonify(
        state=row.state, share=share, error=row.sentence, project=row.project_id, name=row.media.name, key=row.media.key
    )


@blueprint.get("/imports/<ident>/wave")
def import_wave(ident: str) -> Response:
    """The waveform as far as it has been read: 400 columns of lowest, highest and RMS, as `wave` gives them."""
    row = imports.find(services().db, ident)
    if row is None:
        abort(404, "There is no such import.")
    answer = _binary(np.rint(services().import_wave(row.media.key, 400) * 32767).astype("<i2"))
    answer.headers["Cache-Control"] = "no-store"
    return answer


@blueprint.post("/imports/<ident>/cancel")
def cancel_import(ident: str) -> Any:
    services().cancel_import(ident)
    return jsonify(cancelled=ident)


@blueprint.get("/sounds/<key>")
def facts(key: str) -> Any:
    recording = _recording(key)
    return jsonify(vars(recording.facts) | {"samples": recording.samples, "heard": recording.pcm.shape[1]})


@blueprint.get("/sounds/<key>/wave")
def wave(key: str) -> Response:
    """Columns of the waveform between two seconds: lowest, highest and RMS as 16-bit little-endian values."""
    start, stop = _seconds("from"), _seconds("to")
    columns = request.args.get("columns", 0, type=int)
    if not 1 <= columns <= 8192 or stop <= start:
        abort(400, "Ask for 1 to 8192 columns between two seconds.")
    table = _recording(key).overview(start, stop, columns)
    return _binary(np.rint(table * 32767).astype("<i2"))


@blueprint.get("/sounds/<key>/pcm")
def pcm(key: str) -> Response:
    """Samples at 48 kHz as interleaved 16-bit little-endian values."""
    start, count = request.args.get("start", -1, type=int), request.args.get("count", 0, type=int)
    if start < 0 or not 1 <= count <= _LONGEST_PIECE:
        abort(400, "Ask for up to 30 seconds of samples.")
    return _binary(np.asarray(_recording(key).pcm[start : start + count]).astype("<i2"))


@blueprint.get("/projects/<ident>/pcm")
def mixed_pcm(ident: str) -> Response:
    """As `pcm`, of a project's recording with the clips mixed in that are heard, always in stereo."""
    start, count = request.args.get("start", -1, type=int), request.args.get("count", 0, type=int)
    if start < 0 or not 1 <= count <= _LONGEST_PIECE:
        abort(400, "Ask for up to 30 seconds of samples.")
    document = project_or_404(ident).document
    project, sources = parse(document), services().sources(document)
    if project.track is None or sources is None:
        abort(409, "There is no sound in this project yet.")
    use = used_part(document, sources)
    own = np.asarray(_recording(project.track.media).pcm[start : start + count], np.float32) / 32767
    both = np.zeros((2, count), np.float32)
    both[:, : len(own)] = own.T if own.shape[1] == 2 else np.repeat(own.T, 2, axis=0)
    first = start - round(project.track.in_s * RATE)
    both += mixed(project, use, voices(project, use, sources.clips), first, count)
    answer = _binary(np.rint(np.clip(both, -1, 1) * 32767).astype("<i2").T)
    answer.headers["Cache-Control"] = "no-store"
    return answer


@blueprint.get("/sounds/<key>/spectrum")
def spectrum(key: str) -> Any:
    """Average and loudest level between two seconds, on the axis of the drawn spectrum."""
    average, loudest = views.spectrum_range(_recording(key), _channel(), _seconds("from"), _seconds("to"))
    return jsonify(hz=views.axis_hz(), average=average, loudest=loudest)


@blueprint.get("/sounds/<key>/spectra")
def spectra(key: str) -> Response:
    """Levels on that axis at readings, 60 a second, as 16-bit little-endian hundredths of dBFS."""
    start, count = request.args.get("start", -1, type=int), request.args.get("count", 0, type=int)
    if start < 0 or not 1 <= count <= 600:
        abort(400, "Ask for up to 600 readings.")
    return _binary(views.spectra(_recording(key), _channel(), start, start + count).astype("<i2"))


@blueprint.get("/sounds/<key>/spectrogram")
def spectrogram(key: str) -> Response:
    """The sound between two seconds as a PNG: time across, frequency up."""
    recording, start, stop = _recording(key), _seconds("from"), _seconds("to")
    width, height = request.args.get("width", 0, type=int), request.args.get("height", 0, type=int)
    if not 1 <= width <= 2048 or not 1 <= height <= 1024 or stop <= start:
        abort(400, "Ask for a picture of up to 2048 by 1024 pixels between two seconds.")
    floor = max(min(request.args.get("floor", -84.0, type=float), -20.0), -140.0)
    data = services().quickly(
        tasks.draw_spectrogram, str(recording.folder), _channel(), start, stop, width, height, floor
    )
    answer = Response(data, mimetype="image/png")
    answer.headers["Cache-Control"] = "private, max-age=3600, immutable"
    return answer


def _channel() -> str:
    channel = request.args.get("channel", "mix")
    if channel not in ("mix", "left", "right", "mid", "side"):
        abort(400, "The channel is mix, left, right, mid or side.")
    return channel


@blueprint.post("/projects/<ident>/fit")
def fit(ident: str) -> Any:
    """Levels or gain that suit a figure's settings and the used part of the sound, by the setting's name."""
    row = project_or_404(ident)
    track = parse(row.document).track
    recording = services().recording(track.media) if track else None
    if track is None or recording is None:
        abort(409, "There is no sound to read the range from yet.")
    given = body()
    kind = str(given.get("kind", "spectrum"))
    return jsonify(fitted_settings(kind, given.get("settings") or {}, Use(recording, track.in_s, track.out_s)))


def _recording(key: str) -> Analysis:
    found = services().recording(key) if key.isalnum() and len(key) == 64 else None
    if found is None:
        abort(404, "There is no such recording here.")
    return found


def _seconds(name: str) -> float:
    value = request.args.get(name, type=float)
    if value is None or not -1e5 < value < 1e5:
        abort(400, f"{name} needs seconds.")
    return value


def _binary(table: np.ndarray) -> Response:
    answer = Response(table.tobytes(), mimetype="application/octet-stream")
    # A recording's content never changes under its key.
    answer.headers["Cache-Control"] = "private, max-age=3600, immutable"
    return answer
