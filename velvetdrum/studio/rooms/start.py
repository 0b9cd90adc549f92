"""The start page, and what happens to projects as a whole."""

from __future__ import annotations

import logging
import time
from dataclasses import asdict
from typing import Any

from flask import Blueprint, Response, abort, current_app, jsonify, render_template, url_for

from velvetdrum.declare.schema import Declared
from velvetdrum.declare.synonyms import synonyms_of
from velvetdrum.deliver.bundle import bundle_pieces
from velvetdrum.deliver.video_format import FORMATS, SPEEDS
from velvetdrum.looks.role_signals import SIGNAL_ROLES
from velvetdrum.mix.placed_track import PARTS
from velvetdrum.picture.frame.handles import OverlayArea, overlay_areas
from velvetdrum.picture.frame.moments import moments_of
from velvetdrum.scene.cue_tracks import TAGS
from velvetdrum.scene.document import ProjectError, media_keys, parse, schema
from velvetdrum.scene.edits import apply, replayed, upgrade_step
from velvetdrum.scene.frames import FRAMES, RATES, SHAPES, FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS, Layer
from velvetdrum.scene.parts import PART_SORTS, Part, PartSort
from velvetdrum.scene.patches import JOINS
from velvetdrum.scene.signal_part import COLOURS
from velvetdrum.scene.tracks import COLOURS as TRACK_COLOURS
from velvetdrum.scene.tracks import TrackSettings
from velvetdrum.scene.workspace import UNITS
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.kinds import SIGNAL_KINDS, Signal
from velvetdrum.signals.suggest import PLACES
from velvetdrum.signals.views import axis_hz
from velvetdrum.store import media, project_tags, projects
from velvetdrum.studio.http.fields import JsonPatch, Text
from velvetdrum.studio.http.openapi import described
from velvetdrum.studio.http.requests import MOST_EDIT, REVISION, is_ident, project_or_404, services, state_of, takes
from velvetdrum.studio.rooms.projects import frame_choices
from velvetdrum.words.alignment.pronunciation import LANGUAGE_NAMES
from velvetdrum.words.cue_format import CUE_FORMATS, LEFT_OUT

blueprint = Blueprint("start", __name__)


@blueprint.get("/")
def start_page() -> str:
    """All projects as pictures, and the place to drop a sound."""
    cards = []
    opened = project_tags.opened_at(services().db)
    for row in sorted(projects.listed(services().db), key=lambda row: -opened.get(row.id, 0.0)):
        card = {"row": row, "opened": opened.get(row.id, 0.0)}
        try:
            cards.append(card | {"project": parse(row.document), "poster": _poster_frame(row), "fault": ""})
        except Exception as problem:
            # One project that can't be read must not hide the others, whatever is wrong with it.
            if not isinstance(problem, ProjectError):
                logging.getLogger(__name__).exception("card of %s", row.id)
            said = str(problem) if isinstance(problem, ProjectError) else "This project can't be read."
            cards.append(card | {"project": None, "poster": None, "fault": said})
    days = services().bin.days
    binned = [
        {"id": row.id, "name": row.name, "days": max(1, days - int((time.time() - row.deleted_at) / 86_400))}
        for row in projects.binned(services().db)
    ]
    return render_template(
        "start.html",
        cards=cards,
        coming=services().demo_coming,
        binned=binned,
        tags=project_tags.of_all(services().db),
        frames=frame_choices(),
        rates=list(RATES),
        old_days=services().disk_space.days,
    )


@blueprint.get("/demo")
def demo_state() -> Any:
    """Whether the demo's projects are still being made, and how many projects there are."""
    return jsonify(coming=services().demo_coming, projects=projects.count(services().db))


