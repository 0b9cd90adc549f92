"""The database file: opening it, and bringing it to the current schema."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path
from typing import Any

SCHEMA_VERSION = 13

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
    "steps.sql",
    "documents.sql",
    "looks.sql",
    "project_tags.sql",
    "versions.sql",
)


class Moved(sqlite3.OperationalError):
    """The file of the database is no longer where it was opened: deleted, or another one was put in its place."""


class Database(sqlite3.Connection):
    """A connection that works on the file which has the name, and on no other: what is written to one that was deleted
    is lost."""

    path: Path | None = None
    _file: tuple[int, int] | None = None
    _log: tuple[int, int] | None = None

    def hold(self, path: Path) -> None:
        """Take the file that has the name now for the one that is worked on."""
        self.path, self._file, self._log = path, _identity(path), _identity(_log_of(path))

    @property
    def is_there(self) -> bool:
        """True while the file has its name."""
        return self.path is None or _identity(self.path) == self._file

    def check(self) -> None:
        """Raises Moved when the file is not there any more."""
        if not self.is_there:
            raise Moved("the file of the database was deleted, or another one is in its place")

    def set_log_aside(self) -> None:
        """Take the log of the file that was here before out of the way of the one that has its name now: SQLite would
        read it as that one's."""
        if self.path is None or self.is_there:
            return
        log = _log_of(self.path)
        if self._log is not None and _identity(log) == self._log:
            log.replace(log.with_name(f"{log.name}.{time.time_ns()}"))
            log.with_name(f"{self.path.name}-shm").unlink(missing_ok=True)

    def execute(self, sql: str, parameters: Any = (), /) -> sqlite3.Cursor:
        """Run one statement. Raises Moved where the file is not there, before it and, for one that writes, after it."""
        self.check()
        done = super().execute(sql, parameters)
        if not sql.startswith(("SELECT", "BEGIN", "PRAGMA")):
            # Nothing is acknowledged that went to a file without a name.
            self.check()
        return done


def _log_of(path: Path) -> Path:
    """The write-ahead log of a database."""
    return path.with_name(f"{path.name}-wal")


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        result = path.stat()
    except OSError:
        return None
    return result.st_dev, result.st_ino


class StoreError(Exception):
    """What is asked of the store can't be done. The text is a sentence."""


def open_database(path: Path) -> Database:
    """Open the database, creating or migrating it. Rows answer to their column names.

    Raises StoreError when the file was written by a newer version.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    # Somebody waits for an answer: what is held longer than this is told, and tried again by the page.
    connection = sqlite3.connect(path, timeout=5, isolation_level=None, factory=Database)
    connection.row_factory = sqlite3.Row
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA foreign_keys = ON")
    # With WAL, NORMAL survives a killed process; FULL also survives a power cut, and edits are small.
    connection.execute("PRAGMA synchronous = FULL")
    _migrate(connection)
    connection.hold(path)
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
