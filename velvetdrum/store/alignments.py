"""Texts on their way to their times; a restart finds those that were interrupted."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class AlignmentRow:
    """An alignment: what is wanted, and what was found once it is done."""

    id: str
    project_id: str
    wanted: dict[str, Any]
    found: dict[str, Any] | None
    state: str
    sentence: str


def create(db: sqlite3.Connection, project_id: str, wanted: dict[str, Any]) -> str:
    """Keep a new alignment that runs from now on."""
    ident = secrets.token_hex(6)
    db.execute(
        "INSERT INTO alignment (id, project_id, wanted, state, made_at) VALUES (?, ?, ?, 'running', ?)",
        (ident, project_id, json.dumps(wanted), time.time()),
    )
    return ident


def find(db: sqlite3.Connection, ident: str) -> AlignmentRow | None:
    """The alignment with an id; None when there is none."""
    row = db.execute("SELECT * FROM alignment WHERE id = ?", (ident,)).fetchone()
    return None if row is None else _row(row)


def latest(db: sqlite3.Connection, project_id: str) -> AlignmentRow | None:
    """The last alignment of a project that no page has taken yet."""
    row = db.execute(
        "SELECT * FROM alignment WHERE project_id = ? AND state IN ('running', 'done', 'failed')"
        " ORDER BY made_at DESC LIMIT 1",
        (project_id,),
    ).fetchone()
    return None if row is None else _row(row)


def unfinished(db: sqlite3.Connection) -> list[AlignmentRow]:
    """Alignments that run, the oldest first."""
    return [_row(row) for row in db.execute("SELECT * FROM alignment WHERE state = 'running' ORDER BY made_at")]


def end(
    db: sqlite3.Connection, ident: str, state: str, sentence: str = "", found: dict[str, Any] | None = None
) -> None:
    """Keep what became of it: done, failed, cancelled, or taken by a page."""
    db.execute(
        "UPDATE alignment SET state = ?, sentence = ?, found = coalesce(?, found) WHERE id = ?",
        (state, sentence, None if found is None else json.dumps(found), ident),
    )


def _row(row: sqlite3.Row) -> AlignmentRow:
    result = None if row["found"] is None else json.loads(row["found"])
    return AlignmentRow(row["id"], row["project_id"], json.loads(row["wanted"]), result, row["state"], row["sentence"])
