"""Exports: ask for some, order and pause them, watch, play, take home, clean up."""

from __future__ import annotations

import io
from concurrent.futures import TimeoutError as Late
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import Any

from flask import Blueprint, abort, jsonify, send_file

from velvetdrum.deliver.export import Job
from velvetdrum.deliver.extras import captions_of, with_captions
from velvetdrum.deliver.file_names import MOST, PATTERN, distinguished, file_name
from velvetdrum.deliver.plan import ExportPlan, in_rate, plan_wanted
from velvetdrum.deliver.video_format import FORMATS, SPEEDS
from velvetdrum.limits.process import OverTime
from velvetdrum.scene.document import parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.store.exports import ExportRow
from velvetdrum.store.projects import ProjectRow
from velvetdrum.studio.http.fields import Field, ListOf, OneOf, Real, Text, Whole
from velvetdrum.studio.http.requests import is_ident, project_or_404, queries, services, takes
from velvetdrum.studio.workers import export_tasks
from velvetdrum.words.cue_files import write_cues

blueprint = Blueprint("export", __name__)

_ESTIMATE_S = 45
_PART = Real(0, 1e5, "s", "In seconds from the start of the project", default=None)
_FADE = Real(0, 60, "s", "How long the sound comes or goes", default=0.0)

WANTED: dict[str, Field] = {
    "frame": Text(20, "Size of the frame, like 1080x1080", default=None),
    "rate": Text(20, "Frames per second, by name or as a fraction; the project's without", default=None),
    "from_s": _PART,
    "to_s": _PART,
    "speed": OneOf(*SPEEDS, about="How it weighs time against size", default="balanced"),
    "format": OneOf(*FORMATS, about="What file is made", default="mp4"),
    "transparent": OneOf("yes", "no", about="Whether nothing stands behind the layers", default="no"),
    "loudness": Real(-40, -5, "LUFS", "What the sound is brought to; left as it is without", default=None),
    "true_peak": Real(-9, 0, "dBTP", "What its true peak does not pass then", default=-1.0),
    "captions": OneOf("none", "inside", "burnt", about="Where the first cue track is shown", default="none"),
    "fade_in": _FADE,
    "fade_out": _FADE,
    "seamless": OneOf("yes", "no", about="Whether the end fades into what comes before the start", default="no"),
    "megabytes": Real(0.1, 100_000, "MB", "What size the file is brought to; an even quality without", default=None),
    "moments": Whole(2, 64, "How many moments a contact sheet shows", default=9),
}
"""What an export is asked for by."""


@blueprint.get("/projects/<ident>/exports")
def of_project(ident: str) -> Any:
    """A project's exports, the newest first."""
    return jsonify([_shown(row) for row in services().exports.of_project(project_or_404(ident).id)])


@blueprint.get("/exports")
def listed() -> Any:
    """All exports: those in line in their order, then those that ended, the newest first; and the queue's state."""
    here = services().exports
    rows = here.listed()
    return jsonify(paused=here.paused, free_bytes=here.free_bytes, exports=[_shown(row) for row in rows])


@blueprint.post("/projects/<ident>/exports")
@takes(**WANTED, name=Text(MOST, "A pattern for the file's name, like {project} {frame}", default=PATTERN))
def begin(ident: str, given: dict[str, Any]) -> Any:
    """Export the project as it is now."""
    row = project_or_404(ident)
    plan = _planned(row, given)
    document = in_rate(row.document, given)
    document = with_captions(document) if given["captions"] == "burnt" else document
    if plan.captions or given["captions"] == "burnt":
        # Said now, not when all pictures are done.
        captions_of(parse(row.document), float(plan.start_s), float(plan.stop_s))
    here = services().exports
    name = file_name(given["name"], plan, row.name, date.today(), row.revision - 1)
    name = distinguished(name, {other.name for other in here.of_project(row.id) if other.removed_at is None})
    key = here.begin(row.id, name, document, asdict(plan), revision=row.revision)
    return jsonify(_shown(_export(key))), 202


@blueprint.post("/projects/<ident>/estimate")
@takes(**WANTED)
def estimate(ident: str, given: dict[str, Any]) -> Any:
    """How long an export will take and how large its file will be, from a few frames that are made for it."""
    row = project_or_404(ident)
    document = in_rate(row.document, given)
    return jsonify(estimate_of(Job(document, services().sources(document), _planned(row, given), "")))


def estimate_of(job: Job) -> dict[str, Any]:
    """Seconds and bytes that an export would take, and the bytes that are free; a 503 where the cores are busy."""
    here = services()
    most, exporters = _ESTIMATE_S, here.workers.exporters
    try:
        result: dict[str, Any] = here.workers.within(most, "export", export_tasks.estimate, job, exporters)
        return result | {"free_bytes": here.exports.free_bytes}
    except (OverTime, Late):
        return abort(503, "The cores are busy with what is being made; the estimate comes when there is room.")


def _planned(row: ProjectRow, given: dict[str, Any]) -> ExportPlan:
    if not row.document["tracks"] and FORMATS[given["format"]].group == "sound":
        abort(409, "There is no sound in this project yet. Bring one in first.")
    gone = services().missing_media(row.document)
    if gone:
        names = ", ".join(dict.fromkeys(name for item in gone for name in item["layers"]))
        abort(409, f"The file behind {names} is not here. Bring it in again, or delete the layer, then export.")
    return plan_wanted(row.document, given)


@blueprint.get("/exports/<ident>")
def state(ident: str) -> Any:
    """How far an export is."""
    return jsonify(_shown(_export(ident)))


@blueprint.post("/exports/<ident>/cancel")
@takes()
def cancel(ident: str, given: dict[str, Any]) -> Any:
    """Stop an export; its finished segments are kept."""
    services().exports.cancel(_export(ident).id)
    return jsonify(cancelled=ident)


