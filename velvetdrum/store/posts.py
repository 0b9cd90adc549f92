"""Finished files on their way to channels; a restart finds those that were interrupted."""

from __future__ import annotations

import secrets
import sqlite3
import time
from dataclasses import dataclass


@dataclass(frozen=True)
class PostRow:
    """A post: which file, to which channel, how many bytes are there, and what came back."""

    id: str
    export_id: str
    channel: str
    title: str
    state: str
    sent: int
    upload: str
    answer: str
    made_at: float


def create(db: sqlite3.Connection, export_id: str, channel: str, title: str) -> str:
    """Keep a new post that is sent from now on."""
    ident = secrets.token_hex(6)
    db.execute(
        "INSERT INTO post (id, export_id, channel, title, state, made_at) VALUES (?, ?, ?, ?, 'running', ?)",
        (ident, export_id, channel, title, time.time()),
    )
    return ident


def find(db: sqlite3.Connection, ident: str) -> PostRow | None:
    """The post with an id; None when there is none."""
    row = db.execute("SELECT * FROM post WHERE id = ?", (ident,)).fetchone()
    return None if row is None else PostRow(*row)


def of_export(db: sqlite3.Connection, export_id: str) -> list[PostRow]:
    """A file's posts, the newest first."""
    return [
        PostRow(*row)
        for row in db.execute("SELECT * FROM post WHERE export_id = ? ORDER BY made_at DESC", (export_id,))
    ]


def unfinished(db: sqlite3.Connection) -> list[PostRow]:
    """Posts that are being sent, the oldest first."""
    return [PostRow(*row) for row in db.execute("SELECT * FROM post WHERE state = 'running' ORDER BY made_at")]


def set_sent(db: sqlite3.Connection, ident: str, sent: int, upload: str) -> None:
    """Keep how many bytes are there, and what the channel calls what is being sent."""
    db.execute("UPDATE post SET sent = ?, upload = ? WHERE id = ?", (sent, upload, ident))


def set_running(db: sqlite3.Connection, ident: str) -> None:
    """Send it again, on from where it stopped."""
    db.execute("UPDATE post SET state = 'running', answer = '' WHERE id = ?", (ident,))


def end(db: sqlite3.Connection, ident: str, state: str, answer: str) -> None:
    """Keep what became of it; what was refused begins anew when it is sent again."""
    db.execute(
        "UPDATE post SET state = ?, answer = ?, upload = CASE WHEN ? = 'failed' THEN '' ELSE upload END WHERE id = ?",
        (state, answer, "failed" if state == "failed" and answer.startswith("Refused") else "", ident),
    )
