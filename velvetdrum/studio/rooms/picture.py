"""The picture: frames for the page, drawn by the export's renderer in worker processes."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, current_app, jsonify, render_template

from velvetdrum.looks.presets import choices as all_choices
from velvetdrum.picture.bases.layer import takes_behind
from velvetdrum.picture.frame.moments import moments_of
from velvetdrum.picture.media.clips.preparation import PROXY
from velvetdrum.picture.media.clips.scene_cuts import scene_cuts
from velvetdrum.scene.designs import FAMILIES
from velvetdrum.scene.document import Document
from velvetdrum.store import media
from velvetdrum.store.media import MOST_PICTURE
from velvetdrum.studio.http.fields import ListOf, OneOf, Real, Text, Whole
from velvetdrum.studio.http.requests import (
    CHOICE_RUN,
    DRAFT,
    FRAME,
    MOST_EDIT,
    UPLOAD_LIMIT,
    chunks,
    drafted,
    file_bytes,
    is_key,
    project_or_404,
    queries,
    services,
    takes,
    takes_file,
    uploaded_name,
)
from velvetdrum.studio.workers import tasks
from velvetdrum.studio.workers.drawn_frames import unpacked, with_pictures
from velvetdrum.studio.workers.layer_pictures import draw_layer
from velvetdrum.studio.workers.outlines import layer_parts, layer_path
from velvetdrum.studio.workers.scenes import NamedScene

blueprint = Blueprint("picture", __name__)

MOST_SVG = 8_000_000

_MOST_FRAMES = 64
_CUT_SPAN_S = 60.0
_MOMENT_WIDTH, _THUMB_WIDTH = 260, 92
"""Pixels across of the pictures under the stage, and of those in the list of layers."""

_SIZE = ListOf(Whole(64, 4096), 2, 2, "Width and height of another frame", default=None)


@blueprint.get("/projects/<ident>/picture-window")
def picture_window(ident: str) -> str:
    """The page of a window for the picture alone; the studio's own draws into it."""
    return render_template("picture_window.html", row=project_or_404(ident))


@blueprint.post("/projects/<ident>/frames")
@takes(
    MOST_EDIT,
    frames=ListOf(Whole(-(1 << 31), 1 << 31), 1, _MOST_FRAMES, "Numbers of frames"),
    width=Whole(16, 3840, "Pixels across"),
    form=OneOf("jpeg", "png", "webp", default="jpeg"),
    **DRAFT,
    only=Text(64, "Id of the one layer to draw", default=None),
    size=_SIZE,
)
def frames(ident: str, given: dict[str, Any]) -> Response:
    """Pictures of frames, packed as `tasks.draw_frames` says.

    `draft` is a JSON Patch that is drawn but not kept: what a slider shows while it is being dragged. `only` is
    the id of the one layer to draw.
    """
    named = _in_frame(drafted(ident, given), given["size"])
    if given["only"]:
        named = named.changed(_only(named.document, given["only"]))
    last = named.project.frame_count - 1
    chosen = [min(max(number, 0), last) for number in given["frames"]]
    answer = Response(
        services().frames(named, chosen, given["width"], given["form"]), mimetype="application/octet-stream"
    )
    answer.headers["Cache-Control"] = "no-store"
    return answer


@blueprint.get("/projects/<ident>/poster")
@queries(frame=Whole(-(1 << 31), 1 << 31, "Number of a frame", default=0))
def poster(ident: str, query: dict[str, Any]) -> Response:
    """One small frame as a JPEG, for lists of projects."""
    named = drafted(ident)
    frame = min(max(query["frame"], 0), named.project.frame_count - 1)
    packed = services().frames(named, [frame], 640, "jpeg")
    ((_, data),) = unpacked(packed)
    answer = Response(data, mimetype="image/jpeg")
    answer.headers["Cache-Control"] = "private, max-age=86400"
    return answer


@blueprint.get("/choices")
def choices() -> Any:
    """The figures that can be added, by name, in the order that their pictures are asked for in."""
    listed = [{"family": choice.design.family, "name": choice.design.name} for choice in all_choices()]
    return jsonify(families=FAMILIES, choices=listed)


@blueprint.post("/projects/<ident>/choices")
@takes(**CHOICE_RUN)
def choice_pictures(ident: str, given: dict[str, Any]) -> Any:
    """A run of the figures that can be added, drawn from the project's own sound at its loudest moment: layers, and
    their pictures as data for `img`."""
    named = drafted(ident)
    sources = services().sources(named.document)
    marks = moments_of(named.document, (sources.analysis or None) if sources else None)
    frame = next((mark["frame"] for mark in marks if mark["name"] == "loudest"), 0)
    listed, packed = services().quickly(tasks.draw_choices, named, sources, frame, 288, given["first"], given["count"])
    return jsonify(choices=with_pictures(listed, packed))


