"""Who is signed in. Tokens are kept as digests: whoever reads the database can't use them."""

from __future__ import annotations

import hashlib
import secrets
import sqlite3
import time

LONGEST_S = 30 * 24 * 3600.0
IDLE_S = 7 * 24 * 3600.0
_SEEN_EVERY_S = 600.0


def create(db: sqlite3.Connection) -> str:
    """Begin a session. Gives the token for its cookie."""
    token, now = secrets.token_urlsafe(32), time.time()
    db.execute("DELETE FROM session WHERE made_at < ? OR seen_at < ?", (now - LONGEST_S, now - IDLE_S))
    db.execute("INSERT INTO session (digest, made_at, seen_at) VALUES (?, ?, ?)", (_digest(token), now, now))
    return token


def is_open(db: sqlite3.Connection, token: str) -> bool:
    """True for the token of a session that has not ended."""
    now = time.time()
    row = db.execute("SELECT made_at, seen_at FROM session WHERE digest = ?", (_digest(token),)).fetchone()
    if row is None or row["made_at"] < now - LONGEST_S or row["seen_at"] < now - IDLE_S:
        return False
    if now - row["seen_at"] > _SEEN_EVERY_S:
        db.execute("UPDATE session SET seen_at = ? WHERE digest = ?", (now, _digest(token)))
    return True


def end(db: sqlite3.Connection, token: str) -> None:
    """Forget a session: who held it is signed out."""
    db.execute("DELETE FROM session WHERE digest = ?", (_digest(token),))


def end_all(db: sqlite3.Connection) -> None:
    """Sign everybody out, as when the password changes."""
    db.execute("DELETE FROM session")


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
