"""Looks: whole designs for a project's sound, moving to it, and what goes into their open places."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, jsonify, redirect, render_template, url_for

from velvetdrum.deliver.bundle import bundle_pieces
from velvetdrum.deliver.export import Job, Sources
from velvetdrum.deliver.plan import in_rate, plan_wanted
from velvetdrum.scene.document import Document, media_keys, parse
from velvetdrum.scene.edits import apply, upgrade_step
from velvetdrum.scene.frames import SHAPES
from velvetdrum.scene.look_section import LONGEST_NAME as LONGEST_TAG
from velvetdrum.scene.look_section import MOST_TAGS, PACES, PLACES, USES, parse_colours
from velvetdrum.scene.problems import Problem
from velvetdrum.store import media, projects
from velvetdrum.store.shelf import LONGEST_NAME, LOOKS
from velvetdrum.studio.http.fields import Flag, ListOf, OneOf, Text, Values, Whole
from velvetdrum.studio.http.requests import (
    REVISION,
    import_or_404,
    is_ident,
    project_or_404,
    queries,
    services,
    state_of,
    takes,
)
from velvetdrum.studio.jobs.imports import title_of
from velvetdrum.studio.rooms.export import WANTED, estimate_of
from velvetdrum.studio.rooms.start import file_name, loudest_s
from velvetdrum.studio.workers import look_tasks

blueprint = Blueprint("looks", __name__)

_WIDTH, _RATE, _SECONDS = 320, 12, 4
_MOST_FRAMES = _RATE * _SECONDS
_MOST_OTHERS = 100
_MEDIA = Text(64, "Content hash of a file that is here", default="")
FILLING = {
    "title": Text(300, "Title", default=""),
    "artist": Text(300, "Artist", default=""),
    "speaker": Text(300, "Who speaks", default=""),
    "cover": _MEDIA,
    "film": _MEDIA,
    "photo": Flag("True where the film is a photo", default=False),
    "words": Values(dict, "Cues by their ids, as a document has them", default={}),
    "language": Text(35, "Language of the words (BCP 47)", default="en"),
    "colours": Values(dict, "Project colours by name, as #rrggbb", default={}),
    "frame": OneOf(*SHAPES, about="Shape of the frame; the look's own without it", default=None),
}

_MOVING = FILLING | {
    "first": Whole(0, _MOST_FRAMES - 1, "The first of its pictures", default=0),
    "count": Whole(1, _MOST_FRAMES, "How many", default=_MOST_FRAMES),
}


@blueprint.get("/projects/<ident>/looks")
@queries(others=Text(2000, "Ids of projects that get the same look, with commas between", default=""))
def looks_page(ident: str, query: dict[str, Any]) -> Any:
    """Looks for a project's sound, and for those of others that were brought in with it."""
    others = [other for other in query["others"].split(",") if other][:_MOST_OTHERS]
    return render_template("looks.html", given=_given(ident) | {"others": [_other(other) for other in others]})


def _other(ident: str) -> dict[str, Any]:
    row = project_or_404(ident)
    return {"id": ident, "name": row.name, "revision": row.revision, "document": {"tracks": row.document["tracks"]}}


@blueprint.get("/projects/<ident>/looks/given")
def given_of_page(ident: str) -> Any:
    """What the page of looks needs to know of a project: it has stood there since its sound began to come in."""
    return jsonify(_given(ident))


@blueprint.get("/imports/<ident>/looks")
def looks_of_opening(ident: str) -> Any:
    """Looks for a sound that is still being listened to, of whose first seconds all is known."""
    row = import_or_404(ident)
    if row.project_id:
        return redirect(url_for("looks.looks_page", ident=row.project_id))
    if row.state != "running":
        abort(409, row.sentence or "This sound was not brought in. Bring it in again.")
    name = title_of(row.media.name)
    track = {"media": row.media.key, "name": row.media.name, "in_s": 0.0, "out_s": 0.0}
    project = {"id": "", "revision": 0, "document": {"name": name, "tags": {}, "tracks": [track]}}
    given = {"project": project, "import": ident, "begins": 0.0, "others": [], "media": {}, "words": {"cues": {}}}
    return render_template("looks.html", given=_choices() | given)


def _given(ident: str) -> dict[str, Any]:
    row = project_or_404(ident)
    if not row.document["tracks"]:
        abort(409, "There is no sound in this project yet. Bring one in first.")
    known = media.find(services().db, row.document["tracks"][0]["media"])
    film = _named_media(known.key) if known and (known.facts or {}).get("clip") else None
    begins = look_tasks.begins_s(loudest_s(row))
    held = look_tasks.held_places(row.document)
    media_here = {kind: _named_media(key) for kind, key in held.items()} | ({"film": film} if film else {})
    words = next(iter(row.document.get("cue_tracks", {}).values()), {"cues": {}, "language": "en"})
    return _choices() | {
        "project": state_of(row),
        "import": "",
        "others": [],
        "begins": begins,
        "media": {kind: known for kind, known in media_here.items() if known},
        "words": {"cues": words["cues"], "language": words["language"]},
    }


