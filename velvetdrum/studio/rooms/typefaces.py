"""Typefaces: those that ship and those that were brought in, each name in its own letters."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, jsonify

from velvetdrum.picture.typesetting.typeface_files import MOST_BYTES
from velvetdrum.store import media
from velvetdrum.studio.http.requests import file_bytes, services, takes_file, uploaded_name
from velvetdrum.studio.workers import tasks

blueprint = Blueprint("typefaces", __name__)


@blueprint.get("/typefaces")
def listed() -> Any:
    """All families: id (or content hash), name, what they are good for, and the name as SVG path data."""
    here, own = services(), []
    for row in media.listed(here.db):
        facts = row.facts or {}
        if facts.get("typeface") and here.folder.original(row).exists():
            path, width = _specimen(row, facts)
            sort = f"yours, {facts['style']}".rstrip(", ")
            own.append({"id": row.key, "name": facts["family"], "sort": sort, "path": path, "width": round(width)})
    return jsonify(families=[*here.shipped_typefaces, *own])


def _specimen(row: media.MediaRow, facts: dict[str, Any]) -> tuple[str, float]:
    """The name of a typeface that was brought in, in its own letters: made when it came, or once for one that an older
    version took."""
    if "specimen" not in facts:
        here = services()
        made = here.read(tasks.typeface_specimen, str(here.folder.original(row)), facts["family"])
        facts = facts | {"specimen": made}
        media.set_facts(here.db, row.key, facts)
    path, width = facts["specimen"]
    return path, width


@blueprint.post("/typefaces")
@takes_file("A typeface: TTF, OTF or WOFF2", MOST_BYTES)
def bring() -> Any:
    """Keep the typeface that the request's body is, for use in texts."""
    data = file_bytes(MOST_BYTES, "typeface")
    return jsonify(services().keep_typeface(data, uploaded_name("typeface")))
