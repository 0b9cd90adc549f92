"""Before it is posted: every frame looked at, what flashes softened, and the excerpts that carry best."""

from __future__ import annotations

from concurrent.futures import TimeoutError as Late
from dataclasses import asdict
from typing import Any

from flask import Blueprint, abort, jsonify

from velvetdrum.deliver.plan import ExportPlan, plan_export
from velvetdrum.limits.process import OverTime
from velvetdrum.scene.frames import FrameSize
from velvetdrum.store.reviews import ReviewRow
from velvetdrum.studio.http.fields import ListOf, Real, Text, Whole
from velvetdrum.studio.http.requests import drafted, is_ident, project_or_404, queries, services, takes
from velvetdrum.studio.workers import export_tasks

blueprint = Blueprint("review", __name__)

_PART = Real(0, 1e5, "s", "In seconds from the start of the project", default=None)


@blueprint.post("/projects/<ident>/reviews")
@takes(
    from_s=_PART,
    to_s=_PART,
    frames=ListOf(Text(20), 0, 6, "Sizes that it is exported in, like 1080x1080", default=[]),
)
def begin(ident: str, given: dict[str, Any]) -> Any:
    """Look at every frame of a project, or of a part, in the background."""
    row = project_or_404(ident)
    sizes = [FrameSize.parse(text) for text in given["frames"]]
    size = sizes[0] if sizes else None
    plan = plan_export(row.document, size=size, from_s=given["from_s"], to_s=given["to_s"])
    wanted = asdict(plan) | {"sizes": [(size.width, size.height) for size in sizes]}
    key = services().reviews.begin(row.id, row.revision, row.document, wanted)
    return jsonify(_shown(_review(key))), 202


@blueprint.get("/projects/<ident>/reviews")
def latest(ident: str) -> Any:
    """The latest review at a project; null when there is none."""
    row = services().reviews.latest(project_or_404(ident).id)
    return jsonify(row and _shown(row))


@blueprint.get("/reviews/<ident>")
def state(ident: str) -> Any:
    """How far a review is, and what it found."""
    return jsonify(_shown(_review(ident)))


@blueprint.post("/reviews/<ident>/cancel")
@takes()
def cancel(ident: str, given: dict[str, Any]) -> Any:
    """Stop a review."""
    services().reviews.cancel(_review(ident).id)
    return jsonify(cancelled=ident)


@blueprint.post("/reviews/<ident>/soften")
@takes(number=Whole(0, 999, "Which of the stretches that flash"))
def soften(ident: str, given: dict[str, Any]) -> Any:
    """The patch that makes a stretch flash, and how far it is to be turned down, as an edit; null where it is none."""
    row = _review(ident)
    if row.state != "done" or given["number"] >= len((row.found or {}).get("flashes", [])):
        abort(404, "There is no such stretch.")
    try:
        return jsonify(services().reviews.soften(row, given["number"]))
    except (OverTime, Late):
        abort(503, "Trying the patches takes too long while the cores are busy. Try it again when they are not.")


@blueprint.get("/projects/<ident>/excerpts")
@queries(length_s=Real(2, 600, "s", "About how long they are", default=15.0))
def excerpts(ident: str, query: dict[str, Any]) -> Any:
    """Three stretches that carry best."""
    named, here = drafted(ident), services()
    task = (named, here.sources(named.document), query["length_s"])
    return jsonify(here.quickly(export_tasks.find_excerpts, *task))


def _review(ident: str) -> ReviewRow:
    row = services().reviews.find(ident) if is_ident(ident) else None
    if row is None:
        abort(404, "There is no such review.")
    return row


def _shown(row: ReviewRow) -> dict[str, Any]:
    plan = ExportPlan.stored(row.plan)
    return {
        "id": row.id,
        "state": row.state,
        "error": row.sentence,
        "done": row.done,
        "frames": plan.frames,
        "edit": row.revision,
        "start_s": float(plan.start_s),
        "seconds": float(plan.stop_s - plan.start_s),
        "made_at": row.made_at,
        "found": row.found,
    }
