"""The states that a project has been in, also those that an undo left, and states that were given a name."""

from __future__ import annotations

import copy
import json
import secrets
import sqlite3
import time
from dataclasses import dataclass
from typing import Any

import jsonpatch
import orjson

from velvetdrum.store.db import StoreError, transaction
from velvetdrum.store.projects import Document, ProjectRow

LONGEST_NAME, MOST_VERSIONS = 80, 200


@dataclass(frozen=True)
class State:
    """What an edit led to. Branch 0 is the row that undo and redo move along; an edit made after an undo set the states
    of another branch aside. Position 0 is the project as it began, `made_at` in seconds since 1970."""

    branch: int
    position: int
    label: str
    made_at: float


@dataclass(frozen=True)
class Version:
    """A state that was given a name."""

    id: str
    name: str
    made_at: float


def states(db: sqlite3.Connection, ident: str, first: int, count: int) -> list[State]:
    """States of a project, the last made first; at its end the one that it began with."""
    rows = db.execute(
        "SELECT branch, position, label, made_at FROM edit WHERE project_id = :ident AND upgrade = 0"
        " UNION ALL SELECT 0, 0, 'Begin', created_at FROM project WHERE id = :ident"
        " ORDER BY made_at DESC, position DESC LIMIT :count OFFSET :first",
        {"ident": ident, "count": count, "first": first},
    )
    return [State(row["branch"], row["position"], row["label"], row["made_at"]) for row in rows]


def position(db: sqlite3.Connection, ident: str) -> int:
    """The position of the present state on branch 0: that of the last edit in force, 0 before the first one."""
    return int(
        db.execute(
            "SELECT coalesce(max(e.position), 0) FROM edit e JOIN project p ON p.id = e.project_id"
            " WHERE p.id = ? AND branch = 0 AND upgrade = 0 AND e.position <= p.position",
            (ident,),
        ).fetchone()[0]
    )


def document_at(db: sqlite3.Connection, row: ProjectRow, branch: int, place: int) -> Document | None:
    """The document of a state, in the form in which it was stored; None where there is no such state.

    It is led to from the present document, along the steps back to where the two ways part, and from there on.
    """
    ways = _way_to(db, row.id, branch, place)
    if ways is None:
        return None
    at = int(db.execute("SELECT position FROM project WHERE id = ?", (row.id,)).fetchone()[0])
    parts = ways[0][2]
    document = copy.deepcopy(row.document)
    if parts < at:
        document = _patched(db, document, row.id, 0, "backward", range(at, parts, -1))
        at = parts
    for line, begin, end in ways:
        document = _patched(db, document, row.id, line, "forward", range(max(at, begin) + 1, end + 1))
        at = end
    return document


def _way_to(db: sqlite3.Connection, ident: str, branch: int, place: int) -> list[tuple[int, int, int]] | None:
    """Branches that lead to a state with the positions after which, and up to which, each is followed; from 0 on."""
    way: list[tuple[int, int, int]] = []
    line, end = branch, place
    while True:
        first, last = db.execute(
            "SELECT min(position), max(position) FROM edit WHERE project_id = ? AND branch = ?", (ident, line)
        ).fetchone()
        if line == 0:
            known = end == 0 or (last is not None and end <= last)
            return [(0, 0, end), *reversed(way)] if known else None
        if first is None or not first <= end <= last:
            return None
        way.append((line, first - 1, end))
        # What a branch grew from was set aside after it, or stands in the row of undo and redo.
        end = first - 1
        line = db.execute(
            "SELECT coalesce(min(branch), 0) FROM edit WHERE project_id = ? AND branch > ? AND position = ?",
            (ident, line, end),
        ).fetchone()[0]


def _patched(db: sqlite3.Connection, document: Document, ident: str, branch: int, way: str, places: range) -> Document:
    """A document that may be written to, with a row of stored steps made on it."""
    if not places:
        return document
    order = "DESC" if places.step < 0 else "ASC"
    steps = db.execute(
        f"SELECT {way} AS patch FROM edit WHERE project_id = ? AND branch = ? AND position BETWEEN ? AND ?"
        f" ORDER BY position {order}",
        (ident, branch, min(places), max(places)),
    )
    for step in steps:
        document = jsonpatch.apply_patch(document, json.loads(step["patch"]), in_place=True)
    return document


def versions(db: sqlite3.Connection, ident: str) -> list[Version]:
    """The named versions of a project, the last made first."""
    rows = db.execute(
        "SELECT id, name, made_at FROM version WHERE project_id = ? ORDER BY made_at DESC, rowid DESC", (ident,)
    )
    return [Version(row["id"], row["name"], row["made_at"]) for row in rows]


def version_document(db: sqlite3.Connection, ident: str, version: str) -> Document | None:
    """The document of a named version, in the form in which it was stored; None where it is gone."""
    row = db.execute("SELECT document FROM version WHERE project_id = ? AND id = ?", (ident, version)).fetchone()
    return None if row is None else dict(json.loads(row["document"]))


def keep_version(db: sqlite3.Connection, ident: str, name: str, document: Document) -> str:
    """Give a state a name; gives the version's id. Raises StoreError where there are too many."""
    with transaction(db):
        count = db.execute("SELECT count(*) FROM version WHERE project_id = ?", (ident,)).fetchone()[0]
        if count >= MOST_VERSIONS:
            raise StoreError(f"A project keeps up to {MOST_VERSIONS} named versions. Remove one first.")
        made = secrets.token_hex(6)
        db.execute(
            "INSERT INTO version (id, project_id, name, document, made_at) VALUES (?, ?, ?, ?, ?)",
            (made, ident, name, _text(document), time.time()),
        )
    return made


def rename_version(db: sqlite3.Connection, ident: str, version: str, name: str) -> bool:
    """Give a version another name; True where it is there."""
    changed = db.execute("UPDATE version SET name = ? WHERE project_id = ? AND id = ?", (name, ident, version))
    return changed.rowcount > 0


def drop_version(db: sqlite3.Connection, ident: str, version: str) -> bool:
    """Remove a version; True where it was there."""
    return db.execute("DELETE FROM version WHERE project_id = ? AND id = ?", (ident, version)).rowcount > 0


def _text(value: Any) -> str:
    return orjson.dumps(value).decode()
