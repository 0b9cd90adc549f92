"""Backups of a data folder: the database by SQLite's own backup, originals by the hash of their content."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import sqlite3
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from velvetdrum.store.db import SCHEMA_VERSION, StoreError

DATABASE, MEDIA, LIST = "velvetdrum.sqlite3", "media", "backup.json"
_FORM = 1
_PIECE = 1 << 20

Tell = Callable[[str], None]


@dataclass(frozen=True)
class BackupResult:
    """What a backup, a restore or a check went through: files, those that were copied, and their bytes."""

    files: int
    copied: int
    bytes: int


def back_up(data: Path, target: Path, tell: Tell = lambda line: None) -> BackupResult:
    """Copy a data folder's projects and originals to a folder; what lies there already is not copied again. The studio
    may run meanwhile: the database is copied as of one moment, and originals never change.

    Raises StoreError where there is nothing to back up, or where an original is missing or damaged.
    """
    if not (data / DATABASE).is_file():
        raise StoreError(f"There are no projects in {data}.")
    if target.resolve() == data.resolve() or data.resolve() in target.resolve().parents:
        raise StoreError("A backup lies outside of the data folder.")
    (target / MEDIA).mkdir(parents=True, exist_ok=True)
    beside = target / f"{DATABASE}.new"
    beside.unlink(missing_ok=True)
    with sqlite3.connect(f"file:{data / DATABASE}?mode=ro", uri=True) as source, sqlite3.connect(beside) as copy:
        source.backup(copy, pages=256)
    source.close()
    copy.execute("PRAGMA journal_mode = DELETE")
    rows = copy.execute("SELECT key, suffix FROM media ORDER BY key").fetchall()
    copy.close()
    names = [f"{key}{suffix}" for key, suffix in rows]
    copied = total = 0
    for name in names:
        original, kept = data / MEDIA / name, target / MEDIA / name
        if not original.is_file():
            # A file that is gone is told in the studio, too; the rest is worth keeping.
            tell(f"{name[:12]} is missing in the data folder and not in the backup.")
            continue
        if not kept.is_file() or kept.stat().st_size != original.stat().st_size:
            _copied(original, kept)
            copied += 1
        total += original.stat().st_size
    settings = [path.name for path in data.iterdir() if path.is_file() and path.suffix == ".json"]
    for name in settings:
        shutil.copyfile(data / name, target / name)
    kept_names = [name for name in names if (target / MEDIA / name).is_file()]
    listing = {
        "form": _FORM,
        "schema": SCHEMA_VERSION,
        "made_at": time.time(),
        "database": _hash(beside),
        "media": kept_names,
        "settings": {name: _hash(target / name) for name in settings},
    }
    _write(target / f"{LIST}.new", json.dumps(listing, indent=1).encode())
    # The list last: a backup that was stopped is the one before it, or none.
    os.replace(beside, target / DATABASE)
    os.replace(target / f"{LIST}.new", target / LIST)
    return BackupResult(len(kept_names), copied, total)


def verify(backup: Path) -> BackupResult:
    """Read every byte of a backup. Raises StoreError with the first thing that is wrong."""
    listing = _listing(backup)
    if _hash(backup / DATABASE) != listing["database"]:
        raise StoreError("The database of this backup was changed or damaged after it was made.")
    with sqlite3.connect(f"file:{backup / DATABASE}?mode=ro", uri=True) as copy:
        state = copy.execute("PRAGMA integrity_check").fetchone()[0]
    copy.close()
    if state != "ok":
        raise StoreError(f"The database of this backup is damaged: {str(state)[:200]}.")
    for name, digest in listing["settings"].items():
        if not (backup / name).is_file() or _hash(backup / name) != digest:
            raise StoreError(f"{name} of this backup is missing or was changed.")
    total = 0
    for name in listing["media"]:
        path = backup / MEDIA / name
        if not path.is_file():
            raise StoreError(f"{name[:12]} is missing in this backup.")
        if _hash(path) != name[:64]:
            raise StoreError(f"{name[:12]} is damaged in this backup: its content is not what its name says.")
        total += path.stat().st_size
    return BackupResult(len(listing["media"]), 0, total)


def restore(backup: Path, data: Path) -> BackupResult:
    """Put a backup into an empty data folder, every byte checked. What is made of originals the studio makes again.

    Raises StoreError where the folder holds projects, or as `verify`.
    """
    if (data / DATABASE).exists():
        raise StoreError(f"There are projects in {data} already. Restore into another folder, or move them away.")
    listing = _listing(backup)
    found = verify(backup)
    (data / MEDIA).mkdir(parents=True, exist_ok=True)
    copied = 0
    for name in listing["media"]:
        if not (data / MEDIA / name).is_file():
            _copied(backup / MEDIA / name, data / MEDIA / name)
            copied += 1
        if _hash(data / MEDIA / name) != name[:64]:
            raise StoreError(f"{name[:12]} did not arrive whole; nothing else was changed. Try it once more.")
    for name in listing["settings"]:
        shutil.copyfile(backup / name, data / name)
    # The database last: without it the folder is empty still.
    _copied(backup / DATABASE, data / DATABASE)
    return BackupResult(found.files, copied, found.bytes)


def _listing(backup: Path) -> dict[str, Any]:
    try:
        listing = json.loads((backup / LIST).read_text())
    except (OSError, ValueError) as problem:
        raise StoreError(f"{backup} is no backup, or it was stopped before it was whole.") from problem
    right = isinstance(listing, dict) and listing.get("form") == _FORM and isinstance(listing.get("media"), list)
    if not right or not isinstance(listing.get("settings"), dict):
        raise StoreError(f"{backup} was written by another version; use that one.")
    if not all(isinstance(name, str) and _is_plain(name) for name in [*listing["media"], *listing["settings"]]):
        raise StoreError("The list of this backup names files outside of it.")
    return listing


def _is_plain(name: str) -> bool:
    """True for the name of a file that lies in the folder itself."""
    return name == Path(name).name and name not in ("", ".", "..") and len(name) <= 200


def _copied(source: Path, target: Path) -> None:
    """A file copied beside its place, and renamed when it is whole."""
    beside = target.with_name(f"{target.name}.new")
    shutil.copyfile(source, beside)
    with beside.open("rb+") as file:
        os.fsync(file.fileno())
    os.replace(beside, target)


def _write(path: Path, data: bytes) -> None:
    with path.open("wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())


def _hash(path: Path) -> str:
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while piece := file.read(_PIECE):
            digest.update(piece)
    return digest.hexdigest()
