"""Batches in the page: a table, the files that it names, a start, and a report."""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import Any

from flask import Blueprint, Response, abort, current_app, jsonify

from velvetdrum.deliver.batch import MOST_BYTES
from velvetdrum.deliver.file_names import MOST
from velvetdrum.deliver.plan import plan_wanted
from velvetdrum.scene.frames import FrameSize
from velvetdrum.store import batches, exports
from velvetdrum.store.batches import BatchRow
from velvetdrum.store.media import clean_name
from velvetdrum.studio.http.fields import ListOf, Text
from velvetdrum.studio.http.requests import (
    UPLOAD_LIMIT,
    chunks,
    file_bytes,
    is_ident,
    one_line,
    project_or_404,
    services,
    takes,
    takes_file,
    uploaded_name,
)
from velvetdrum.studio.rooms.export import WANTED
from velvetdrum.studio.workers import export_tasks

blueprint = Blueprint("batch", __name__)

HEAD = ("line", "title", "state", "files", "seconds", "message")
_WANTED = {name: part for name, part in WANTED.items() if name not in ("frame", "from_s", "to_s")}


@blueprint.post("/projects/<ident>/batches")
@takes_file("A CSV table of episodes", MOST_BYTES)
def begin(ident: str) -> Any:
    """Read a table of episodes for this project as it is now; answers with its rows and the files that it names."""
    row = project_or_404(ident)
    name = uploaded_name("episodes.csv")
    rows = services().read(export_tasks.read_episodes, file_bytes(MOST_BYTES, "table"), name)
    key = batches.create(services().db, row.id, name, row.document, rows)
    return jsonify(_shown(_batch(key))), 201


@blueprint.get("/projects/<ident>/batches")
def latest(ident: str) -> Any:
    """The latest batch of a project; null when there is none."""
    row = services().batches.latest(project_or_404(ident).id)
    return jsonify(row and _shown(row))


@blueprint.post("/batches/<ident>/files")
@takes_file("A file that the table names", UPLOAD_LIMIT)
def bring(ident: str) -> Any:
    """Take a file as the request's body; its name, as in the table, comes percent-coded in X-File-Name."""
    row, name = _batch(ident), uploaded_name("file")
    if row.state != "open":
        abort(409, "This batch is under way; begin another for more files.")
    # As the header tells it: on one line.
    named = next((given for given in _named(row) if one_line(given) == name), None)
    if named is None:
        abort(422, f"The table names no file {name[:120]}.")
    services().batches.keep_file(row, named, chunks(), current_app.config["UPLOAD_LIMIT"])
    return jsonify(_shown(_batch(ident)))


@blueprint.post("/batches/<ident>/start")
@takes(
    **_WANTED,
    frames=ListOf(Text(20), 0, 6, "Sizes of the frames, like 1080x1080", default=[]),
    name=Text(MOST, "A pattern for the files' names", default="{project} {size}"),
)
def start(ident: str, given: dict[str, Any]) -> Any:
    """Make the rows whose files are here; the others are told in the report."""
    row = _batch(ident)
    if row.state != "open":
        abort(409, "This batch was started already.")
    wanted = given | {"from_s": None, "to_s": None}
    for frame in given["frames"] or [None]:
        # What can't be is said now, not for every row.
        if frame:
            FrameSize.parse(frame)
        plan_wanted(row.document, wanted | {"frame": frame})
    services().batches.start(row.id, wanted)
    return jsonify(_shown(_batch(ident))), 202


@blueprint.get("/batches/<ident>")
def state(ident: str) -> Any:
    """What a batch lacks, and how far its rows are."""
    return jsonify(_shown(_batch(ident)))


@blueprint.post("/batches/<ident>/cancel")
@takes()
def cancel(ident: str, given: dict[str, Any]) -> Any:
    """Stop a batch; what is made stays."""
    services().batches.cancel(_batch(ident).id)
    return jsonify(_shown(_batch(ident)))


@blueprint.get("/batches/<ident>/report.csv")
def report(ident: str) -> Any:
    """What became of each row, as a table."""
    row = _batch(ident)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(HEAD)
    for item in _shown(row)["rows"]:
        names = "; ".join(item["made"])
        cells = (item["line"], item["title"], item["state"], names, item["seconds"], item["message"])
        writer.writerow([_plain(cell) for cell in cells])
    name = f"{Path(clean_name(row.name)).stem[:80] or 'episodes'} report.csv"
    answer = Response(text.getvalue(), mimetype="text/csv")
    answer.headers.set("Content-Disposition", "attachment", filename=clean_name(name))
    return answer


def _plain(cell: Any) -> Any:
    """A cell that no spreadsheet takes for a formula."""
    return f"'{cell}" if isinstance(cell, str) and cell[:1] in ("=", "+", "-", "@") else cell


def _batch(ident: str) -> BatchRow:
    row = services().batches.find(ident) if is_ident(ident) else None
    return row or abort(404, "There is no such batch.")


def _named(row: BatchRow) -> dict[str, str]:
    """The files that a table names, with the sort of each."""
    return {name: kind for item in row.rows for kind, name in item["files"].items()}


def _shown(row: BatchRow) -> dict[str, Any]:
    made = {item.id: item for item in exports.of_batch(services().db, row.id)}
    shown = []
    for item in row.rows:
        said = row.report.get(str(item["line"]), {})
        own = [made[key] for key in said.get("exports", []) if key in made]
        lacks = [name for name in item["files"].values() if name not in row.files] if row.state == "open" else []
        state, message = said.get("state", "lacks" if lacks else "ready"), said.get("message", "")
        if state == "queued":
            states = {export.state for export in own}
            failed = states & {"failed", "cancelled"}
            state = "failed" if failed else "done" if states <= {"done"} else "running"
            message = next((export.sentence for export in own if export.state == "failed"), message)
        shown.append(
            {
                "line": item["line"],
                "title": item["title"],
                "state": state,
                "lacks": lacks,
                "message": message,
                "made": [export.name for export in own if export.state == "done"],
                "seconds": round(sum(export.worked_s for export in own), 1),
            }
        )
    needs = {name: kind for name, kind in _named(row).items() if name not in row.files}
    return {"id": row.id, "name": row.name, "state": row.state, "rows": shown, "needs": needs}
