"""The history of a project: its states seen, compared and taken again, and those that were given a name."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import jsonpatch
from flask import Blueprint, Response, abort, jsonify

from velvetdrum.scene.differences import differences
from velvetdrum.scene.document import Document
from velvetdrum.scene.edits import MOST_STEPS, parsed
from velvetdrum.scene.migrate import upgraded
from velvetdrum.store import history, projects
from velvetdrum.store.db import StoreError
from velvetdrum.store.history import LONGEST_NAME
from velvetdrum.store.projects import ProjectRow
from velvetdrum.studio.http.fields import Text, Whole
from velvetdrum.studio.http.requests import (
    FRAME,
    REVISION,
    is_ident,
    one_line,
    project_or_404,
    queries,
    services,
    state_of,
    takes,
)
from velvetdrum.studio.workers.drawn_frames import unpacked

blueprint = Blueprint("history", __name__)

_PAGE = 200
"""States that are told at once."""
_NAME = Text(LONGEST_NAME, "Its name", least=1)
_PLACE = {
    "branch": Whole(0, 1 << 31, "0: the row that undo and redo move along; others were set aside", default=0),
    "position": Whole(0, 1 << 31, "Which state of it", default=0),
    "version": Text(64, "Id of a named version, in place of both", default=""),
}
_GONE = "This state of the project is not known any more. Open the history again."


@blueprint.get("/projects/<ident>/history")
@queries(first=Whole(0, 1 << 31, "How many of the latest states to pass over", default=0))
def listed(ident: str, query: dict[str, Any]) -> Any:
    """The states of a project, the latest first, the position of the present one, and the named versions."""
    row, db = project_or_404(ident), services().db
    states = history.states(db, row.id, query["first"], _PAGE + 1)
    return jsonify(
        states=[asdict(state) for state in states[:_PAGE]],
        more=len(states) > _PAGE,
        position=history.position(db, row.id),
        versions=[asdict(version) for version in history.versions(db, row.id)],
    )


@blueprint.get("/projects/<ident>/history/state")
@queries(**_PLACE)
def state(ident: str, query: dict[str, Any]) -> Any:
    """How a state differs from the present one: a JSON Patch that leads to it, and the same in words."""
    row = project_or_404(ident)
    document = _document(row, query)
    present = upgraded(row.document)
    result = [{"owner": owner, "text": text} for owner, text in differences(present, document)]
    return jsonify(patch=_patch(present, document), revision=row.revision, differences=result)


@blueprint.get("/projects/<ident>/history/picture")
@queries(**_PLACE, frame=FRAME, width=Whole(64, 960, "Pixels across", default=120))
def picture(ident: str, query: dict[str, Any]) -> Response:
    """A frame of a state as a JPEG."""
    row = project_or_404(ident)
    named = services().named(row).changed(_document(row, query))
    frame = min(query["frame"], named.project.frame_count - 1)
    ((_, data),) = unpacked(services().frames(named, [frame], query["width"], "jpeg"))
    answer = Response(data, mimetype="image/jpeg")
    answer.headers["Cache-Control"] = "private, max-age=86400"
    return answer


@blueprint.post("/projects/<ident>/history")
@takes(revision=REVISION, position=Whole(0, 1 << 31, "Which state of the row that undo and redo move along"))
def take(ident: str, given: dict[str, Any]) -> Any:
    """Go to a state of the row that undo and redo move along: as many of either at once."""
    row = project_or_404(ident)
    document = history.document_at(services().db, row, 0, given["position"])
    if document is None:
        abort(404, _GONE)
    parsed(document)
    row = projects.jump(services().db, row.id, given["revision"], given["position"], document)
    services().named(row)
    return jsonify(state_of(row))


@blueprint.post("/projects/<ident>/versions")
@takes(
    name=_NAME,
    branch=_PLACE["branch"],
    position=Whole(0, 1 << 31, "Which state of it; the present one where none is given", default=None),
)
def keep(ident: str, given: dict[str, Any]) -> Any:
    """Give a name to the present state, or to another one."""
    row = project_or_404(ident)
    document = row.document if given["position"] is None else _document(row, given | {"version": ""})
    try:
        made = history.keep_version(services().db, row.id, _name(given), document)
    except StoreError as problem:
        abort(422, str(problem))
    return jsonify(id=made)


@blueprint.post("/projects/<ident>/versions/<version>")
@takes(name=_NAME)
def rename(ident: str, version: str, given: dict[str, Any]) -> Any:
    """Give a named version another name."""
    row = project_or_404(ident)
    if not is_ident(version) or not history.rename_version(services().db, row.id, version, _name(given)):
        abort(404, _GONE)
    return jsonify(id=version)


@blueprint.delete("/projects/<ident>/versions/<version>")
def drop(ident: str, version: str) -> Any:
    """Remove a named version; the history stays as it is."""
    row = project_or_404(ident)
    if not is_ident(version) or not history.drop_version(services().db, row.id, version):
        abort(404, _GONE)
    return jsonify(id=version)


def _name(given: dict[str, Any]) -> str:
    name = one_line(given["name"])
    if not name:
        abort(422, "A version needs a name.")
    return name


def _document(row: ProjectRow, place: dict[str, Any]) -> Document:
    """The document of a state or of a named version, in the present form."""
    db, version = services().db, place["version"]
    if version:
        document = history.version_document(db, row.id, version) if is_ident(version) else None
    else:
        document = history.document_at(db, row, place["branch"], place["position"])
    if document is None:
        abort(404, _GONE)
    return upgraded(document)


def _patch(present: Document, document: Document) -> list[dict[str, Any]]:
    """What leads from one document to another: small steps where there are few."""
    steps = list(jsonpatch.make_patch(present, document).patch)
    if len(steps) <= MOST_STEPS:
        return steps
    changed = {key for key in {*present, *document} if present.get(key) != document.get(key)}
    return [
        {"op": "add", "path": f"/{key}", "value": document[key]}
        if key in document
        else {"op": "remove", "path": f"/{key}"}
        for key in sorted(changed)
    ]