@blueprint.post("/projects/<ident>/pictures")
@takes_file("A picture", MOST_PICTURE)
def bring_picture(ident: str) -> Any:
    """Keep the picture that the request's body is, for use in a project."""
    project_or_404(ident)
    data = file_bytes(MOST_PICTURE, "picture")
    return jsonify(services().keep_picture(data, uploaded_name("Picture")))


@blueprint.post("/projects/<ident>/clips")
@takes_file("A clip", UPLOAD_LIMIT)
def bring_clip(ident: str) -> Any:
    """Take the clip that the request's body is; its progress is asked for as that of a sound."""
    project_or_404(ident)
    here, limit = services(), current_app.config["UPLOAD_LIMIT"]
    received, part = here.folder.receive(chunks(), uploaded_name("Clip"), limit)
    return jsonify(here.imports.begin_clip(received, part, ident)), 202


@blueprint.get("/projects/<ident>/missing")
def missing(ident: str) -> Any:
    """Pictures and clips whose files are not here."""
    return jsonify(services().missing_media(project_or_404(ident).document))


@blueprint.get("/clips/<key>")
def clip(key: str) -> Any:
    """What is known of a clip."""
    row = media.find(services().db, key) if is_key(key) else None
    if row is None or not (row.facts or {}).get("clip"):
        abort(404, "There is no such clip here.")
    return jsonify({"key": row.key, "name": row.name} | (row.facts or {}))


@blueprint.get("/clips/<key>/cuts")
@queries(from_s=Real(0, 1e6, "s", default=0.0), to_s=Real(0, 1e6, "s", default=_CUT_SPAN_S))
def cuts(key: str, query: dict[str, Any]) -> Any:
    """Seconds at which a new shot of a clip begins, within a stretch of a minute at the most."""
    row = media.find(services().db, key) if is_key(key) else None
    proxy = services().folder.clip(key) / PROXY if row is not None else None
    if proxy is None or not proxy.exists():
        abort(404, "There is no such clip here, or it is still being prepared.")
    start, stop = query["from_s"], min(query["to_s"], query["from_s"] + _CUT_SPAN_S)
    return jsonify(cuts=services().quickly(scene_cuts, str(proxy), start, stop))


@blueprint.post("/projects/<ident>/handles")
@takes(MOST_EDIT, frame=FRAME, **DRAFT, size=_SIZE)
def find_handles(ident: str, given: dict[str, Any]) -> Any:
    """Where the layers lie at a frame, in pixels of the project's frame or of one of another `size`, and what falls
    outside of it. `draft` as for frames."""
    named = _in_frame(drafted(ident, given), given["size"])
    frame = min(given["frame"], named.project.frame_count - 1)
    size = named.document["frame"]
    here = services()
    sources = here.sources(named.document)
    return jsonify(here.quickly(tasks.find_handles, named, sources, frame, size["width"], size["height"]))


@blueprint.get("/pictures/<key>")
def picture(key: str) -> Any:
    """A stored picture as a small JPEG."""
    row = media.find(services().db, key) if is_key(key) else None
    facts = (row.facts or {}) if row is not None else {}
    if row is None or not (facts.get("picture") or facts.get("clip")):
        abort(404, "There is no such picture here.")
    proxy = services().folder.clip(key) / PROXY
    path = services().folder.original(row) if facts.get("picture") else proxy
    if not path.exists():
        abort(404, "This file is not here, or it is still being prepared.")
    data = services().quickly(tasks.small_picture, str(path), 200)
    answer = Response(data, mimetype="image/jpeg")
    answer.headers["Cache-Control"] = "private, max-age=86400, immutable"
    return answer


@blueprint.post("/paths")
@takes_file("An SVG file", MOST_SVG)
def read_path() -> Any:
    """The shapes of the SVG file that the request's body is, as path data."""
    return jsonify(path=services().read(tasks.read_paths, file_bytes(MOST_SVG, "SVG file")))


