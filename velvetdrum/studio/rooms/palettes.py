"""Palettes: kept under names across projects, read from pasted CSS, from a picture or from a frame."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, abort, jsonify

from velvetdrum.declare.settings import SettingError, Stop, parse_stops
from velvetdrum.picture.figures.paint.palettes import SHIPPED, evenly, parse_palette
from velvetdrum.store.media import MOST_PICTURE
from velvetdrum.store.shelf import LONGEST_NAME, PALETTES
from velvetdrum.studio.http.fields import Text, Values, Whole
from velvetdrum.studio.http.requests import (
    FRAME,
    drafted,
    file_bytes,
    is_ident,
    queries,
    services,
    takes,
    takes_file,
)
from velvetdrum.studio.workers import tasks

blueprint = Blueprint("palettes", __name__)


@blueprint.get("/palettes")
def listed() -> Any:
    """The palettes that were saved, then those that are always there, which have no id."""
    shipped = [{"id": None, "name": name, "stops": _stored(evenly(colours))} for name, colours in SHIPPED.items()]
    return jsonify(palettes=PALETTES.listed(services().db) + shipped)


@blueprint.post("/palettes")
@takes(name=Text(1000, "Its name"), stops=Values(list, "Its colours: at, from 0 to 1, and colour, as #rrggbb"))
def save(given: dict[str, Any]) -> Any:
    """Keep a palette under a name; one that has that name gets the new colours."""
    name = given["name"]
    if not 0 < len(name.strip()) <= LONGEST_NAME:
        abort(422, f"A palette needs a name of up to {LONGEST_NAME} characters.")
    try:
        parse_stops(given["stops"], "The palette")
    except SettingError as problem:
        abort(422, str(problem))
    return jsonify(id=PALETTES.save(services().db, name.strip(), given["stops"]))


@blueprint.delete("/palettes/<ident>")
def delete(ident: str) -> Any:
    """Remove a saved palette."""
    if not is_ident(ident) or not PALETTES.delete(services().db, ident):
        abort(404, "There is no such palette; it may have been deleted.")
    return jsonify(id=ident)


@blueprint.post("/palettes/read")
@takes(text=Text(100_000, "Pasted CSS"))
def read(given: dict[str, Any]) -> Any:
    """Stops from pasted CSS."""
    return jsonify(stops=_stored(services().read(parse_palette, given["text"])))


@blueprint.post("/palettes/picture")
@queries(count=Whole(2, 12, "Colours", default=5))
@takes_file("A picture", MOST_PICTURE)
def from_picture(query: dict[str, Any]) -> Any:
    """Stops from the picture that the request's body is."""
    data = file_bytes(MOST_PICTURE, "picture")
    return jsonify(stops=_stored(services().read(tasks.picture_palette, data, query["count"])))


@blueprint.post("/projects/<ident>/palette")
@takes(frame=FRAME)
def from_frame(ident: str, given: dict[str, Any]) -> Any:
    """Stops from a frame of the project."""
    named = drafted(ident)
    last = named.project.frame_count - 1
    if given["frame"] > last:
        abort(400, f"frame needs a whole number from 0 to {last}.")
    result = services().quickly(tasks.frame_palette, named, services().sources(named.document), given["frame"], 5)
    return jsonify(stops=_stored(result))


def _stored(stops: tuple[Stop, ...]) -> list[dict[str, Any]]:
    return [{"at": at, "colour": colour} for at, colour in stops]
