"""Recordings on their way in; a restart finds those that were interrupted."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from dataclasses import dataclass
from typing import Any

from velvetdrum.store.media import MediaRow


@dataclass(frozen=True)
class ImportRow:
    """An import. `purpose` says what follows: a new project, or another track for a project."""

    id: str
    media: MediaRow
    part: str
    purpose: dict[str, Any]
    state: str
    sentence: str
    project_id: str | None


def create(db: sqlite3.Connection, media: MediaRow, part: str, purpose: dict[str, Any]) -> str:
    """Keep a new import that waits for its turn."""
    ident = secrets.token_hex(6)
    db.execute(
        "INSERT INTO import (id, key, suffix, name, bytes, part, purpose, state, made_at)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, 'running', ?)",
        (ident, media.key, media.suffix, media.name, media.bytes, part, json.dumps(purpose), time.time()),
    )
    return ident


def find(db: sqlite3.Connection, ident: str) -> ImportRow | None:
    """The import with an id; None when there is none."""
    row = db.execute("SELECT * FROM import WHERE id = ?", (ident,)).fetchone()
    return None if row is None else _row(row)


def unfinished(db: sqlite3.Connection) -> list[ImportRow]:
    """Imports that wait or run, the oldest first."""
    return [_row(row) for row in db.execute("SELECT * FROM import WHERE state = 'running' ORDER BY made_at")]


def end(db: sqlite3.Connection, ident: str, state: str, sentence: str = "", project_id: str | None = None) -> None:
    """Keep what became of it, with the sentence that says why."""
    db.execute(
        "UPDATE import SET state = ?, sentence = ?, project_id = ? WHERE id = ?",
        (state, sentence, project_id, ident),
    )


def _row(row: sqlite3.Row) -> ImportRow:
    media = MediaRow(row["key"], row["suffix"], row["name"], row["bytes"], None)
    return ImportRow(
        row["id"],
        media,
        row["part"],
        json.loads(row["purpose"]),
        row["state"],
        row["sentence"],
        row["project_id"],
    )