@blueprint.get("/projects/<ident>")
def studio_page(ident: str) -> str:
    """One project with its rooms, and all that the page needs to know."""
    row = project_or_404(ident)
    project_tags.set_opened(services().db, ident)
    kinds = [_layer_kind(kind, cls) for kind, cls in LAYER_KINDS.items()]
    frames = {name: [size.width, size.height] for name, size in FRAMES.items()}
    rates = {name: str(rate) for name, rate in RATES.items()}
    given = {
        "project": state_of(row),
        "kinds": kinds,
        "speeds": [{"name": name, "title": title, "help": told} for name, (title, told) in SPEEDS.items()],
        "videoFormats": [
            {
                "name": name,
                "label": form.label,
                "help": f"{form.title}. {form.about}",
                "alpha": form.alpha,
                "sound": bool(form.sound),
                "group": form.group,
                "sized": form.sized,
                "many": form.many,
                "suffix": form.suffix,
            }
            for name, form in sorted(FORMATS.items(), key=lambda item: (item[1].rank, not item[1].sound))
        ],
        "partSorts": [_sort(sort) for sort in PART_SORTS.values()],
        "signalKinds": [_signal_kind(kind, cls) for kind, cls in SIGNAL_KINDS.items()],
        "beatSettings": [_setting(setting) for setting in BeatSettings.settings.values()],
        "trackKind": _kind("track", TrackSettings),
        "trackColours": TRACK_COLOURS,
        "soundParts": PARTS,
        "sum": vars(services().sums.state(row.document)),
        "places": [{"name": name, "low": low, "high": high} for name, (low, high) in PLACES.items()],
        "colours": COLOURS,
        "roles": [{"name": name, "text": text} for name, text in SIGNAL_ROLES.items()],
        "joins": [{"name": name, "text": text} for name, text in JOINS.items()],
        "axis": axis_hz(),
        "frames": frames,
        "areas": {shape: [_area(area, FRAMES[shape]) for area in overlay_areas(FRAMES[shape])] for shape in SHAPES},
        "rates": rates,
        "loudest": _loudest(row),
        "languages": [{"code": code, "name": name} for code, name in LANGUAGE_NAMES.items()],
        "tags": [{"name": name, "title": title} for name, title in TAGS.items()],
        "cueFormats": [
            {"suffix": suffix, "title": form.title, "keeps": sorted(form.keeps)} for suffix, form in CUE_FORMATS.items()
        ],
        "leftOut": LEFT_OUT,
        "units": [
            {"sort": sort, "choices": [{"name": name, "text": text} for name, text in choices.items()]}
            for sort, choices in UNITS.items()
        ],
    }
    return render_template("studio.html", row=row, given=given)


@blueprint.get("/projects/<ident>/state")
def project_state(ident: str) -> Any:
    """The document as it is kept, with its revision and what undo and redo would do."""
    return jsonify(state_of(project_or_404(ident)))


@blueprint.post("/projects/<ident>/edits")
@takes(MOST_EDIT, revision=REVISION, label=Text(120, "What undo will call it", default="Edit"), patch=JsonPatch())
def make_edit(ident: str, given: dict[str, Any]) -> Any:
    """An edit as a JSON Patch on a revision; 409 when another window was faster."""
    project_or_404(ident)
    label = given["label"] or "Edit"
    row = projects.edit(services().db, ident, given["revision"], label, given["patch"], apply, upgrade_step)
    # While what it follows is known: workers make the patch on what they hold.
    services().named(row)
    return jsonify(state_of(row))


@blueprint.post("/projects/<ident>/<any(undo, redo):way>")
@takes(revision=REVISION)
def step_back_or_forth(ident: str, way: str, given: dict[str, Any]) -> Any:
    """Take the last edit back, or make it again."""
    project_or_404(ident)
    step = projects.undo if way == "undo" else projects.redo
    row = step(services().db, ident, given["revision"], replayed)
    services().named(row)
    return jsonify(state_of(row if row.patch is not None else project_or_404(ident)))


@blueprint.post("/projects/<ident>/duplicate")
@takes()
def duplicate(ident: str, given: dict[str, Any]) -> Any:
    """A copy of a project, without its history."""
    document = dict(project_or_404(ident).document)
    document["name"] = f"{document['name'][:190]} copy"
    return jsonify(id=projects.create(services().db, document))


@blueprint.post("/projects/<ident>/delete")
@takes()
def delete(ident: str, given: dict[str, Any]) -> Any:
    """Put a project out of sight."""
    projects.delete(services().db, project_or_404(ident).id)
    return jsonify(deleted=ident)


@blueprint.post("/projects/<ident>/restore")
@takes()
def restore(ident: str, given: dict[str, Any]) -> Any:
    """Bring a deleted project back."""
    if is_ident(ident):
        projects.restore(services().db, ident)
    return jsonify(id=project_or_404(ident).id)


@blueprint.post("/projects/<ident>/purge")
@takes()
def purge(ident: str, given: dict[str, Any]) -> Any:
    """Forget a project in the bin for good, with its history and the files of its exports."""
    if not is_ident(ident) or not services().bin.purge(ident):
        abort(404, "There is no such project in the bin.")
    return jsonify(purged=ident)


@blueprint.get("/projects/<ident>/file")
def download_project(ident: str) -> Any:
    """The project with its media as a `.vdrum` file."""
    row, here = project_or_404(ident), services()
    files = {}
    for key in {track["media"] for track in row.document["tracks"]} | media_keys(row.document):
        known = media.find(here.db, key)
        if known is not None and here.folder.original(known).exists():
            files[known.key] = here.folder.original(known)
    answer = Response(bundle_pieces(row.document, files), mimetype="application/vnd.velvetdrum.project+zip")
    answer.headers.set("Content-Disposition", "attachment", filename=f"{file_name(row.name)}.vdrum")
    return answer


