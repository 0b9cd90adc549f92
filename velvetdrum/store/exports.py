"""Exports: what was asked for, in which order, how far it is, how it ended."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from dataclasses import dataclass
from typing import Any

from velvetdrum.store.db import transaction

_MOST_LISTED = 200


@dataclass(frozen=True)
class ExportRow:
    """An export. `plan` holds the planned values; `done` counts frames; `held` says why it waits out of turn."""

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
    place: float = 0.0
    held: str = ""
    needs: int = 0
    revision: int = 0
    worked_s: float = 0.0
    bytes: int | None = None
    found: dict[str, Any] | None = None
    removed_at: float | None = None
    batch: str = ""


def create(
    db: sqlite3.Connection,
    project_id: str,
    name: str,
    document: dict[str, Any],
    plan: dict[str, Any],
    *,
    revision: int = 0,
    batch: str = "",
) -> str:
    """Keep a new export that waits for its turn, behind all others."""
    ident = secrets.token_hex(6)
    now = time.time()
    db.execute(
        "INSERT INTO export (id, project_id, name, document, plan, state, made_at, place, revision, batch)"
        " VALUES (?, ?, ?, ?, ?, 'waiting', ?, ?, ?, ?)",
        (ident, project_id, name, json.dumps(document), json.dumps(plan), now, now, revision, batch),
    )
    return ident


def ended_before(db: sqlite3.Connection, time_s: float) -> list[ExportRow]:
    """Finished exports that ended before a time (seconds since 1970) and whose files are still there."""
    rows = db.execute(
        "SELECT * FROM export WHERE state = 'done' AND removed_at IS NULL AND ended_at < ? ORDER BY ended_at", (time_s,)
    )
    return [_row(row) for row in rows]


def find(db: sqlite3.Connection, ident: str) -> ExportRow | None:
    """The export with an id; None when there is none."""
    row = db.execute("SELECT * FROM export WHERE id = ?", (ident,)).fetchone()
    return None if row is None else _row(row)


def of_project(db: sqlite3.Connection, project_id: str) -> list[ExportRow]:
    """A project's exports, the newest first."""
    rows = db.execute("SELECT * FROM export WHERE project_id = ? ORDER BY made_at DESC LIMIT 50", (project_id,))
    return [_row(row) for row in rows]


def of_batch(db: sqlite3.Connection, batch: str) -> list[ExportRow]:
    """A batch's exports, the oldest first."""
    return [_row(row) for row in db.execute("SELECT * FROM export WHERE batch = ? ORDER BY made_at", (batch,))]


def listed(db: sqlite3.Connection) -> list[ExportRow]:
    """What waits or is being made, in its order, then what ended, the newest first; up to 200 of the latter."""
    line = db.execute("SELECT * FROM export WHERE state IN ('waiting', 'running') ORDER BY place")
    ended = db.execute(
        "SELECT * FROM export WHERE state NOT IN ('waiting', 'running') ORDER BY ended_at DESC LIMIT ?",
        (_MOST_LISTED,),
    )
    return [_row(row) for row in (*line, *ended)]


def first_waiting(db: sqlite3.Connection) -> ExportRow | None:
    """The export whose turn it is: in line, or left in the middle by a stopped or killed server."""
    row = db.execute(
        "SELECT * FROM export WHERE state IN ('waiting', 'running') AND held = '' ORDER BY place LIMIT 1"
    ).fetchone()
    return None if row is None else _row(row)


def waiting_for_room(db: sqlite3.Connection) -> list[ExportRow]:
    """Those that go on when there is room on the disk."""
    return [_row(row) for row in db.execute("SELECT * FROM export WHERE held = 'room' ORDER BY place")]


def set_first(db: sqlite3.Connection, ident: str) -> None:
    """Put an export before all others that wait."""
    with transaction(db):
        lowest = db.execute("SELECT min(place) FROM export WHERE state IN ('waiting', 'running')").fetchone()[0]
        db.execute("UPDATE export SET place = ? WHERE id = ?", ((lowest or 0.0) - 1.0, ident))


def set_order(db: sqlite3.Connection, idents: list[str]) -> None:
    """Put exports that wait into an order; others keep theirs behind them."""
    with transaction(db):
        lowest = db.execute("SELECT min(place) FROM export WHERE state IN ('waiting', 'running')").fetchone()[0]
        begin = (lowest or 0.0) - len(idents)
        for number, ident in enumerate(idents):
            db.execute("UPDATE export SET place = ? WHERE id = ? AND state = 'waiting'", (begin + number, ident))


def set_held(db: sqlite3.Connection, ident: str, held: str, sentence: str = "", needs: int = 0) -> None:
    """Let an export wait out of turn (`paused`, or `room`), or put it in line again (an empty word)."""
    db.execute(
        "UPDATE export SET held = ?, sentence = ?, needs = ?, state = 'waiting'"
        " WHERE id = ? AND state IN ('waiting', 'running')",
        (held, sentence, needs, ident),
    )


def set_progress(db: sqlite3.Connection, ident: str, done: int) -> None:
    """Keep how many frames are done."""
    db.execute(
        "UPDATE export SET done = ?, state = 'running' WHERE id = ? AND state IN ('waiting', 'running')",
        (done, ident),
    )


def add_work(db: sqlite3.Connection, ident: str, seconds: float) -> None:
    """Count seconds in which it was being made."""
    db.execute("UPDATE export SET worked_s = worked_s + ? WHERE id = ?", (seconds, ident))


def set_state(db: sqlite3.Connection, ident: str, state: str, sentence: str = "", size: int | None = None) -> None:
    """Keep what became of it, with the sentence that says why it stopped, and how large its file is."""
    ended = time.time() if state in ("done", "failed", "cancelled") else None
    db.execute(
        "UPDATE export SET state = ?, sentence = ?, ended_at = ?, held = '', bytes = coalesce(?, bytes),"
        " removed_at = CASE WHEN ? = 'waiting' THEN NULL ELSE removed_at END WHERE id = ?",
        (state, sentence, ended, size, state, ident),
    )


def set_findings(db: sqlite3.Connection, ident: str, found: dict[str, Any]) -> None:
    """Keep what the finished file was found to be."""
    db.execute("UPDATE export SET found = ? WHERE id = ?", (json.dumps(found), ident))


def set_removed(db: sqlite3.Connection, ident: str) -> None:
    """Keep that its file was cleaned up."""
    db.execute("UPDATE export SET removed_at = ? WHERE id = ?", (time.time(), ident))


def fact(db: sqlite3.Connection, name: str) -> Any:
    """A fact about this server; None when it was never said."""
    row = db.execute("SELECT value FROM fact WHERE name = ?", (name,)).fetchone()
    return None if row is None else json.loads(row[0])


def set_fact(db: sqlite3.Connection, name: str, value: Any) -> None:
    """Keep a fact about this server."""
    db.execute("INSERT OR REPLACE INTO fact (name, value) VALUES (?, ?)", (name, json.dumps(value)))


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
        row["place"],
        row["held"],
        row["needs"],
        row["revision"],
        row["worked_s"],
        row["bytes"],
        None if row["found"] is None else json.loads(row["found"]),
        row["removed_at"],
        row["batch"],
    )
