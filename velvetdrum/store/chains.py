"""Effect chains under names, shared by all projects."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from typing import Any

from velvetdrum.store.db import StoreError

MOST = 300
LONGEST_NAME = 60


def listed(db: sqlite3.Connection) -> list[dict[str, Any]]:
    """All chains as id, name and chain, by name."""
    rows = db.execute("SELECT * FROM effect_chain ORDER BY name COLLATE NOCASE").fetchall()
    return [{"id": row["id"], "name": row["name"], "chain": json.loads(row["chain"])} for row in rows]


def save(db: sqlite3.Connection, name: str, chain: dict[str, Any]) -> str:
    """Keep a chain under a name; one that is there already gets the new effects. Gives the id."""
    known = db.execute("SELECT id FROM effect_chain WHERE name = ?", (name,)).fetchone()
    if known is None and db.execute("SELECT COUNT(*) FROM effect_chain").fetchone()[0] >= MOST:
        raise StoreError(f"There are {MOST} chains already; delete one first.")
    ident = known["id"] if known else secrets.token_hex(6)
    db.execute(
        "INSERT INTO effect_chain (id, name, chain, made_at) VALUES (?, ?, ?, ?)"
        " ON CONFLICT (id) DO UPDATE SET chain = excluded.chain",
        (ident, name, json.dumps(chain), time.time()),
    )
    return str(ident)


def delete(db: sqlite3.Connection, ident: str) -> bool:
    """True when there was such a chain."""
    return db.execute("DELETE FROM effect_chain WHERE id = ?", (ident,)).rowcount > 0
