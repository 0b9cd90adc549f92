"""Palettes under names, shared by all projects."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from typing import Any

from velvetdrum.store.db import StoreError

MOST = 500
LONGEST_NAME = 60


def listed(db: sqlite3.Connection) -> list[dict[str, Any]]:
    """All palettes as id, name and stops, by name."""
    rows = db.execute("SELECT * FROM palette ORDER BY name COLLATE NOCASE").fetchall()
    return [{"id": row["id"], "name": row["name"], "stops": json.loads(row["stops"])} for row in rows]


def save(db: sqlite3.Connection, name: str, stops: list[dict[str, Any]]) -> str:
    """Keep stops under a name; one that is there already gets the new ones. Gives the id."""
    known = db.execute("SELECT id FROM palette WHERE name = ?", (name,)).fetchone()
    if known is None and db.execute("SELECT COUNT(*) FROM palette").fetchone()[0] >= MOST:
        raise StoreError(f"There are {MOST} palettes already; delete one first.")
    ident = known["id"] if known else secrets.token_hex(6)
    db.execute(
        "INSERT INTO palette (id, name, stops, made_at) VALUES (?, ?, ?, ?)"
        " ON CONFLICT (id) DO UPDATE SET stops = excluded.stops",
        (ident, name, json.dumps(stops), time.time()),
    )
    return str(ident)


def delete(db: sqlite3.Connection, ident: str) -> bool:
    """True when there was such a palette."""
    return db.execute("DELETE FROM palette WHERE id = ?", (ident,)).rowcount > 0
