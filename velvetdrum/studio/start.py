"""The start page, and what happens to projects as a whole."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from flask import Blueprint, abort, jsonify, render_template, send_file, url_for

from velvetdrum.deliver.bundle import write_bundle
from velvetdrum.kinds.declared import Declared
from velvetdrum.picture.moments import moments_of
from velvetdrum.picture.placing import Area, overlay_areas
from velvetdrum.scene.document import ProjectError, media_keys, parse, schema
from velvetdrum.scene.edits import apply
from velvetdrum.scene.frames import FRAMES, RATES, SHAPES, FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.masks import MASK_KINDS
from velvetdrum.scene.patches import JOINS
from velvetdrum.scene.signal_part import COLOURS
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.signals.suggest import PLACES
from velvetdrum.signals.views import axis_hz
from velvetdrum.store import media, projects
from velvetdrum.studio.asking import body, project_or_404, services, state_of, whole

blueprint = Blueprint("start", __name__)


@blueprint.get("/")
def start_page() -> str:
    cards = []
    for row in projects.listed(services().db):
        try:
            cards.append({"row": row, "project": parse(row.document), "poster": _poster_frame(row), "fault": ""})
        except ProjectError as problem:
            # One project that can't be read must not hide the others.
            cards.append({"row": row, "project": None, "poster": None, "fault": str(problem)})
    return render_template("start.html", cards=cards)


@blueprint.get("/projects/<ident>")
def studio_page(ident: str) -> str:
    row = project_or_404(ident)
    kinds = [_kind(kind, cls) for kind, cls in LAYER_KINDS.items()]
    frames = {name: [size.width, size.height] for name, size in FRAMES.items()}
    rates = {name: str(rate) for name, rate in RATES.items()}
    given = {
        "project": state_of(row),
        "kinds": kinds,
        "maskKinds": [_kind(kind, cls) for kind, cls in MASK_KINDS.items()],
        "signalKinds": [_kind(kind, cls) for kind, cls in SIGNAL_KINDS.items()],
        "beatSettings": [_setting(setting) for setting in BeatSettings.settings.values()],
        "places": [{"name": name, "low": low, "high": high} for name, (low, high) in PLACES.items()],
        "colours": COLOURS,
        "joins": [{"name": name, "text": text} for name, text in JOINS.items()],
        "axis": axis_hz(),
        "frames": frames,
        "areas": {shape: [_area(area, FRAMES[shape]) for area in overlay_areas(FRAMES[shape])] for shape in SHAPES},
        "rates": rates,
    }
    return render_template("studio.html", row=row, given=given)


@blueprint.get("/projects/<ident>/state")
def project_state(ident: str) -> Any:
    return jsonify(state_of(project_or_404(ident)))


@blueprint.post("/projects/<ident>/edits")
def make_edit(ident: str) -> Any:
    """An edit as a JSON Patch on a revision; 409 when another window was faster."""
    given = body()
    patch = given.get("patch")
    if not isinstance(patch, list) or not all(isinstance(step, dict) for step in patch) or len(patch) > 1000:
        abort(400, "An edit needs a JSON Patch.")
    label = str(given.get("label") or "Edit")[:120]
    row = projects.edit(services().db, ident, whole(given, "revision", 1, 1 << 53), label, patch, apply)
    return jsonify(state_of(row))


@blueprint.post("/projects/<ident>/<any(undo, redo):way>")
def step_back_or_forth(ident: str, way: str) -> Any:
    revision = whole(body(), "revision", 1, 1 << 53)
    step = projects.undo if way == "undo" else projects.redo
    return jsonify(state_of(step(services().db, ident, revision, apply)))


@blueprint.post("/projects/<ident>/duplicate")
def duplicate(ident: str) -> Any:
    document = dict(project_or_404(ident).document)
    document["name"] = f"{document['name'][:190]} copy"
    return jsonify(id=projects.create(services().db, document))


@blueprint.post("/projects/<ident>/delete")
def delete(ident: str) -> Any:
    projects.delete(services().db, project_or_404(ident).id)
    return jsonify(deleted=ident)


@blueprint.post("/projects/<ident>/restore")
def restore(ident: str) -> Any:
    projects.restore(services().db, ident)
    return jsonify(id=project_or_404(ident).id)


@blueprint.get("/projects/<ident>/file")
def download_project(ident: str) -> Any:
    """The project with its media as a `.vdrum` file."""
    row, here = project_or_404(ident), services()
    files = {}
    for track in row.document["tracks"]:
        known = media.find(here.db, track["media"])
        if known is not None:
            files[known.key] = here.folder.original(known)
    for key in media_keys(row.document):
        known = media.find(here.db, key)
        if known is not None:
            files[known.key] = here.folder.original(known)
    folder = tempfile.mkdtemp(prefix="bundle-", dir=here.data)
    path = Path(folder) / "project.vdrum"
    write_bundle(path, row.document, files)
    answer = send_file(path, as_attachment=True, download_name=f"{file_name(row.name)}.vdrum",
                       mimetype="application/vnd.velvetdrum.project+zip")  # fmt: skip

    def remove() -> None:
        path.unlink(missing_ok=True)
        Path(folder).rmdir()

    answer.call_on_close(remove)
    return answer


@blueprint.get("/schema.json")
def published_schema() -> Any:
    return jsonify(schema())


def _area(area: Area, size: FrameSize) -> list[float]:
    """An area of a frame as shares of its sides: left, top, width, height."""
    return [area.left / size.width, area.top / size.height, area.width / size.width, area.height / size.height]


def _poster_frame(row: projects.ProjectRow) -> dict[str, Any]:
    sources = services().sources(row.document)
    marks = moments_of(row.document, (sources.analysis or None) if sources else None)
    loudest = next((mark["frame"] for mark in marks if mark["name"] == "loudest"), 0)
    address = url_for("picture.poster", ident=row.id, frame=loudest, revision=row.revision)
    return {"address": address}


def _kind(kind: str, cls: type[Declared]) -> dict[str, Any]:
    settings = [_setting(setting) for setting in cls.settings.values()]
    return {"kind": kind, "title": cls.title, "help": cls.help(), "settings": settings}


def _setting(setting: Any) -> dict[str, Any]:
    return {
        "name": setting.name, "type": setting.type, "label": setting.label, "help": setting.help,
        "unit": setting.unit, "group": setting.group,
        "lo": setting.lo, "hi": setting.hi, "step": setting.step,
        "curve": setting.curve, "choices": setting.choices, "often": setting.often,
        "when": setting.when, "lines": setting.lines,
        "default": setting.default,
    }  # fmt: skip


def file_name(name: str) -> str:
    """A name that every system can store."""
    kept = "".join(c if c.isalnum() or c in " -_().," else "-" for c in name).strip(" .")
    return kept[:120] or "video"
