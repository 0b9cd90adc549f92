"""Palettes: kept under names across projects, read from pasted CSS, from a picture or from a frame."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, abort, jsonify, request

from velvetdrum.kinds.settings import SettingError, Stop, parse_stops
from velvetdrum.picture.paint.palettes import SHIPPED, evenly, parse_palette
from velvetdrum.scene.document import parse
from velvetdrum.store import palettes
from velvetdrum.studio import tasks
from velvetdrum.studio.asking import body, picture_bytes, project_or_404, services, whole

blueprint = Blueprint("palettes", __name__)


@blueprint.get("/palettes")
def listed() -> Any:
    """The palettes that were saved, then those that are always there, which have no id."""
    shipped = [{"id": None, "name": name, "stops": _stored(evenly(colours))} for name, colours in SHIPPED.items()]
    return jsonify(palettes=palettes.listed(services().db) + shipped)


@blueprint.post("/palettes")
def save() -> Any:
    given = body()
    name = given.get("name")
    if not isinstance(name, str) or not 0 < len(name.strip()) <= palettes.LONGEST_NAME:
        abort(422, f"A palette needs a name of up to {palettes.LONGEST_NAME} characters.")
    try:
        parse_stops(given.get("stops"), "The palette")
    except SettingError as problem:
        abort(422, str(problem))
    return jsonify(id=palettes.save(services().db, name.strip(), given["stops"]))


@blueprint.delete("/palettes/<ident>")
def delete(ident: str) -> Any:
    if not palettes.delete(services().db, ident):
        abort(404, "There is no such palette; it may have been deleted.")
    return jsonify(id=ident)


@blueprint.post("/palettes/read")
def read() -> Any:
    """Stops from pasted CSS."""
    text = body().get("text")
    return jsonify(stops=_stored(parse_palette(text if isinstance(text, str) else "")))


@blueprint.post("/palettes/picture")
def from_picture() -> Any:
    """Stops from the picture that the request's body is."""
    count = request.args.get("count", 5, type=int)
    return jsonify(stops=_stored(services().quickly(tasks.picture_palette, picture_bytes(), min(max(count, 2), 12))))


@blueprint.post("/projects/<ident>/palette")
def from_frame(ident: str) -> Any:
    """Stops from a frame of the project."""
    document = project_or_404(ident).document
    frame = whole(body(), "frame", 0, parse(document).frame_count - 1)
    found = services().quickly(tasks.frame_palette, document, services().sources(document), frame, 5)
    return jsonify(stops=_stored(found))


def _stored(stops: tuple[Stop, ...]) -> list[dict[str, Any]]:
    return [{"at": at, "colour": colour} for at, colour in stops]