@blueprint.post("/exports/<ident>/again")
@takes()
def again(ident: str, given: dict[str, Any]) -> Any:
    """Go on with an export that failed, was cancelled or stands still, its finished segments used; or make one again
    whose file was cleaned up."""
    row = _export(ident)
    if row.state in ("failed", "cancelled") or row.removed_at is not None:
        services().exports.again(ident)
    elif row.held:
        services().exports.go_on(ident)
    return jsonify(_shown(_export(ident))), 202


@blueprint.post("/exports/<ident>/pause")
@takes()
def pause(ident: str, given: dict[str, Any]) -> Any:
    """Let an export stand where it is; others go on."""
    row = _export(ident)
    if row.state in ("waiting", "running"):
        services().exports.pause(ident)
    return jsonify(_shown(_export(ident)))


@blueprint.post("/exports/<ident>/first")
@takes()
def first(ident: str, given: dict[str, Any]) -> Any:
    """Make an export that waits the next one."""
    services().exports.first(_export(ident).id)
    return jsonify(_shown(_export(ident)))


@blueprint.post("/exports/order")
@takes(ids=ListOf(Text(20, least=1), 1, 500, "Exports that wait, in their new order"))
def order(given: dict[str, Any]) -> Any:
    """Put exports that wait into an order."""
    services().exports.order([_export(ident).id for ident in given["ids"]])
    return listed()


@blueprint.post("/exports/queue")
@takes(paused=OneOf("yes", "no", about="Whether the whole queue stands still"))
def queue(given: dict[str, Any]) -> Any:
    """Let the whole queue stand still, or go on."""
    here = services().exports
    here.pause_all() if given["paused"] == "yes" else here.go_on_all()
    return listed()


@blueprint.post("/exports/remove")
@takes(ids=ListOf(Text(20, least=1), 1, 500, "Exports that ended, whose files are deleted"))
def remove(given: dict[str, Any]) -> Any:
    """Delete the files of exports that ended, and say how much room that made. They stay in the list, and can be made
    again."""
    freed = services().exports.remove([_export(ident) for ident in given["ids"]])
    return jsonify(freed_bytes=freed, free_bytes=services().exports.free_bytes)


@blueprint.get("/exports/<ident>/video")
@queries(download=OneOf("", "1", about="1 saves it under its name", default=None))
def video(ident: str, query: dict[str, Any]) -> Any:
    """The finished file: played in the page, or with `?download=1` saved under its name."""
    row = _export(ident)
    path = services().exports.file(row)
    if row.state != "done" or not path.exists():
        abort(404, "This video is not finished.")
    return send_file(
        path,
        mimetype=FORMATS[ExportPlan.stored(row.plan).format].mime,
        as_attachment=query["download"] is not None,
        download_name=row.name,
        conditional=True,
    )


@blueprint.get("/exports/<ident>/captions/<form>")
def captions(ident: str, form: str) -> Any:
    """The cues of an export as a file beside it: SubRip (`srt`) or WebVTT (`vtt`)."""
    row = _export(ident)
    if form not in ("srt", "vtt"):
        abort(404, "Captions beside a video are srt or vtt.")
    plan = ExportPlan.stored(row.plan)
    cues = captions_of(parse(row.document), float(plan.start_s), float(plan.stop_s))
    name = f"{row.name.rpartition('.')[0]}.{form}"
    data = io.BytesIO(write_cues(cues, form).encode())
    sort = "text/vtt" if form == "vtt" else "application/x-subrip"
    return send_file(data, mimetype=sort, as_attachment=True, download_name=name)


def _export(ident: str) -> ExportRow:
    row = services().exports.find(ident) if is_ident(ident) else None
    if row is None:
        abort(404, "There is no such export.")
    return row


def _bytes(row: ExportRow, path: Path) -> int | None:
    """Bytes of a finished file; from the disk until they are stored."""
    if row.state != "done":
        return None
    return row.bytes if row.bytes is not None else path.stat().st_size if path.exists() else None


def _shown(row: ExportRow) -> dict[str, Any]:
    plan = ExportPlan.stored(row.plan)
    path = services().exports.file(row)
    return {
        "id": row.id,
        "name": row.name,
        "state": row.state,
        "error": row.sentence,
        "done": row.done,
        "frames": plan.frames,
        "joined": services().exports.joined_share(row) if row.state == "running" else 0.0,
        "width": plan.width,
        "height": plan.height,
        "speed": SPEEDS[plan.speed][0],
        "format": FORMATS[plan.format].title,
        "shown": FORMATS[plan.format].mime.split("/")[0],
        "seconds": float(plan.stop_s - plan.start_s),
        "made_at": row.made_at,
        "took_s": row.worked_s if row.ended_at else None,
        "bytes": _bytes(row, path),
        "removed": row.removed_at is not None or (row.state == "done" and not path.exists()),
        "held": row.held,
        "edit": max(row.revision - 1, 0),
        "project": row.project_id,
        "batch": row.batch,
        "cues": bool(row.document.get("cue_tracks")),
        "loudness": plan.loudness,
        "form": plan.format,
        "start_s": float(plan.start_s),
        "shape": FrameSize(plan.width, plan.height).shape,
        "found": row.found
        and {
            "loudness_lufs": row.found.get("loudness_lufs"),
            "true_peak_dbtp": row.found.get("true_peak_dbtp"),
            "flashes": len(row.found.get("flashes") or []),
            "black": len(row.found.get("black") or []),
            "frozen": len(row.found.get("frozen") or []),
            "silence": len(row.found.get("silence") or []),
        },
    }
