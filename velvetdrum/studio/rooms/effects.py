"""Effects: pictures to choose from, chains kept by name, look-up tables, and what a frame shows and costs."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, abort, jsonify

from velvetdrum.looks.effect_choices import CHAINS, effect_choices
from velvetdrum.picture.frame.moments import moments_of
from velvetdrum.picture.media.cube_files import MOST_BYTES
from velvetdrum.scene.document import new_layer, parse
from velvetdrum.scene.effects import EFFECT_FAMILIES, EFFECT_KINDS
from velvetdrum.scene.kinds import LAYER_KINDS
from velvetdrum.scene.migrate import VERSION
from velvetdrum.scene.problems import LayerGone, ProjectError
from velvetdrum.signals.kinds import SIGNAL_KINDS
from velvetdrum.store.shelf import CHAINS as KEPT_CHAINS
from velvetdrum.store.shelf import LONGEST_NAME
from velvetdrum.studio.http.fields import Text, Values, Whole
from velvetdrum.studio.http.requests import (
    CHOICE_RUN,
    DRAFT,
    FRAME,
    MOST_EDIT,
    drafted,
    file_bytes,
    is_ident,
    services,
    takes,
    takes_file,
    uploaded_name,
)
from velvetdrum.studio.workers import tasks
from velvetdrum.studio.workers.drawn_frames import with_pictures

blueprint = Blueprint("effects", __name__)

_WIDTH = 240


@blueprint.get("/effect-choices")
def choices() -> Any:
    """The effects that a layer can be given, by name, in the order that their pictures are asked for in."""
    listed = [
        {"family": choice.design.family, "name": choice.design.name, "help": EFFECT_KINDS[choice.kind].help()}
        for choice in effect_choices()
    ]
    return jsonify(families=EFFECT_FAMILIES, choices=listed)


@blueprint.post("/projects/<ident>/effect-choices")
@takes(layer=Text(64, "Id of the layer that is to have it"), **CHOICE_RUN)
def choice_pictures(ident: str, given: dict[str, Any]) -> Any:
    """A run of the effects that a layer can be given, each with a picture of the project with it, at the loudest
    moment."""
    named = drafted(ident)
    document = named.document
    if all(layer["id"] != given["layer"] for layer in document["layers"]):
        abort(404, "This layer is gone; another window may have deleted it.")
    here = services()
    sources = here.sources(document)
    marks = moments_of(document, (sources.analysis or None) if sources else None)
    frame = next((mark["frame"] for mark in marks if mark["name"] == "loudest"), 0)
    run = given["first"], given["count"]
    listed, packed = here.quickly(tasks.draw_effect_choices, named, sources, given["layer"], frame, _WIDTH, *run)
    return jsonify(choices=with_pictures(listed, packed), frame=frame)


@blueprint.get("/effect-chains")
def shelf() -> Any:
    """The chains that were kept, then those that ship, which have no id."""
    kept = [item | {"purpose": "yours"} for item in KEPT_CHAINS.listed(services().db)]
    shipped = [{"id": None, "name": item.name, "purpose": item.purpose, "chain": item.stored} for item in CHAINS]
    return jsonify(chains=kept + shipped)


@blueprint.post("/effect-chains")
@takes(
    MOST_EDIT,
    name=Text(1000, "Its name"),
    chain=Values(dict, "Its effects, as a layer has them, and the patches that move them; a signal may be empty"),
)
def keep(given: dict[str, Any]) -> Any:
    """Keep a row of effects under a name; one that has that name gets the new ones."""
    name, chain = given["name"].strip(), given["chain"]
    if not 0 < len(name) <= LONGEST_NAME:
        abort(422, f"A chain needs a name of up to {LONGEST_NAME} characters.")
    if set(chain) != {"effects", "patches"} or not isinstance(chain["effects"], list) or not chain["effects"]:
        abort(422, "A chain has at least one effect, and a list of patches.")
    if not isinstance(chain["patches"], list) or not all(isinstance(patch, dict) for patch in chain["patches"]):
        abort(422, "The patches of a chain are a list.")
    _judge(chain)
    return jsonify(id=KEPT_CHAINS.save(services().db, name, chain))


def _judge(chain: dict[str, Any]) -> None:
    """Refuse what no layer could have. Raises ProjectError."""
    layer = new_layer(next(iter(LAYER_KINDS))) | {"effects": chain["effects"]}
    signal = {"id": "s", "name": "S", "colour": "#e0ac55", "kind": next(iter(SIGNAL_KINDS)), "settings": {}}
    names = {"signal_name"}
    layer["patches"] = [
        {key: value for key, value in patch.items() if key not in names} | {"signal": "s"} for patch in chain["patches"]
    ]
    plain = {
        "format": "velvetdrum-project",
        "version": VERSION,
        "name": "Chain",
        "frame": {"width": 640, "height": 360},
        "rate": "30",
        "length_s": 1.0,
        "tracks": [],
        "signals": [signal],
        "layers": [layer],
    }
    try:
        parse(plain)
    except ProjectError as problem:
        # A chain is kept without the layers that its effects read: they are chosen where it is used.
        wrong = [item for item in problem.problems if not isinstance(item, LayerGone)]
        if wrong:
            abort(422, wrong[0].sentence)


@blueprint.delete("/effect-chains/<ident>")
def delete(ident: str) -> Any:
    """Remove a kept chain."""
    if not is_ident(ident) or not KEPT_CHAINS.delete(services().db, ident):
        abort(404, "There is no such chain; it may have been deleted.")
    return jsonify(id=ident)


@blueprint.post("/tables")
@takes_file("A look-up table: a .cube file", MOST_BYTES)
def bring_table() -> Any:
    """Keep the look-up table that the request's body is, for use in effects."""
    data = file_bytes(MOST_BYTES, "look-up table")
    return jsonify(services().keep_table(data, uploaded_name("Table")))


@blueprint.post("/projects/<ident>/readings")
@takes(
    MOST_EDIT,
    frame=FRAME,
    width=Whole(64, 1920, "Pixels across", default=640),
    **DRAFT,
)
def readings(ident: str, given: dict[str, Any]) -> Any:
    """What a frame shows, as instruments tell it, and what each layer and effect of it costs, in milliseconds at a
    width. `draft` as for frames."""
    named, here = drafted(ident, given), services()
    sources = here.sources(named.document)
    return jsonify(here.quickly(tasks.read_frame, named, sources, given["frame"], given["width"]))
