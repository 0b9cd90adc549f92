"""The picture: frames for the page, drawn by the export's renderer in worker processes."""

from __future__ import annotations

import struct
from base64 import b64encode
from typing import Any
from urllib.parse import unquote

from flask import Blueprint, Response, abort, current_app, jsonify, request

from velvetdrum.picture.choices import FAMILIES
from velvetdrum.picture.footage.preparing import PROXY
from velvetdrum.picture.moments import moments_of
from velvetdrum.picture.shapes.svgfile import svg_path_data
from velvetdrum.scene.document import Document, parse
from velvetdrum.scene.edits import apply
from velvetdrum.store import media
from velvetdrum.studio import tasks
from velvetdrum.studio.asking import body, chunks, picture_bytes, project_or_404, services, whole

blueprint = Blueprint("picture", __name__)

_MOST_FRAMES = 64


@blueprint.post("/projects/<ident>/frames")
def frames(ident: str) -> Response:
    """Pictures of frames, packed as `tasks.draw_frames` says.

    `draft` is a JSON Patch that is drawn but not kept: what a slider shows while it is being dragged. `only` is
    the id of the one layer to draw.
    """
    given = body()
    document = project_or_404(ident).document
    if given.get("draft"):
        document, _ = apply(document, given["draft"])
    if given.get("only"):
        document = _only(document, str(given["only"]))
    document = _in_frame(document, given)
    numbers = given.get("frames")
    last = parse(document).frame_count - 1
    if not isinstance(numbers, list) or not 1 <= len(numbers) <= _MOST_FRAMES:
        abort(400, f"Ask for 1 to {_MOST_FRAMES} frames.")
    if not all(isinstance(number, int) and not isinstance(number, bool) for number in numbers):
        abort(400, "Frames are whole numbers.")
    chosen = [min(max(number, 0), last) for number in numbers]
    form = given.get("form", "jpeg")
    if form not in ("jpeg", "png", "webp"):
        abort(400, "Pictures come as jpeg, png or webp.")
    return _packed(document, chosen, whole(given, "width", 16, 3840), form)


@blueprint.get("/projects/<ident>/poster")
def poster(ident: str) -> Response:
    """One small frame as a JPEG, for lists of projects."""
    document = project_or_404(ident).document
    frame = request.args.get("frame", 0, type=int)
    packed = _draw(document, [min(max(frame, 0), parse(document).frame_count - 1)], 640, "jpeg")
    _, size = struct.unpack_from("<II", packed)
    answer = Response(packed[8 : 8 + size], mimetype="image/jpeg")
    answer.headers["Cache-Control"] = "private, max-age=86400"
    return answer


@blueprint.post("/projects/<ident>/choices")
def choices(ident: str) -> Any:
    """The figures that can be added, drawn from the project's own sound at its loudest moment: layers, and their
    pictures as data for `img`."""
    document = project_or_404(ident).document
    sources = services().sources(document)
    marks = moments_of(document, (sources.analysis or None) if sources else None)
    frame = next((mark["frame"] for mark in marks if mark["name"] == "loudest"), 0)
    listed, packed = services().quickly(tasks.draw_choices, document, sources, frame, 288)
    place = 0
    for item in listed:
        _, size = struct.unpack_from("<II", packed, place)
        item["picture"] = "data:image/jpeg;base64," + b64encode(packed[place + 8 : place + 8 + size]).decode()
        place += 8 + size
    return jsonify(families=FAMILIES, choices=listed)


@blueprint.post("/projects/<ident>/pictures")
def bring_picture(ident: str) -> Any:
    """Keep the picture that the request's body is, for use in a project."""
    project_or_404(ident)
    name = unquote(request.headers.get("X-File-Name", "Picture"))
    return jsonify(services().keep_picture(picture_bytes(), name))


@blueprint.post("/projects/<ident>/clips")
def bring_clip(ident: str) -> Any:
    """Take the clip that the request's body is; its progress is asked for as that of a sound."""
    project_or_404(ident)
    here, limit = services(), current_app.config["UPLOAD_LIMIT"]
    name = unquote(request.headers.get("X-File-Name", "Clip"))
    received, part = here.folder.receive(chunks(), name, limit)
    return jsonify(here.begin_clip(received, part, ident)), 202


@blueprint.get("/projects/<ident>/missing")
def missing(ident: str) -> Any:
    """Pictures and clips whose files are not here."""
    return jsonify(services().missing_media(project_or_404(ident).document))


@blueprint.get("/clips/<key>")
def clip(key: str) -> Any:
    """What is known of a clip."""
    row = media.find(services().db, key) if key.isalnum() and len(key) == 64 else None
    if row is None or not (row.facts or {}).get("clip"):
        abort(404, "There is no such clip here.")
    return jsonify({"key": row.key, "name": row.name} | (row.facts or {}))


@blueprint.post("/projects/<ident>/handles")
def find_handles(ident: str) -> Any:
    """Where the layers lie at a frame, in pixels of the project's frame or of one of another `size`, and what falls
    outside of it. `draft` as for frames."""
    given = body()
    document = project_or_404(ident).document
    if given.get("draft"):
        document, _ = apply(document, given["draft"])
    document = _in_frame(document, given)
    frame = min(whole(given, "frame", 0, 1 << 40), parse(document).frame_count - 1)
    size = document["frame"]
    here = services()
    return jsonify(here.quickly(tasks.find_handles, document, here.sources(document), frame, size["width"],
                                size["height"]))  # fmt: skip


@blueprint.get("/pictures/<key>")
def picture(key: str) -> Any:
    """A stored picture as a small JPEG."""
    row = media.find(services().db, key) if key.isalnum() and len(key) == 64 else None
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
def read_path() -> Any:
    """The shapes of the SVG file that the request's body is, as path data."""
    return jsonify(path=svg_path_data(picture_bytes()))


@blueprint.get("/projects/<ident>/moments")
def moments(ident: str) -> Any:
    document = project_or_404(ident).document
    sources = services().sources(document)
    return jsonify(moments_of(document, (sources.analysis or None) if sources else None))


def _packed(document: Document, numbers: list[int], width: int, form: str) -> Response:
    answer = Response(_draw(document, numbers, width, form), mimetype="application/octet-stream")
    answer.headers["Cache-Control"] = "no-store"
    return answer


def _draw(document: Document, numbers: list[int], width: int, form: str) -> bytes:
    here = services()
    return here.quickly(tasks.draw_frames, document, here.sources(document), numbers, width, form)


def _in_frame(document: Document, given: dict[str, Any]) -> Document:
    """The document as it is, or in a frame of another size: what `size` says, as width and height."""
    size = given.get("size")
    if size is None:
        return document
    if not isinstance(size, list) or len(size) != 2:
        abort(400, "size is a width and a height.")
    return {**document, "frame": {"width": size[0], "height": size[1]}}


def _only(document: Document, layer: str) -> Document:
    """The document with one layer drawn alone, a group with its members. Others stay, hidden, for masks."""
    inside = {layer}
    for _ in document["layers"]:
        inside |= {item["id"] for item in document["layers"] if item.get("group") in inside}
    shown = [
        {**item, "visible": item["id"] == layer or (item["id"] in inside and item["visible"]), "solo": False,
         "group": "" if item["id"] == layer else item.get("group", "")}
        for item in document["layers"]
    ]  # fmt: skip
    return {**document, "layers": shown}
