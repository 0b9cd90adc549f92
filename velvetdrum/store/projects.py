"""Projects and their edits: every change is a row, undo and redo move a position along them."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from threading import Lock
from typing import Any

import jsonpatch
import orjson
from cachetools import LRUCache

from velvetdrum.store.db import StoreError, transaction

Document = dict[str, Any]
Patch = list[dict[str, Any]]
Apply = Callable[[Document, Patch], tuple[Document, Patch, bool]]
"""Applies a patch: gives the new document, the patch that leads back, and whether the patch by itself (RFC 6902) leads
from the one document to the other. Comes from the caller, so that the store needs to know nothing of what is in a
document."""
Upgrade = Callable[[Document], tuple[Document, Patch, Patch] | None]
"""Brings a document of an older form to the present one: gives the new document, the patch that leads there and the
one that leads back; None for one that has the present form."""


MOST_KEPT_STEPS, MOST_KEPT_TEXT = 200, 1 << 20
"""Steps after which the whole document is written again, and how long they are together at the most."""

_HELD: LRUCache[tuple[str, str], tuple[int, float, Document]] = LRUCache(8)
"""Documents as they were read or written last, by database and id, each with its revision and time. Nobody writes to
them."""
_LOCK = Lock()


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
    patch: Patch | None = None
    """What led here from the revision before, where this row answers a change and that is all there is to it."""


def create(db: sqlite3.Connection, document: Document) -> str:
    """Store a new project and give its id."""
    ident, now = secrets.token_hex(6), time.time()
    with transaction(db):
        db.execute(
            "INSERT INTO project (id, name, revision, position, created_at, changed_at) VALUES (?, ?, 1, 0, ?, ?)",
            (ident, document["name"], now, now),
        )
        db.execute("INSERT INTO document (project_id, revision, text) VALUES (?, 1, ?)", (ident, _text(document)))
    return ident


def find(db: sqlite3.Connection, ident: str, *, deleted: bool = False) -> ProjectRow | None:
    """A project by its id; deleted ones only on request."""
    row = db.execute(
        "SELECT p.id, p.name, p.revision, p.changed_at,"
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
        _document(db, row),
        row["revision"],
        row["changed_at"],
        row["undo"],
        row["redo"],
    )


def listed(db: sqlite3.Connection) -> list[ProjectRow]:
    """All projects that are not deleted, the last changed first."""
    rows = db.execute("SELECT id FROM project WHERE deleted_at IS NULL ORDER BY changed_at DESC").fetchall()
    result = [find(db, row["id"]) for row in rows]
    return [project for project in result if project is not None]


def count(db: sqlite3.Connection) -> int:
    """How many projects there are that are not deleted."""
    return int(db.execute("SELECT count(*) FROM project WHERE deleted_at IS NULL").fetchone()[0])


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
    document = _document(db, row)
    upgraded = upgrade(document)
    steps = []
    if upgraded is not None:
        document, forward, back = upgraded
        steps.append(("Present form", forward, back, 1))
    document, backward, exact = apply(document, patch)
    steps.append((label, patch, backward, 0))
    if not backward:
        return _row(db, ident)
    with transaction(db):
        position = _current(db, ident, base)["position"] + 1
        aside = db.execute("SELECT coalesce(max(branch), 0) + 1 FROM edit WHERE project_id = ?", (ident,)).fetchone()[0]
        db.execute(
            "UPDATE edit SET branch = ? WHERE project_id = ? AND branch = 0 AND position >= ?",
            (aside, ident, position),
        )
        for number, (name, there, back, is_upgrade) in enumerate(steps):
            db.execute(
                "INSERT INTO edit (project_id, position, label, forward, backward, made_at, upgrade)"
                " VALUES (?, ?, ?, ?, ?, ?, ?)",
                (ident, position + number, name, _text(there), _text(back), time.time(), is_upgrade),
            )
        whole = [step for _, there, _, _ in steps for step in there]
        _write(db, row, document, position + len(steps) - 1, whole if exact else None)
    # The page has the present form already.
    return replace(_row(db, ident), patch=patch if exact else None)


def undo(db: sqlite3.Connection, ident: str, base: int, apply: Apply) -> ProjectRow:
    """Take the last edit back. Without one, nothing changes."""
    return _move(db, ident, base, apply, -1)


def redo(db: sqlite3.Connection, ident: str, base: int, apply: Apply) -> ProjectRow:
    """Make the last undone edit again. Without one, nothing changes."""
    return _move(db, ident, base, apply, 1)


def jump(db: sqlite3.Connection, ident: str, base: int, position: int, document: Document) -> ProjectRow:
    """Put the edits up to a position in force, with the document that they make: as many undos or redos at once."""
    row = _current(db, ident, base)
    with transaction(db):
        _current(db, ident, base)
        _write(db, row, document, position, None)
    return _row(db, ident)


def _move(db: sqlite3.Connection, ident: str, base: int, apply: Apply, way: int) -> ProjectRow:
    row = _current(db, ident, base)
    document, position = _document(db, row), row["position"]
    taken: Patch = []
    exact, moved = True, False
    while not moved:
        step = _step(db, ident, position + (way == 1))
        if step is None:
            # Nothing but an upgrade lies there: it is left as it is.
            return _row(db, ident)
        patch = json.loads(step["forward" if way == 1 else "backward"])
        document, _, alone = apply(document, patch)
        taken, exact = [*taken, *patch], exact and alone
        position += way
        moved = not step["upgrade"]
        through = bool(step["upgrade"])
    with transaction(db):
        _current(db, ident, base)
        _write(db, row, document, position, taken if exact else None)
    return replace(_row(db, ident), patch=taken if exact and not through else None)


def delete(db: sqlite3.Connection, ident: str) -> None:
    """Put a project out of sight; `restore` brings it back."""
    db.execute("UPDATE project SET deleted_at = ? WHERE id = ?", (time.time(), ident))


def restore(db: sqlite3.Connection, ident: str) -> None:
    """Bring a deleted project back."""
    db.execute("UPDATE project SET deleted_at = NULL WHERE id = ?", (ident,))


@dataclass(frozen=True)
class BinnedProject:
    """A deleted project, and when that was (seconds since 1970)."""

    id: str
    name: str
    deleted_at: float


def binned(db: sqlite3.Connection) -> list[BinnedProject]:
    """Deleted projects, the last deleted first."""
    rows = db.execute(
        "SELECT id, name, deleted_at FROM project WHERE deleted_at IS NOT NULL ORDER BY deleted_at DESC"
    ).fetchall()
    return [BinnedProject(row["id"], row["name"], row["deleted_at"]) for row in rows]


def purge(db: sqlite3.Connection, ident: str) -> bool:
    """Forget a deleted project with its history for good; True where there was one in the bin."""
    return db.execute("DELETE FROM project WHERE id = ? AND deleted_at IS NOT NULL", (ident,)).rowcount > 0


def _current(db: sqlite3.Connection, ident: str, base: int) -> sqlite3.Row:
    row = db.execute(
        "SELECT id, revision, position, changed_at FROM project WHERE id = ? AND deleted_at IS NULL", (ident,)
    ).fetchone()
    if row is None:
        raise StoreError("This project has been deleted.")
    if row["revision"] != base:
        raise Conflict(row["revision"])
    return row


def _step(db: sqlite3.Connection, ident: str, position: int) -> sqlite3.Row | None:
    return db.execute(
        "SELECT * FROM edit WHERE project_id = ? AND branch = 0 AND position = ?", (ident, position)
    ).fetchone()


def _document(db: sqlite3.Connection, row: sqlite3.Row) -> Document:
    """A project's document as of the revision in a row: what is held of it, or what was kept last, with the steps
    since."""
    name = (str(getattr(db, "path", "")), row["id"])
    with _LOCK:
        held = _HELD.get(name)
    if held is not None and held[:2] == (row["revision"], row["changed_at"]):
        return held[2]
    kept = db.execute("SELECT revision, text FROM document WHERE project_id = ?", (row["id"],)).fetchone()
    document: Document = json.loads(kept["text"])
    steps = db.execute(
        "SELECT patch FROM step WHERE project_id = ? AND revision > ? AND revision <= ? ORDER BY revision",
        (row["id"], kept["revision"], row["revision"]),
    )
    for step in steps.fetchall():
        document = jsonpatch.apply_patch(document, json.loads(step["patch"]), in_place=True)
    _hold(db, row["id"], row["revision"], row["changed_at"], document)
    return document


def _hold(db: sqlite3.Connection, ident: str, revision: int, changed_at: float, document: Document) -> None:
    with _LOCK:
        _HELD[str(getattr(db, "path", "")), ident] = revision, changed_at, document


def _write(db: sqlite3.Connection, row: sqlite3.Row, document: Document, position: int, patch: Patch | None) -> None:
    """Keep a change: the patch that led there, and now and then, or where there is none, the whole document."""
    ident, revision, now = row["id"], row["revision"] + 1, time.time()
    text = "" if patch is None else _text(patch)
    count, long = db.execute(
        "SELECT count(*), coalesce(sum(length(patch)), 0) FROM step WHERE project_id = ?", (ident,)
    ).fetchone()
    if patch is None or count >= MOST_KEPT_STEPS or long + len(text) > MOST_KEPT_TEXT:
        db.execute(
            "UPDATE document SET revision = ?, text = ? WHERE project_id = ?", (revision, _text(document), ident)
        )
        db.execute("DELETE FROM step WHERE project_id = ?", (ident,))
    else:
        db.execute("INSERT INTO step (project_id, revision, patch) VALUES (?, ?, ?)", (ident, revision, text))
    db.execute(
        "UPDATE project SET name = ?, revision = ?, position = ?, changed_at = ? WHERE id = ?",
        (document["name"], revision, position, now, ident),
    )
    _hold(db, ident, revision, now, document)


def _text(value: Any) -> str:
    return orjson.dumps(value).decode()


def _row(db: sqlite3.Connection, ident: str) -> ProjectRow:
    project = find(db, ident)
    assert project is not None
    return project
