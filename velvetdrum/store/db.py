"""The database file: opening it, and bringing it to the current schema."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path

SCHEMA_VERSION = 8

# One script for each step from version n to n + 1, in order; version 0 is an empty file.
_STEPS = (
    "schema.sql",
    "palettes.sql",
    "sessions.sql",
    "upgrades.sql",
    "alignments.sql",
    "chains.sql",
    "queue.sql",
    "export_settings.sql",
)


class StoreError(Exception):
    """What is asked of the store can't be done. The text is a sentence."""


def open_database(path: Path) -> sqlite3.Connection:
    """Open the database, creating or migrating it. Rows answer to their column names.

    Raises StoreError when the file was written by a newer version.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    # Somebody waits for an answer: what is held longer than this is told, and tried again by the page.
    connection = sqlite3.connect(path, timeout=5, isolation_level=None)
    connection.row_factory = sqlite3.Row
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA foreign_keys = ON")
    # With WAL, NORMAL survives a killed process; FULL also survives a power cut, and edits are small.
    connection.execute("PRAGMA synchronous = FULL")
    _migrate(connection)
    return connection


@contextmanager
def transaction(connection: sqlite3.Connection) -> Iterator[sqlite3.Connection]:
    """All or nothing; other writers wait from the first line on."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield connection
    except BaseException:
        # On a full disk SQLite has ended the transaction by itself.
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")


def _migrate(connection: sqlite3.Connection) -> None:
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    if version > SCHEMA_VERSION:
        raise StoreError(f"The data folder was written by a newer version (schema {version}); use that one.")
    if version == SCHEMA_VERSION:
        return
    with transaction(connection):
        # Another process may have done it while this one waited.
        version = connection.execute("PRAGMA user_version").fetchone()[0]
        for number in range(version, SCHEMA_VERSION):
            script = files("velvetdrum.store").joinpath(_STEPS[number]).read_text()
            for statement in _statements(script):
                connection.execute(statement)
        connection.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")


def _statements(script: str) -> Iterator[str]:
    """The statements of a script, one at a time, so that they stay inside the transaction."""
    held = ""
    for line in script.splitlines(keepends=True):
        held += line
        if sqlite3.complete_statement(held):
            yield held
            held = ""
