"""What is asked of exports, kept by name: for the next episode, for a channel, for a client."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, abort, jsonify

from velvetdrum.store.shelf import EXPORT_SETTINGS, LONGEST_NAME
from velvetdrum.studio.http.fields import ListOf, ObjectOf, Real, Text
from velvetdrum.studio.http.requests import is_ident, services, takes

blueprint = Blueprint("export_settings", __name__)

# What a format or a channel is called is judged when a file is asked for: one may be gone by then.
_ASKED = ObjectOf(
    {
        "wanted": ListOf(Text(40), 1, 40, "Formats by name, with a + behind those that are to be transparent"),
        "shapes": ListOf(Text(20), 0, 3, "Shapes of the frame; none for the one on show"),
        "speed": Text(20, "How hard encoders work"),
        "loudness": Text(10, "In LUFS; empty to leave it"),
        "truePeak": Text(10, "In dBTP"),
        "captions": Text(20, "Where captions go"),
        "name": Text(200, "The pattern of names"),
        "channel": Text(64, "Id of a channel; empty for any"),
        "fadeIn": Real(0, 60, "s", "Of the sound"),
        "fadeOut": Real(0, 60, "s", "Of the sound"),
        "short": Text(10, "Pixels of the frame's short side; empty for as many as it has", default=""),
        "rate": Text(20, "Frames per second; empty for the project's", default=""),
        "megabytes": Text(10, "At most, in MB; empty for any size"),
    },
    "What is asked for, as the Export room has it",
)


@blueprint.get("/export-settings")
def listed() -> Any:
    """All that were kept, by name."""
    return jsonify(kept=EXPORT_SETTINGS.listed(services().db))


@blueprint.post("/export-settings")
@takes(name=Text(1000, "Their name"), asked=_ASKED)
def keep(given: dict[str, Any]) -> Any:
    """Keep settings under a name; those that have that name are replaced."""
    name = given["name"].strip()
    if not 0 < len(name) <= LONGEST_NAME:
        abort(422, f"Settings that are kept need a name of up to {LONGEST_NAME} characters.")
    return jsonify(id=EXPORT_SETTINGS.save(services().db, name, given["asked"]))


@blueprint.delete("/export-settings/<ident>")
def delete(ident: str) -> Any:
    """Remove settings that were kept."""
    if not is_ident(ident) or not EXPORT_SETTINGS.delete(services().db, ident):
        abort(404, "There are no such settings; they may have been deleted.")
    return jsonify(id=ident)
