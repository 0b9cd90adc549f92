"""Projects as a whole: begun without a sound, tagged, and what of the data folder nothing needs any more."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from flask import Blueprint, abort, jsonify

from velvetdrum.looks.default_design import design_on_picture, nearest_frame
from velvetdrum.scene.document import new_document
from velvetdrum.scene.frames import FRAMES, RATES, FrameError, FrameSize, parse_rate
from velvetdrum.store import project_tags, projects
from velvetdrum.store.db import StoreError
from velvetdrum.store.media import MOST_PICTURE
from velvetdrum.store.project_tags import LONGEST_TAG
from velvetdrum.studio.http.fields import ListOf, OneOf, Real, Text
from velvetdrum.studio.http.requests import file_bytes, is_ident, services, takes, takes_file, uploaded_name
from velvetdrum.studio.jobs.imports import title_of

blueprint = Blueprint("projects", __name__)

_PICTURE_S = 10.0
"""How long a project is that began with a picture."""
_TAGS = ListOf(Text(LONGEST_TAG, "Tag", least=1), 0, 20, "Tags", default=None)


@blueprint.post("/projects")
@takes(
    name=Text(200, "Its name", default="Untitled"),
    frame=Text(20, "A frame by its name, or a size like 1920x1080", default="wide"),
    rate=Text(20, "Frames per second, by name or as a fraction", default="30"),
    length_s=Real(0.1, 10_800, "s", "How long it is", default=_PICTURE_S),
)
def begin_empty(given: dict[str, Any]) -> Any:
    """Begin a project with an empty frame."""
    try:
        frame, rate = FrameSize.parse(given["frame"]), parse_rate(given["rate"])
    except FrameError as problem:
        abort(422, str(problem))
    return _begun(given["name"].strip() or "Untitled", frame, rate, [], given["length_s"])


@blueprint.post("/projects/from-picture")
@takes_file("A picture", MOST_PICTURE)
def begin_with_picture() -> Any:
    """Begin a project with the picture that the request's body is: it fills a frame of the nearest shape."""
    name = uploaded_name("Picture")
    kept = services().keep_picture(file_bytes(MOST_PICTURE, "picture"), name)
    frame = nearest_frame(kept["width"], kept["height"])
    return _begun(title_of(name), frame, RATES["30"], design_on_picture(kept["key"]), _PICTURE_S)


def _begun(name: str, frame: FrameSize, rate: Fraction, layers: list[Any], length_s: float) -> Any:
    document = new_document(name, frame=frame, rate=rate, layers=layers) | {"length_s": length_s}
    return jsonify(id=projects.create(services().db, document))


@blueprint.post("/projects/tags")
@takes(
    projects=ListOf(Text(64, "Id of a project"), 1, 500, "Which projects"),
    add=_TAGS,
    remove=_TAGS,
)
def tag(given: dict[str, Any]) -> Any:
    """Give tags to projects, and take others from them."""
    if not all(is_ident(ident) for ident in given["projects"]):
        abort(404, "One of these projects is gone.")
    add, remove = ([word.strip() for word in given[name] or [] if word.strip()] for name in ("add", "remove"))
    try:
        project_tags.change(services().db, given["projects"], add, remove)
    except StoreError as problem:
        abort(422, str(problem))
    return jsonify(tags=project_tags.of_all(services().db))


@blueprint.get("/disk-space")
def disk_space() -> Any:
    """What nothing needs any more: how many files and videos, and the bytes that cleaning would free."""
    return jsonify(services().disk_space.state())


@blueprint.post("/disk-space")
@takes(what=OneOf("unused", "videos", about="Files that no project names, or old videos"))
def clean(given: dict[str, Any]) -> Any:
    """Delete what nothing needs any more; gives the bytes that this freed."""
    here = services().disk_space
    freed = here.clean_unused() if given["what"] == "unused" else here.clean_videos()
    return jsonify(here.state() | {"freed": freed})


def frame_choices() -> list[tuple[str, str]]:
    """Frames to begin with, by name, with their sizes."""
    return [(name, f"{name.capitalize()}, {size.width} × {size.height}") for name, size in FRAMES.items()]