@blueprint.post("/projects/<ident>/layers/<layer>/path")
@takes(frame=Whole(0, 1 << 31, "Number of the frame at which it is taken", default=0))
def path_of_layer(ident: str, layer: str, given: dict[str, Any]) -> Any:
    """The outlines of a text or a logo as path data, and where a shape of them lies; nothing is changed."""
    named, here = services().named(project_or_404(ident)), services()
    if layer not in named.project.by_id:
        abort(404, "This project has no such layer.")
    sources = here.sources(named.document)
    return jsonify(here.quickly(layer_path, named, sources, layer, min(given["frame"], named.project.frame_count - 1)))


@blueprint.post("/projects/<ident>/layers/<layer>/parts")
def parts_of_layer(ident: str, layer: str) -> Any:
    """The parts of an SVG logo that may be layers of their own, the hindmost first; nothing is changed."""
    named, here = services().named(project_or_404(ident)), services()
    if layer not in named.project.by_id:
        abort(404, "This project has no such layer.")
    return jsonify(parts=here.quickly(layer_parts, named, here.sources(named.document), layer))


@blueprint.get("/projects/<ident>/moments")
def moments(ident: str) -> Any:
    """The moments at which a design is judged."""
    document = project_or_404(ident).document
    sources = services().sources(document)
    return jsonify(moments_of(document, (sources.analysis or None) if sources else None))


@blueprint.post("/projects/<ident>/small-pictures")
@takes(
    frame=Whole(0, 1 << 31, "Number of the frame that is looked at; none: no moments are asked for", default=None),
    layers=ListOf(Text(64), 0, 12, "Ids of layers whose small pictures are asked for", default=()),
    size=_SIZE,
)
def small_pictures(ident: str, given: dict[str, Any]) -> Any:
    """All small pictures that an edit changed, in one answer: the moments and the frame that is looked at, and layers
    alone, each at a moment at which it is seen, cut to what it paints; as data for `img`."""
    named = _in_frame(drafted(ident), given["size"])
    here, last = services(), named.project.frame_count - 1
    sources = here.sources(named.document)
    marks = moments_of(named.document, (sources.analysis or None) if sources else None)
    width = named.document["frame"]["width"]
    answer: dict[str, Any] = {"moments": [], "now": "", "layers": {}}
    if given["frame"] is not None:
        chosen = [mark["frame"] for mark in marks] + [min(given["frame"], last)]
        drawn = with_pictures([*marks, {}], services().frames(named, chosen, min(_MOMENT_WIDTH, width), "jpeg"))
        answer["now"] = drawn.pop()["picture"]
        answer["moments"] = drawn
    # The loudest first, then the others.
    marked = [mark["frame"] for mark in sorted(marks, key=lambda mark: mark["name"] != "loudest")] or [0]
    known = {layer["id"] for layer in named.document["layers"]}
    for layer in dict.fromkeys(given["layers"]):
        if layer in known:
            alone = named.changed(_only(named.document, layer))
            (item,) = with_pictures([{}], _layer_picture(alone, marked, min(_THUMB_WIDTH, width)))
            answer["layers"][layer] = item["picture"]
    return jsonify(answer)


def _layer_picture(named: NamedScene, frames: list[int], width: int) -> bytes:
    here = services()
    sources = here.sources(named.document)

    def draw(_: list[int]) -> bytes:
        return bytes(here.quickly(draw_layer, named, sources, frames, width))

    return here.drawn.packed(named.scene.name, sources, [0], width, "layer", draw)


def _in_frame(named: NamedScene, size: list[int] | None) -> NamedScene:
    """A project as it is, or in a frame of another width and height."""
    if size is None:
        return named
    frame = {"width": size[0], "height": size[1]}
    return named.drafted([{"op": "replace", "path": "/frame", "value": frame}])


def _only(document: Document, layer: str) -> Document:
    """The document with one layer drawn alone, a group with its members; one whose picture is what is behind it with
    that. Others stay, hidden, for masks."""
    place = next((n for n, item in enumerate(document["layers"]) if item["id"] == layer), None)
    if place is not None and takes_behind(document["layers"][place]["kind"]):
        behind, own = document["layers"][:place], document["layers"][place]
        front = [{**item, "visible": False} for item in document["layers"][place + 1 :]]
        return {**document, "layers": [*behind, {**own, "visible": True}, *front]}
    inside = {layer}
    for _ in document["layers"]:
        inside |= {item["id"] for item in document["layers"] if item.get("group") in inside}
    shown = [
        {
            **item,
            "visible": item["id"] == layer or (item["id"] in inside and item["visible"]),
            "solo": False,
            "group": "" if item["id"] == layer else item.get("group", ""),
        }
        for item in document["layers"]
    ]
    return {**document, "layers": shown}