@blueprint.get("/schema.json")
def published_schema() -> Any:
    """The JSON Schema of a project's document."""
    return jsonify(schema())


@blueprint.get("/openapi.json")
def published_routes() -> Any:
    """The description of all routes (OpenAPI)."""
    return jsonify(described(current_app))


def _area(area: OverlayArea, size: FrameSize) -> list[float]:
    """An area of a frame as shares of its sides: left, top, width, height."""
    return [area.left / size.width, area.top / size.height, area.width / size.width, area.height / size.height]


def _poster_frame(row: projects.ProjectRow) -> dict[str, Any]:
    return {"address": url_for("picture.poster", ident=row.id, frame=_loudest(row), revision=row.revision)}


def _loudest(row: projects.ProjectRow) -> int:
    """The frame at which a project that is new to somebody opens; the first where nothing sounds."""
    sources = services().sources(row.document)
    marks = moments_of(row.document, (sources.analysis or None) if sources else None)
    return next((mark["frame"] for mark in marks if mark["name"] == "loudest"), 0)


def loudest_s(row: projects.ProjectRow) -> float:
    """The time of a project's loudest moment, in seconds."""
    return float(_loudest(row) / parse(row.document).rate)


def _kind(kind: str, cls: type[Declared]) -> dict[str, Any]:
    settings = [_setting(setting) for setting in cls.settings.values()]
    return {"kind": kind, "title": cls.title, "help": cls.help(), "settings": settings, "summary": cls.summary}


def _layer_kind(kind: str, cls: type[Layer]) -> dict[str, Any]:
    """A layer kind with what it says of itself."""
    handled = {
        "depth": cls.depth,
        "sizings": [asdict(sizing) for sizing in cls.sizings],
        "turned": cls.turned,
        "drops": cls.drops,
        "fits": cls.fits,
        "members": cls.holds_members,
        "camera": cls.camera,
        "balls": cls.balls,
        "drawnPath": cls.drawn_path,
        "drawnOn": cls.drawn_on,
        "gradientPlace": cls.gradient_place and asdict(cls.gradient_place),
        "levelScale": cls.level_scale and asdict(cls.level_scale),
        "sounding": cls.sounding,
        "sounds": cls.sounds,
        "linked": cls.linked,
        "outlined": cls.outlined,
        "parted": cls.parted,
        "running": cls.running,
    }
    return _kind(kind, cls) | handled


def _signal_kind(kind: str, cls: type[Signal]) -> dict[str, Any]:
    """A signal kind with what it says of itself."""
    reads = next((name for name, setting in cls.settings.items() if setting.names_signals), "")
    drawn = next((name for name, setting in cls.settings.items() if setting.is_curve), "")
    traits = {"band": cls.follows_band, "beats": cls.keeps_beats, "voice": cls.follows_voice}
    return _kind(kind, cls) | traits | {"reads": reads, "drawn": drawn}


def _sort(sort: PartSort) -> dict[str, Any]:
    kinds = [_kind(kind, cls) | _handled(cls) for kind, cls in sort.kinds.items()]
    return {
        "name": sort.name,
        "listed": sort.listed,
        "title": sort.listed.capitalize(),
        "help": sort.help,
        "optional": sort.optional,
        "kinds": kinds,
    }


def _handled(cls: type[Part]) -> dict[str, Any]:
    """The settings of a part that are handled on the picture."""
    names = ("points", "radii", "sizes", "turns", "corners", "follows")
    return {name: getattr(cls, name) for name in names}


def _setting(setting: Any) -> dict[str, Any]:
    return {
        "name": setting.name,
        "type": setting.type,
        "label": setting.label,
        "help": setting.help,
        "synonyms": synonyms_of(setting.label),
        "unit": setting.unit,
        "group": setting.group,
        "lo": setting.lo,
        "hi": setting.hi,
        "step": setting.step,
        "curve": setting.curve,
        "choices": setting.choices,
        "clear": setting.clear,
        "advanced": setting.advanced,
        "when": setting.when,
        "lines": setting.lines,
        "moves": setting.moves,
        "numeric": setting.numeric,
        "names_layer": setting.names_layer,
        "media": setting.media,
        "default": setting.default,
    }


def file_name(name: str) -> str:
    """A name that every system can store."""
    kept = "".join(c if c.isalnum() or c in " -_().," else "-" for c in name).strip(" .")
    return kept[:120] or "video"
