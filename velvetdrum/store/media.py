"""Original files, kept once by content, and where their analyses lie."""

from __future__ import annotations

import hashlib
import json
import math
import os
import re
import secrets
import shutil
import sqlite3
import time
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from velvetdrum.store.db import StoreError

MOST_PICTURE = 60_000_000
"""Bytes of a picture that is taken, alone or in a project file."""
_KEY = re.compile(r"[0-9a-f]{64}")


@dataclass(frozen=True)
class MediaRow:
    """A stored original. `facts` is what its analysis found, or None before."""

    key: str
    suffix: str
    name: str
    bytes: int
    facts: dict[str, Any] | None


class TooLarge(StoreError):
    """An upload is larger than allowed."""


class MediaFolder:
    """The folder of a data directory that holds originals and analyses."""

    def __init__(self, root: Path) -> None:
        self.originals, self.analyses, self.incoming = root / "media", root / "analysis", root / "incoming"
        self.clips = root / "clips"
        for folder in (self.originals, self.analyses, self.incoming, self.clips):
            folder.mkdir(parents=True, exist_ok=True)

    def original(self, media: MediaRow) -> Path:
        """Where the untouched file of a key lies."""
        return self.originals / f"{_checked(media.key)}{media.suffix}"

    def analysis(self, key: str) -> Path:
        """Where the analysis of a key lies."""
        return self.analyses / _checked(key)

    def opening(self, key: str) -> Path:
        """Where the analysis of a recording's first seconds lies, for as long as the rest is listened to."""
        return self.incoming / f"{_checked(key)}.opening"

    def clip(self, key: str) -> Path:
        """The folder of what is prepared of a clip."""
        return self.clips / _checked(key)

    def receive(self, chunks: Iterable[bytes], name: str, limit: int) -> tuple[MediaRow, Path]:
        """Write a stream of bytes to a file of its own and give what is known of it, and where it lies.

        The content decides the key. Raises TooLarge past `limit` bytes; a broken or refused upload leaves
        nothing behind.
        """
        part = self.incoming / secrets.token_hex(8)
        digest, size = hashlib.sha256(), 0
        try:
            with part.open("wb") as file:
                for chunk in chunks:
                    size += len(chunk)
                    if size > limit:
                        raise TooLarge(
                            f"The file is larger than {limit / 1e9:.0f} GB, which is the most that is taken."
                        )
                    digest.update(chunk)
                    file.write(chunk)
                file.flush()
                os.fsync(file.fileno())
        except BaseException:
            part.unlink(missing_ok=True)
            raise
        return MediaRow(digest.hexdigest(), safe_suffix(name), clean_name(name), size, None), part

    def keep(self, db: sqlite3.Connection, media: MediaRow, part: Path) -> MediaRow:
        """Move a received file to its place and remember it. The same content is kept once."""
        known = find(db, media.key)
        if known is not None and self.original(known).exists():
            part.unlink(missing_ok=True)
            return known
        part.replace(self.original(media))
        db.execute(
            "INSERT INTO media (key, suffix, name, bytes, added_at) VALUES (?, ?, ?, ?, ?)"
            " ON CONFLICT (key) DO UPDATE SET suffix = excluded.suffix",
            (media.key, media.suffix, media.name, media.bytes, time.time()),
        )
        return media

    def sweep(self, wanted: set[str]) -> None:
        """Remove uploads that a killed process left, but for the names in `wanted`, and half-made analyses."""
        for left in self.incoming.iterdir():
            if left.name not in wanted:
                _remove(left)
        for left in (*self.analyses.glob("*.part-*"), *self.clips.glob("*.part-*")):
            shutil.rmtree(left, ignore_errors=True)


def _checked(key: str) -> str:
    """A key that is a content hash and nothing else: what becomes part of a path is never what somebody wrote."""
    if not _KEY.fullmatch(key):
        raise StoreError("A file is named by the hash of its content; this is none.")
    return key


def _remove(path: Path) -> None:
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path, ignore_errors=True)
    else:
        path.unlink(missing_ok=True)


def find(db: sqlite3.Connection, key: str) -> MediaRow | None:
    """The file with a key; None when there is none."""
    row = db.execute("SELECT * FROM media WHERE key = ?", (key,)).fetchone()
    if row is None:
        return None
    facts = json.loads(row["facts"]) if row["facts"] else None
    return MediaRow(row["key"], row["suffix"], row["name"], row["bytes"], facts)


def forget(db: sqlite3.Connection, key: str) -> None:
    """Forget a file, whose bytes are deleted."""
    db.execute("DELETE FROM media WHERE key = ?", (key,))


def listed(db: sqlite3.Connection, before: float = math.inf) -> list[MediaRow]:
    """All stored originals that came in before a time (seconds since 1970), the newest first."""
    keys = db.execute("SELECT key FROM media WHERE added_at < ? ORDER BY added_at DESC", (before,)).fetchall()
    return [row for row in (find(db, key["key"]) for key in keys) if row is not None]


def set_facts(db: sqlite3.Connection, key: str, facts: dict[str, Any]) -> None:
    """Keep what is known of a file."""
    db.execute("UPDATE media SET facts = ? WHERE key = ?", (json.dumps(facts), key))


def clean_name(name: str) -> str:
    """A file's name as text that can be shown: no path, no control characters, never empty."""
    last = name.replace("\\", "/").rsplit("/", 1)[-1]
    shown = "".join(c for c in last if c.isprintable()).strip()
    return shown[:200] or "Untitled"


def safe_suffix(name: str) -> str:
    """The file's ending where it is a plain one, else none; used for the stored name only."""
    suffix = Path(clean_name(name)).suffix.lower()
    return suffix if 1 < len(suffix) < 9 and suffix[1:].isalnum() and suffix.isascii() else ""
