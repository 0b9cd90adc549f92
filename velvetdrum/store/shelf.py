"""Shelves: things under names, shared by all projects, each a row of JSON."""

from __future__ import annotations

import json
import secrets
import sqlite3
import time
from dataclasses import dataclass
from typing import Any

from velvetdrum.store.db import StoreError

LONGEST_NAME = 60


@dataclass(frozen=True)
class Shelf:
    """A table with `id`, `name`, a column of JSON and `made_at`, and how many rows it may have. Names of the table and
    of the column are the program's own, never a user's."""

    table: str
    column: str
    called: str
    most: int

    def listed(self, db: sqlite3.Connection) -> list[dict[str, Any]]:
        """All of them as id, name and what is kept under the column's name, by name."""
        rows = db.execute(f"SELECT * FROM {self.table} ORDER BY name COLLATE NOCASE").fetchall()
        return [{"id": row["id"], "name": row["name"], self.column: json.loads(row[self.column])} for row in rows]

    def save(self, db: sqlite3.Connection, name: str, value: Any) -> str:
        """Keep something under a name; what has that name already is replaced. Gives the id. Raises StoreError."""
        known = db.execute(f"SELECT id FROM {self.table} WHERE name = ?", (name,)).fetchone()
        if known is None and db.execute(f"SELECT COUNT(*) FROM {self.table}").fetchone()[0] >= self.most:
            raise StoreError(f"There are {self.most} {self.called} already; delete one first.")
        ident = known["id"] if known else secrets.token_hex(6)
        db.execute(
            f"INSERT INTO {self.table} (id, name, {self.column}, made_at) VALUES (?, ?, ?, ?)"
            f" ON CONFLICT (id) DO UPDATE SET {self.column} = excluded.{self.column}",
            (ident, name, json.dumps(value), time.time()),
        )
        return str(ident)

    def delete(self, db: sqlite3.Connection, ident: str) -> bool:
        """True when there was such a one."""
        return db.execute(f"DELETE FROM {self.table} WHERE id = ?", (ident,)).rowcount > 0


PALETTES = Shelf("palette", "stops", "palettes", 500)
CHAINS = Shelf("effect_chain", "chain", "chains", 300)
LOOKS = Shelf("look", "look", "looks", 300)
EXPORT_SETTINGS = Shelf("export_setting", "asked", "kept settings", 100)