def _named_media(key: str) -> dict[str, Any] | None:
    known = media.find(services().db, key)
    return {"key": key, "name": known.name, "photo": bool((known.facts or {}).get("picture"))} if known else None


def _choices() -> dict[str, Any]:
    return {
        "uses": list(USES.items()),
        "paces": list(PACES.items()),
        "shapes": [[shape, shape.capitalize()] for shape in SHAPES],
        "moving": {"rate": _RATE, "frames": _MOST_FRAMES},
    }


@blueprint.get("/looks")
def listed() -> Any:
    """The looks that were kept, then those that ship, which have no id of a kept one."""
    kept = [
        _described(row["id"], row["look"], True)
        for row in LOOKS.listed(services().db)
        if row["look"].get("look") is not None
    ]
    shipped = [_described(ident, document, False) for ident, document in look_tasks.shipped().items()]
    order = list(SHAPES)
    return jsonify(looks=kept + sorted(shipped, key=lambda look: (order.index(look["frame"]), look["name"])))


def _described(ident: str, document: Document, own: bool) -> dict[str, Any]:
    section = parse(document).look
    assert section is not None
    shape = next(shape for shape in SHAPES if parse(document).frame.shape == shape)
    places = [{"kind": place.kind, "title": PLACES[place.kind], "optional": place.optional} for place in section.places]
    return {
        "id": ident,
        "name": document["name"],
        "about": section.about,
        "uses": list(section.uses),
        "pace": section.pace,
        "family": section.family,
        "frame": shape,
        "places": places,
        "colours": document.get("colours", {}),
        "own": own,
        "tags": list(section.tags),
        "notes": list(section.gone),
    }


def look_or_404(ident: str) -> Document:
    """A look's document by its id, of those that ship or were kept."""
    shipped = look_tasks.shipped().get(ident)
    if shipped is not None:
        return shipped
    kept = next((row["look"] for row in LOOKS.listed(services().db) if row["id"] == ident), None)
    if kept is None:
        abort(404, "There is no such look; it may have been deleted.")
    result: Document = kept
    return result


@blueprint.post("/looks/colours")
@takes(
    picture=Text(64, "Content hash of a picture that is here"),
    names=ListOf(Text(40, "Name of a project colour"), 1, 12, "The colours that are wanted"),
)
def colours_of(given: dict[str, Any]) -> Any:
    """Project colours out of a picture: a dark ground, an ink that can be read on it, accents."""
    here = services()
    shown = {"layers": [{"kind": "logo", "settings": {"image": given["picture"]}, "id": "picture"}], "tracks": []}
    sources = here.sources(shown)
    if sources is None:
        abort(404, "There is no such picture here.")
    task = (sources.media[given["picture"]], given["picture"], given["names"])
    return jsonify(colours=here.quickly(look_tasks.picture_colours, *task))


@blueprint.post("/projects/<ident>/looks/<look>/moving")
@takes(**_MOVING)
def moving(ident: str, look: str, given: dict[str, Any]) -> Response:
    """Pictures of a look with the project's sound in it, of the four seconds about its loudest moment, 12 a second,
    packed as `tasks.draw_frames` says."""
    return _moving_to(ident, look, given)


@blueprint.post("/imports/<ident>/looks/<look>/moving")
@takes(**_MOVING)
def moving_to_opening(ident: str, look: str, given: dict[str, Any]) -> Response:
    """Pictures of a look with the first seconds of a sound that is still being listened to."""
    row, here = import_or_404(ident), services()
    if row.project_id:
        return _moving_to(row.project_id, look, given)
    opening = here.imports.opening(row)
    if not opening:
        abort(409, "The first seconds of this sound are not known yet. Ask again in a moment.")
    try:
        track = here.quickly(look_tasks.opening_track, opening, row.media.key, row.media.name)
        return _moving(look_or_404(look), track, Sources(analysis=opening), given)
    except OSError:
        # All of it was known before this was drawn.
        return abort(409, "All of this sound is known by now. Ask again in a moment.")


def _moving_to(ident: str, look: str, given: dict[str, Any]) -> Response:
    row = project_or_404(ident)
    document = look_or_404(look)
    return _moving(document, row.document["tracks"][0], services().sources(_reading(row.document, given)), given)


def _moving(look: Document, track: Document, sources: Sources | None, given: dict[str, Any]) -> Response:
    if sources is None:
        abort(409, "The sound of this project is not here any more. Bring it in again.")
    task = (look, _filling(given), track, sources, given["frame"])
    packed = services().quickly(look_tasks.draw_look, *task, _WIDTH, _RATE, given["first"], given["count"])
    answer = Response(packed, mimetype="application/octet-stream")
    answer.headers["Cache-Control"] = "no-store"
    return answer


