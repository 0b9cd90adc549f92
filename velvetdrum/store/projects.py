"""Projects and their edits: every change is a row, undo and redo move a position along them."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from velvetdrum.store.db import StoreError, transaction

Document = dict[str, Any]
Patch = list[dict[str, Any]]
Apply = Callable[[Document, Patch], tuple[Document, Patch]]
"""Applies a patch: gives the new document and the patch that leads back. Comes from the caller, so that the
store needs to know nothing of what is in a document."""
Upgrade = Callable[[Document], tuple[Document, Patch, Patch] | None]
"""Brings a document of an older form to the present one: gives the new document, the patch that leads there and the
one that leads back; None for one that has the present form."""


class Conflict(StoreError):
    """An edit was made on an older revision than the current one."""

    def __init__(self, revision: int) -> None:
        super().__init__("This project was changed in another window since this one last heard of it.")
        self.revision = revision


@dataclass(frozen=True)
class ProjectRow:
    """A project as stored. `undo` and `redo` are the labels of the edits that they would touch, or None."""

    id: str
    name: str
    document: Document
    revision: int
    changed_at: float
    undo: str | None
    redo: str | None


def create(db: sqlite3.Connection, document: Document) -> str:
    """Store a new project and give its id."""
    ident, now = secrets.token_hex(6), time.time()
    db.execute(
        "INSERT INTO project (id, name, document, revision, position, created_at, changed_at)"
        " VALUES (?, ?, ?, 1, 0, ?, ?)",
        (ident, document["name"], json.dumps(document), now, now),
    )
    return ident


def find(db: sqlite3.Connection, ident: str, *, deleted: bool = False) -> ProjectRow | None:
    """A project by its id; deleted ones only on request."""
    row = db.execute(
        "SELECT p.*,"
        " (SELECT label FROM edit e WHERE e.project_id = p.id AND branch = 0 AND upgrade = 0"
        "  AND e.position <= p.position ORDER BY e.position DESC LIMIT 1) AS undo,"
        " (SELECT label FROM edit e WHERE e.project_id = p.id AND branch = 0 AND upgrade = 0"
        "  AND e.position > p.position ORDER BY e.position LIMIT 1) AS redo"
        " FROM project p WHERE id = ? AND (deleted_at IS NULL OR ?)",
        (ident, deleted),
    ).fetchone()
    if row is None:
        return None
    return ProjectRow(
        row["id"],
        row["name"],
        json.loads(row["document"]),
        row["revision"],
        row["changed_at"],
        row["undo"],
        row["redo"],
    )


def listed(db: sqlite3.Connection) -> list[ProjectRow]:
    """All projects that are not deleted, the last changed first."""
    rows = db.execute("SELECT id FROM project WHERE deleted_at IS NULL ORDER BY changed_at DESC").fetchall()
    found = [find(db, row["id"]) for row in rows]
    return [project for project in found if project is not None]


def edit(
    db: sqlite3.Connection,
    ident: str,
    base: int,
    label: str,
    patch: Patch,
    apply: Apply,
    upgrade: Upgrade = lambda document: None,
) -> ProjectRow:
    """Make an edit on revision `base`. Raises Conflict when that is not the current one.

    What was undone before is set aside under its own branch, not removed. The edit is worked out before the
    transaction: other writers wait only for what is written. A document of an older form is upgraded first, as a step
    of its own, so that older steps find it again as they left it when they are taken back.
    """
    row = _current(db, ident, base)
    document = json.loads(row["document"])
    upgraded = upgrade(document)
    steps = []
    if upgraded is not None:
        document, forward, back = upgraded
        steps.append(("Present form", forward, back, 1))
    document, backward = apply(document, patch)
    steps.append((label, patch, backward, 0))
    if backward:
        with transaction(db):
            position = _current(db, ident, base)["position"] + 1
            aside = db.execute(
                "SELECT coalesce(max(branch), 0) + 1 FROM edit WHERE project_id = ?", (ident,)
            ).fetchone()[0]
            db.execute(
                "UPDATE edit SET branch = ? WHERE project_id = ? AND branch = 0 AND position >= ?",
                (aside, ident, position),
            )
            for number, (name, there, back, is_upgrade) in enumerate(steps):
                db.execute(
                    "INSERT INTO edit (project_id, position, label, forward, backward, made_at, upgrade)"
                    " VALUES (?, ?, ?, ?, ?, ?, ?)",
                    (ident, position + number, name, json.dumps(there), json.dumps(back), time.time(), is_upgrade),
                )
            _write(db, ident, document, row["revision"] + 1, position + len(steps) - 1)
    return _found(db, ident)


def undo(db: sqlite3.Connection, ident: str, base: int, apply: Apply) -> ProjectRow:
    """Take the last edit back. Without one, nothing changes."""
    return _move(db, ident, base, apply, -1)


def redo(db: sqlite3.Connection, ident: str, base: int, apply: Apply) -> ProjectRow:
    """Make the last undone edit again. Without one, nothing changes."""
    return _move(db, ident, base, apply, 1)


def _move(db: sqlite3.Connection, ident: str, base: int, apply: Apply, way: int) -> ProjectRow:
    row = _current(db, ident, base)
    document, position = json.loads(row["document"]), row["position"]
    moved = False
    while not moved:
        step = _step(db, ident, position + (way == 1))
        if step is None:
            # Nothing but an upgrade lies there: it is left as it is.
            return _found(db, ident)
        document, _ = apply(document, json.loads(step["forward" if way == 1 else "backward"]))
        position += way
        moved = not step["upgrade"]
    with transaction(db):
        _current(db, ident, base)
        _write(db, ident, document, row["revision"] + 1, position)
    return _found(db, ident)


def delete(db: sqlite3.Connection, ident: str) -> None:
    """Put a project out of sight; `restore` brings it back."""
    db.execute("UPDATE project SET deleted_at = ? WHERE id = ?", (time.time(), ident))


def restore(db: sqlite3.Connection, ident: str) -> None:
    """Bring a deleted project back."""
    db.execute("UPDATE project SET deleted_at = NULL WHERE id = ?", (ident,))


def _current(db: sqlite3.Connection, ident: str, base: int) -> sqlite3.Row:
    row = db.execute("SELECT * FROM project WHERE id = ? AND deleted_at IS NULL", (ident,)).fetchone()
    if row is None:
        raise StoreError("This project has been deleted.")
    if row["revision"] != base:
        raise Conflict(row["revision"])
    return row


def _step(db: sqlite3.Connection, ident: str, position: int) -> sqlite3.Row | None:
    return db.execute(
        "SELECT * FROM edit WHERE project_id = ? AND branch = 0 AND position = ?", (ident, position)
    ).fetchone()


def _write(db: sqlite3.Connection, ident: str, document: Document, revision: int, position: int) -> None:
    db.execute(
        "UPDATE project SET name = ?, document = ?, revision = ?, position = ?, changed_at = ? WHERE id = ?",
        (document["name"], json.dumps(document), revision, position, time.time(), ident),
    )


def _found(db: sqlite3.Connection, ident: str) -> ProjectRow:
    project = find(db, ident)
    assert project is not None
    return project
