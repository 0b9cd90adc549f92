"""Exports: ask for one, watch it, stop it, play it, take it home."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Blueprint, abort, jsonify, request, send_file

from velvetdrum.deliver.plan import ExportPlan, plan_export
from velvetdrum.scene.frames import FrameError, FrameSize
from velvetdrum.store import exports
from velvetdrum.store.exports import ExportRow
from velvetdrum.studio.asking import body, project_or_404, services
from velvetdrum.studio.start import file_name

blueprint = Blueprint("export", __name__)


@blueprint.get("/projects/<ident>/exports")
def listed(ident: str) -> Any:
    return jsonify([_shown(row) for row in exports.of_project(services().db, project_or_404(ident).id)])


@blueprint.post("/projects/<ident>/exports")
def begin(ident: str) -> Any:
    """Export the project as it is now. `frame` (WxH), `from_s` and `to_s` are optional."""
    row, given = project_or_404(ident), body()
    if not row.document["tracks"]:
        abort(409, "There is no sound in this project yet. Bring one in first.")
    gone = services().missing_media(row.document)
    if gone:
        names = ", ".join(dict.fromkeys(name for item in gone for name in item["layers"]))
        abort(409, f"The file behind {names} is not here. Bring it in again, or delete the layer, then export.")
    size = FrameSize.parse(str(given["frame"])) if given.get("frame") else None
    part = [_seconds(given, name) for name in ("from_s", "to_s")]
    plan = plan_export(row.document, size=size, from_s=part[0], to_s=part[1])
    name = f"{file_name(row.name)} {plan.width}x{plan.height}.mp4"
    key = services().begin_export(row.id, name, row.document, asdict(plan))
    return jsonify(_shown(_export(key))), 202


@blueprint.get("/exports/<ident>")
def state(ident: str) -> Any:
    return jsonify(_shown(_export(ident)))


@blueprint.post("/exports/<ident>/cancel")
def cancel(ident: str) -> Any:
    services().cancel_export(_export(ident).id)
    return jsonify(cancelled=ident)


@blueprint.post("/exports/<ident>/again")
def again(ident: str) -> Any:
    """Go on with an export that failed or was cancelled; its finished segments are used."""
    row = _export(ident)
    if row.state in ("failed", "cancelled"):
        services().again(ident)
    return jsonify(_shown(_export(ident))), 202


@blueprint.get("/exports/<ident>/video")
def video(ident: str) -> Any:
    """The finished file: played in the page, or with `?download=1` saved under its name."""
    row = _export(ident)
    path = services().export_file(ident)
    if row.state != "done" or not path.exists():
        abort(404, "This video is not finished.")
    return send_file(
        path,
        mimetype="video/mp4",
        as_attachment="download" in request.args,
        download_name=row.name,
        conditional=True,
    )


def _export(ident: str) -> ExportRow:
    row = exports.find(services().db, ident)
    if row is None:
        abort(404, "There is no such export.")
    return row


def _shown(row: ExportRow) -> dict[str, Any]:
    plan = ExportPlan(**row.plan)
    path = services().export_file(row.id)
    return {
        "id": row.id,
        "name": row.name,
        "state": row.state,
        "error": row.sentence,
        "done": row.done,
        "frames": plan.frames,
        "width": plan.width,
        "height": plan.height,
        "seconds": float(plan.stop_s - plan.start_s),
        "made_at": row.made_at,
        "took_s": row.ended_at - row.made_at if row.ended_at else None,
        "bytes": path.stat().st_size if row.state == "done" and path.exists() else None,
    }


def _seconds(given: dict[str, Any], name: str) -> float | None:
    value = given.get(name)
    if value is None:
        return None
    if not isinstance(value, int | float) or isinstance(value, bool) or not 0 <= value < 1e5:
        raise FrameError("The part to export is given in seconds from the start of the project.")
    return float(value)