@blueprint.post("/projects/<ident>/looks/<look>/estimate")
@takes(**(WANTED | FILLING))
def estimate_look(ident: str, look: str, given: dict[str, Any]) -> Any:
    """How long a video of a project in a look would take and how large it would be, from a few frames of it."""
    row, here = project_or_404(ident), services()
    sources = here.sources(_reading(row.document, given))
    task = (look_or_404(look), _filling(given), row.document["tracks"][0], sources, given["frame"])
    document = in_rate(here.quickly(look_tasks.fill_look, *task), given)
    return jsonify(estimate_of(Job(document, sources, plan_wanted(document, given | {"frame": None}), "")))


@blueprint.post("/projects/<ident>/look")
@takes(revision=REVISION, look=Text(64, "Id of a look"), **FILLING)
def take_look(ident: str, given: dict[str, Any]) -> Any:
    """Put a look in place of a project's design; its track, its words and its tags stay where the look has places."""
    row, here = project_or_404(ident), services()
    document = look_or_404(given["look"])
    sources = here.sources(_reading(row.document, given))
    fitted = here.quickly(
        look_tasks.fill_look, document, _filling(given), row.document["tracks"][0], sources, given["frame"]
    )
    made = look_tasks.swapped(row.document, fitted)
    patch = [
        {"op": "add", "path": f"/{name}", "value": made[name]} for name in made if made[name] != row.document.get(name)
    ]
    state = projects.edit(
        here.db, ident, given["revision"], f"Look: {document['name']}"[:120], patch, apply, upgrade_step
    )
    here.named(state)
    return jsonify(state_of(state))


@blueprint.post("/projects/<ident>/recolour")
@takes(colours=Values(dict, "Project colours that change, by name, as #rrggbb", default={}))
def recolour(ident: str, given: dict[str, Any]) -> Any:
    """The patch that changes project colours with all that is near them, or finds them where there are none. Nothing is
    changed."""
    row = project_or_404(ident)
    _check_colours(given["colours"])
    return jsonify(patch=services().quickly(look_tasks.recolour, row.document, given["colours"]))


@blueprint.post("/projects/<ident>/looks")
@takes(
    name=Text(200, "Its name"),
    about=Text(160, "What it is, in one line", default=""),
    layers=ListOf(Text(64, "Id of a layer"), 0, 300, "The layers that become it; all without any", default=None),
    uses=ListOf(OneOf(*USES), 0, len(USES), "What it is for; anything without", default=[]),
    tags=ListOf(Text(LONGEST_TAG, "Tag", least=1), 0, MOST_TAGS, "Words that it is found by", default=[]),
)
def keep(ident: str, given: dict[str, Any]) -> Any:
    """Keep a project's design as a look: its layers with their signals, without its sound; pictures, clips, cues and
    tags become open places."""
    row, here = project_or_404(ident), services()
    name = given["name"].strip()
    if not 0 < len(name) <= LONGEST_NAME:
        abort(422, f"A look needs a name of up to {LONGEST_NAME} characters.")
    words = (name, given["about"].strip(), given["layers"], given["uses"], given["tags"])
    task = (row.document, here.sources(row.document), *words)
    document = here.quickly(look_tasks.keep_look, *task)
    return jsonify(id=LOOKS.save(here.db, name, document))


@blueprint.get("/looks/<ident>/file")
def download(ident: str) -> Response:
    """A look as a `.vdrum` file, with the typefaces and tables that it needs; brought in again it is a look."""
    document, here = look_or_404(ident), services()
    known = (media.find(here.db, key) for key in media_keys(document))
    files = {row.key: here.folder.original(row) for row in known if row and here.folder.original(row).exists()}
    answer = Response(bundle_pieces(document, files), mimetype="application/vnd.velvetdrum.project+zip")
    answer.headers.set("Content-Disposition", "attachment", filename=f"{file_name(document['name'])}.vdrum")
    return answer


@blueprint.delete("/looks/<ident>")
def delete(ident: str) -> Any:
    """Remove a look that was kept."""
    if not is_ident(ident) or not LOOKS.delete(services().db, ident):
        abort(404, "There is no such look; it may have been deleted.")
    return jsonify(id=ident)


def _check_colours(colours: dict[str, Any]) -> None:
    problems: list[Problem] = []
    parse_colours(colours, problems)
    if problems:
        abort(422, problems[0].sentence)


def _filling(given: dict[str, Any]) -> dict[str, Any]:
    _check_colours(given["colours"])
    return {name: given[name] for name in FILLING if name != "frame"}


def _reading(document: Document, given: dict[str, Any]) -> Document:
    """A document that shows what a filling brings, so that its files are known."""
    shown = [
        {"kind": kind, "settings": {setting: given[name]}, "id": name}
        for name, kind, setting in (
            ("cover", "logo", "image"),
            ("film", "picture" if given["photo"] else "footage", "image" if given["photo"] else "clip"),
        )
        if given[name]
    ]
    return document | {"layers": [*document["layers"], *shown]}
