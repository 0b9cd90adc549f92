"""Analyses of sounds by their content, kept between commands in the user's cache folder, which may be deleted."""

from __future__ import annotations

import contextlib
import os
import shutil
import tempfile
import time
from pathlib import Path

import platformdirs

from velvetdrum.audio.analysis import is_current
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.limits import door

FOLDER = "VELVETDRUM_ANALYSES"
"""Environment variable with the folder in which analyses are kept, in place of the user's cache folder."""

MOST_BYTES = 1 << 30
"""How much is kept at the most: some eight hours of sound."""

_HALF_MADE_S = 6 * 3600.0
"""Age from which on what was not finished is removed."""


def analyse_into(sound: Path, folder: Path, key: str = "") -> None:
    """Reader: the analysis of a sound, into a folder."""
    analyse(sound, folder, key=key)


def analysis_into(sound: Path, folder: Path, key: str) -> None:
    """Put the analysis of a sound, named by the hash of its content, into a folder, in place of what is there.

    It is a copy of what is kept, where that is of this version: so neither deleting the cache nor another command can
    take it away. Raises as `analyse` does.
    """
    shutil.rmtree(folder, ignore_errors=True)
    base = _base()
    kept = base / key if base else None
    if kept is not None and _is_copied(kept, folder):
        return
    door.read(analyse_into, sound, folder, key=key, bounds=door.RECORDING)
    if base is not None and kept is not None:
        with contextlib.suppress(OSError):
            _keep(folder, kept)
            _clean(base)


def _base() -> Path | None:
    own = os.environ.get(FOLDER)
    base = Path(own) if own else platformdirs.user_cache_path("velvetdrum") / "analyses"
    try:
        base.mkdir(mode=0o700, parents=True, exist_ok=True)
        return base if base.stat().st_uid == os.getuid() else None
    except OSError:
        return None


def _is_copied(kept: Path, folder: Path) -> bool:
    if not is_current(kept):
        return False
    try:
        shutil.copytree(kept, folder)
        os.utime(kept)
    except (OSError, shutil.Error):
        # Another command removed it meanwhile.
        shutil.rmtree(folder, ignore_errors=True)
        return False
    return is_current(folder)


def _keep(folder: Path, kept: Path) -> None:
    """Copied beside and renamed: what lies under its name is whole."""
    beside = Path(tempfile.mkdtemp(prefix="half-", dir=kept.parent))
    try:
        shutil.copytree(folder, beside / "analysis")
        shutil.rmtree(kept, ignore_errors=True)
        (beside / "analysis").rename(kept)
    finally:
        shutil.rmtree(beside, ignore_errors=True)


def _clean(base: Path) -> None:
    """Remove what was not finished, and what was used longest ago, until the rest fits."""
    left = MOST_BYTES
    entries = sorted(base.iterdir(), key=lambda entry: entry.lstat().st_mtime, reverse=True)
    for entry in entries:
        if entry.name.startswith("half-"):
            if time.time() - entry.lstat().st_mtime > _HALF_MADE_S:
                shutil.rmtree(entry, ignore_errors=True)
            continue
        left -= sum(path.lstat().st_size for path in entry.rglob("*"))
        if left < 0:
            shutil.rmtree(entry, ignore_errors=True)
