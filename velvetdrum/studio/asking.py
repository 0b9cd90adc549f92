"""What routes read from requests, checked."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from flask import abort, g, request

from velvetdrum.scene.migrate import upgraded
from velvetdrum.store import projects
from velvetdrum.store.projects import ProjectRow
from velvetdrum.studio.services import Services


def services() -> Services:
    """The server's services."""
    return g.services


def project_or_404(ident: str) -> ProjectRow:
    """A project, or a 404 with a sentence."""
    row = projects.find(services().db, ident)
    if row is None:
        abort(404, "There is no such project; it may have been deleted.")
    # Projects that an older version stored come in the present form, and are stored in it with the next edit.
    return replace(row, document=upgraded(row.document))


def body() -> dict[str, Any]:
    """The request's JSON object, or a 400."""
    given = request.get_json(silent=True)
    if not isinstance(given, dict):
        abort(400, "The request needs a JSON object.")
    return given


MOST_PICTURE_BYTES = 60_000_000


def picture_bytes() -> bytes:
    """The request's body, which is a picture; a 413 when it is too large to be one."""
    data = request.stream.read(MOST_PICTURE_BYTES + 1)
    if len(data) > MOST_PICTURE_BYTES:
        abort(413, "The picture is larger than 60 MB; save it smaller.")
    return data


def chunks() -> Iterator[bytes]:
    """The request's body, piece by piece."""
    while chunk := request.stream.read(1 << 20):
        yield chunk


def whole(given: dict[str, Any], name: str, low: int, high: int) -> int:
    """A whole number within bounds, or a 400."""
    value = given.get(name)
    if not isinstance(value, int) or isinstance(value, bool) or not low <= value <= high:
        abort(400, f"{name} needs a whole number from {low} to {high}.")
    return value


def state_of(row: ProjectRow) -> dict[str, Any]:
    """A project as the page keeps it."""
    return {
        "id": row.id,
        "revision": row.revision,
        "document": row.document,
        "undo": row.undo,
        "redo": row.redo,
        "changed_at": row.changed_at,
    }
