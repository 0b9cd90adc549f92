"""Which files are named by anything that is kept: projects with all their history, exports, looks, chains, batches."""

from __future__ import annotations

import re
import sqlite3

_KEY = re.compile(r"[0-9a-f]{64}")

_NAMING = (
    ("document", "text"),
    ("step", "patch"),
    ("edit", "forward"),
    ("edit", "backward"),
    ("version", "document"),
    ("export", "document"),
    ("review", "document"),
    ("batch", "document"),
    ("batch", "files"),
    ("batch", "rows"),
    ("import", "key"),
    ("look", "look"),
    ("effect_chain", "chain"),
    ("export_setting", "asked"),
)
"""Tables and columns of JSON, or of keys, in which files are named by their content hash."""


def referenced_keys(db: sqlite3.Connection) -> set[str]:
    """The content hashes of all files that anything names: also what lies in the bin, and what an undo would bring
    back."""
    result: set[str] = set()
    for table, column in _NAMING:
        for (text,) in db.execute(f"SELECT {column} FROM {table} WHERE {column} IS NOT NULL"):
            result.update(_KEY.findall(text))
    return result
