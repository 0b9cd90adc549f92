"""Exports: ask for one, watch it, stop it, play it, take it home."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Blueprint, abort, jsonify, send_file

from velvetdrum.deliver.extras import captions_of
from velvetdrum.deliver.plan import ExportPlan, plan_export
from velvetdrum.deliver.video_format import FORMATS, SPEEDS
from velvetdrum.scene.document import parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.store.exports import ExportRow
from velvetdrum.studio.fields import OneOf, Real, Text
from velvetdrum.studio.requests import is_ident, project_or_404, queries, services, takes
from velvetdrum.studio.start import file_name

blueprint = Blueprint("export", __name__)


@blueprint.get("/projects/<ident>/exports")
def listed(ident: str) -> Any:
    """A project's exports, the newest first."""
    return jsonify([_shown(row) for row in services().exports.of_project(project_or_404(ident).id)])


_PART = Real(0, 1e5, "s", "In seconds from the start of the project", default=None)


@blueprint.post("/projects/<ident>/exports")
@takes(
    frame=Text(20, "Size of the frame, like 1080x1080", default=None),
    from_s=_PART,
    to_s=_PART,
    speed=OneOf(*SPEEDS, about="How it weighs time against size", default="balanced"),
    format=OneOf(*FORMATS, about="What file is made", default="mp4"),
    transparent=OneOf("yes", "no", about="Whether nothing stands behind the layers", default="no"),
    loudness=Real(-40, -5, "LUFS", "What the sound is brought to; left as it is without", default=None),
    true_peak=Real(-9, 0, "dBTP", "What its true peak does not pass then", default=-1.0),
    captions=OneOf("none", "inside", about="Whether the first cue track goes into the file", default="none"),
)
def begin(ident: str, given: dict[str, Any]) -> Any:
    """Export the project as it is now."""
    row = project_or_404(ident)
    if not row.document["tracks"]:
        abort(409, "There is no sound in this project yet. Bring one in first.")
    gone = services().missing_media(row.document)
    if gone:
        names = ", ".join(dict.fromkeys(name for item in gone for name in item["layers"]))
        abort(409, f"The file behind {names} is not here. Bring it in again, or delete the layer, then export.")
    size = FrameSize.parse(given["frame"]) if given["frame"] else None
    plan = plan_export(
        row.document,
        size=size,
        from_s=given["from_s"],
        to_s=given["to_s"],
        speed=given["speed"],
        form=given["format"],
        transparent=given["transparent"] == "yes",
        loudness=given["loudness"],
        true_peak=given["true_peak"],
        captions="inside" if given["captions"] == "inside" and FORMATS[given["format"]].sound else "",
    )
    if plan.captions:
        # Said now, not when all pictures are done.
        captions_of(parse(row.document), float(plan.start_s), float(plan.stop_s))
    through = " transparent" if plan.transparent else ""
    name = f"{file_name(row.name)} {plan.width}x{plan.height}{through}{FORMATS[plan.format].suffix}"
    key = services().exports.begin(row.id, name, row.document, asdict(plan))
    return jsonify(_shown(_export(key))), 202


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
    """Go on with an export that failed or was cancelled; its finished segments are used."""
    row = _export(ident)
    if row.state in ("failed", "cancelled"):
        services().exports.again(ident)
    return jsonify(_shown(_export(ident))), 202


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


def _export(ident: str) -> ExportRow:
    row = services().exports.find(ident) if is_ident(ident) else None
    if row is None:
        abort(404, "There is no such export.")
    return row


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
        "width": plan.width,
        "height": plan.height,
        "speed": SPEEDS[plan.speed][0],
        "format": FORMATS[plan.format].title,
        "shown": FORMATS[plan.format].mime.split("/")[0],
        "seconds": float(plan.stop_s - plan.start_s),
        "made_at": row.made_at,
        "took_s": row.ended_at - row.made_at if row.ended_at else None,
        "bytes": path.stat().st_size if row.state == "done" and path.exists() else None,
    }
