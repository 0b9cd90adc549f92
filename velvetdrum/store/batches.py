"""Batches: a table of episodes, the files that it names, and what became of each row."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from dataclasses import dataclass
from typing import Any

from velvetdrum.store.db import transaction


@dataclass(frozen=True)
class BatchRow:
    """A batch. `rows` says what the table says; `files` which of its files are here; `report` what became of each row,
    by its line."""

    id: str
    project_id: str
    name: str
    document: dict[str, Any]
    rows: list[dict[str, Any]]
    files: dict[str, str]
    wanted: dict[str, Any]
    report: dict[str, dict[str, Any]]
    state: str
    made_at: float


def create(
    db: sqlite3.Connection, project_id: str, name: str, document: dict[str, Any], rows: list[dict[str, Any]]
) -> str:
    """Keep a new batch whose files are still to come."""
    ident = secrets.token_hex(6)
    db.execute(
        "INSERT INTO batch (id, project_id, name, document, rows, state, made_at) VALUES (?, ?, ?, ?, ?, 'open', ?)",
        (ident, project_id, name, json.dumps(document), json.dumps(rows), time.time()),
    )
    return ident


def find(db: sqlite3.Connection, ident: str) -> BatchRow | None:
    """The batch with an id; None when there is none."""
    row = db.execute("SELECT * FROM batch WHERE id = ?", (ident,)).fetchone()
    return None if row is None else _row(row)


def latest(db: sqlite3.Connection, project_id: str) -> BatchRow | None:
    """A project's latest batch."""
    row = db.execute("SELECT * FROM batch WHERE project_id = ? ORDER BY made_at DESC LIMIT 1", (project_id,)).fetchone()
    return None if row is None else _row(row)


def unfinished(db: sqlite3.Connection) -> list[BatchRow]:
    """Batches that run, the oldest first."""
    return [_row(row) for row in db.execute("SELECT * FROM batch WHERE state = 'running' ORDER BY made_at")]


def set_file(db: sqlite3.Connection, ident: str, name: str, path: str) -> None:
    """Keep that a file which the table names is here."""
    with transaction(db):
        files = json.loads(db.execute("SELECT files FROM batch WHERE id = ?", (ident,)).fetchone()[0])
        db.execute("UPDATE batch SET files = ? WHERE id = ?", (json.dumps(files | {name: path}), ident))


def set_wanted(db: sqlite3.Connection, ident: str, wanted: dict[str, Any]) -> None:
    """Keep what is to be made of each row, and that it runs from now on."""
    db.execute("UPDATE batch SET wanted = ?, state = 'running' WHERE id = ?", (json.dumps(wanted), ident))


def set_report(db: sqlite3.Connection, ident: str, report: dict[str, dict[str, Any]]) -> None:
    """Keep what became of the rows so far."""
    db.execute("UPDATE batch SET report = ? WHERE id = ?", (json.dumps(report), ident))


def set_state(db: sqlite3.Connection, ident: str, state: str) -> None:
    """Keep what became of it."""
    db.execute("UPDATE batch SET state = ? WHERE id = ?", (state, ident))


def _row(row: sqlite3.Row) -> BatchRow:
    document, rows, files = json.loads(row["document"]), json.loads(row["rows"]), json.loads(row["files"])
    wanted, report = json.loads(row["wanted"]), json.loads(row["report"])
    return BatchRow(
        row["id"], row["project_id"], row["name"], document, rows, files, wanted, report, row["state"], row["made_at"]
    )
