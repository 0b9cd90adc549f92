"""Exports: what was asked for, how far it is, how it ended."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class ExportRow:
    """An export. `plan` holds the planned values; `done` counts frames."""

    id: str
    project_id: str
    name: str
    document: dict[str, Any]
    plan: dict[str, Any]
    state: str
    done: int
    sentence: str
    made_at: float
    ended_at: float | None


def create(db: sqlite3.Connection, project_id: str, name: str, document: dict[str, Any], plan: dict[str, Any]) -> str:
    """Keep a new export that waits for its turn."""
    ident = secrets.token_hex(6)
    db.execute(
        "INSERT INTO export (id, project_id, name, document, plan, state, made_at)"
        " VALUES (?, ?, ?, ?, ?, 'waiting', ?)",
        (ident, project_id, name, json.dumps(document), json.dumps(plan), time.time()),
    )
    return ident


def find(db: sqlite3.Connection, ident: str) -> ExportRow | None:
    """The export with an id; None when there is none."""
    row = db.execute("SELECT * FROM export WHERE id = ?", (ident,)).fetchone()
    return None if row is None else _row(row)


def of_project(db: sqlite3.Connection, project_id: str) -> list[ExportRow]:
    """A project's exports, the newest first."""
    rows = db.execute("SELECT * FROM export WHERE project_id = ? ORDER BY made_at DESC LIMIT 50", (project_id,))
    return [_row(row) for row in rows]


def first_waiting(db: sqlite3.Connection) -> ExportRow | None:
    """The oldest export that waits for its turn, or that a stopped or killed server left in the middle."""
    row = db.execute("SELECT * FROM export WHERE state IN ('waiting', 'running') ORDER BY made_at LIMIT 1").fetchone()
    return None if row is None else _row(row)


def set_progress(db: sqlite3.Connection, ident: str, done: int) -> None:
    """Keep how many frames are done."""
    db.execute(
        "UPDATE export SET done = ?, state = 'running' WHERE id = ? AND state IN ('waiting', 'running')",
        (done, ident),
    )


def set_state(db: sqlite3.Connection, ident: str, state: str, sentence: str = "") -> None:
    """Keep what became of it, with the sentence that says why it stopped."""
    ended = time.time() if state in ("done", "failed", "cancelled") else None
    db.execute(
        "UPDATE export SET state = ?, sentence = ?, ended_at = ? WHERE id = ?",
        (state, sentence, ended, ident),
    )


def _row(row: sqlite3.Row) -> ExportRow:
    return ExportRow(
        row["id"],
        row["project_id"],
        row["name"],
        json.loads(row["document"]),
        json.loads(row["plan"]),
        row["state"],
        row["done"],
        row["sentence"],
        row["made_at"],
        row["ended_at"],
    )
