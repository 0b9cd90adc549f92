"""Reviews of projects before they are posted; a restart finds those that were interrupted."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class ReviewRow:
    """A review: at which revision, how far it is, and what was found once it is done."""

    id: str
    project_id: str
    revision: int
    document: dict[str, Any]
    plan: dict[str, Any]
    state: str
    done: int
    found: dict[str, Any] | None
    sentence: str
    made_at: float


def create(
    db: sqlite3.Connection, project_id: str, revision: int, document: dict[str, Any], plan: dict[str, Any]
) -> str:
    """Keep a new review that runs from now on; what older ones of the project found is dropped."""
    ident = secrets.token_hex(6)
    db.execute("DELETE FROM review WHERE project_id = ? AND state != 'running'", (project_id,))
    db.execute(
        "INSERT INTO review (id, project_id, revision, document, plan, state, made_at)"
        " VALUES (?, ?, ?, ?, ?, 'running', ?)",
        (ident, project_id, revision, json.dumps(document), json.dumps(plan), time.time()),
    )
    return ident


def find(db: sqlite3.Connection, ident: str) -> ReviewRow | None:
    """The review with an id; None when there is none."""
    row = db.execute("SELECT * FROM review WHERE id = ?", (ident,)).fetchone()
    return None if row is None else _row(row)


def latest(db: sqlite3.Connection, project_id: str) -> ReviewRow | None:
    """A project's latest review."""
    row = db.execute(
        "SELECT * FROM review WHERE project_id = ? ORDER BY made_at DESC LIMIT 1", (project_id,)
    ).fetchone()
    return None if row is None else _row(row)


def unfinished(db: sqlite3.Connection) -> list[ReviewRow]:
    """Reviews that run, the oldest first."""
    return [_row(row) for row in db.execute("SELECT * FROM review WHERE state = 'running' ORDER BY made_at")]


def set_done(db: sqlite3.Connection, ident: str, frames: int) -> None:
    """Keep how many frames were looked at."""
    db.execute("UPDATE review SET done = ? WHERE id = ?", (frames, ident))


def end(
    db: sqlite3.Connection, ident: str, state: str, sentence: str = "", found: dict[str, Any] | None = None
) -> None:
    """Keep what became of it."""
    db.execute(
        "UPDATE review SET state = ?, sentence = ?, found = ? WHERE id = ?",
        (state, sentence, None if found is None else json.dumps(found), ident),
    )


def _row(row: sqlite3.Row) -> ReviewRow:
    result = None if row["found"] is None else json.loads(row["found"])
    return ReviewRow(
        row["id"],
        row["project_id"],
        row["revision"],
        json.loads(row["document"]),
        json.loads(row["plan"]),
        row["state"],
        row["done"],
        result,
        row["sentence"],
        row["made_at"],
    )
