"""Tags that projects are found by, and when each was opened last."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Iterable

from velvetdrum.store.db import StoreError, transaction

LONGEST_TAG, MOST_TAGS = 40, 20


def of_all(db: sqlite3.Connection) -> dict[str, list[str]]:
    """The tags of projects that have some, by the projects' ids, in alphabetical order."""
    result: dict[str, list[str]] = {}
    for row in db.execute("SELECT project_id, tag FROM project_tag ORDER BY tag COLLATE NOCASE"):
        result.setdefault(row["project_id"], []).append(row["tag"])
    return result


def change(db: sqlite3.Connection, idents: Iterable[str], add: Iterable[str], remove: Iterable[str]) -> None:
    """Give tags to projects, and take others from them. Raises StoreError."""
    with transaction(db):
        for ident in idents:
            if db.execute("SELECT 1 FROM project WHERE id = ?", (ident,)).fetchone() is None:
                raise StoreError("One of these projects is gone.")
            db.executemany("DELETE FROM project_tag WHERE project_id = ? AND tag = ?", [(ident, tag) for tag in remove])
            db.executemany(
                "INSERT OR IGNORE INTO project_tag (project_id, tag) VALUES (?, ?)", [(ident, tag) for tag in add]
            )
            count = db.execute("SELECT COUNT(*) FROM project_tag WHERE project_id = ?", (ident,)).fetchone()[0]
            if count > MOST_TAGS:
                raise StoreError(f"A project has up to {MOST_TAGS} tags. Take one away first.")


def set_opened(db: sqlite3.Connection, ident: str) -> None:
    """Remember that a project was opened now."""
    db.execute("UPDATE project SET opened_at = ? WHERE id = ?", (time.time(), ident))


def opened_at(db: sqlite3.Connection) -> dict[str, float]:
    """When each project was opened last, in seconds since 1970, by its id."""
    return {row["id"]: row["opened_at"] for row in db.execute("SELECT id, opened_at FROM project")}
