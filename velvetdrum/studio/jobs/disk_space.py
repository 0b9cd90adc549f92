"""Room on the disk: files that nothing names any more, and finished videos that have lain for long."""

from __future__ import annotations

import shutil
import time
from pathlib import Path
from typing import TYPE_CHECKING, Any

from velvetdrum.picture.media.pictures import LEVELS
from velvetdrum.store import exports, media
from velvetdrum.store.exports import ExportRow
from velvetdrum.store.media import MediaRow
from velvetdrum.store.references import referenced_keys

if TYPE_CHECKING:
    from velvetdrum.studio.services import Services

_DAY_S = 86_400.0


class DiskSpace:
    """What may be deleted from a data folder without any project missing it."""

    days = 30
    """After which a finished video counts as old."""
    rest_s = 3600.0
    """What came in within this time is left: it may be about to be used."""

    def __init__(self, services: Services) -> None:
        self._services = services

    def state(self) -> dict[str, Any]:
        """How many unused files and old videos there are, and the bytes that cleaning would free."""
        unused, videos = self._unused(), self._old_videos()
        return {
            "unused": {"count": len(unused), "bytes": sum(_bytes(path) for row in unused for path in self._files(row))},
            "videos": {"count": len(videos), "bytes": sum(row.bytes or 0 for row in videos)},
            "days": self.days,
        }

    def clean_unused(self) -> int:
        """Delete files that nothing names; gives the bytes that this freed."""
        freed = 0
        for row in self._unused():
            for path in self._files(row):
                freed += _bytes(path)
                shutil.rmtree(path) if path.is_dir() else path.unlink(missing_ok=True)
            media.forget(self._services.db, row.key)
        return freed

    def clean_videos(self) -> int:
        """Delete the files of old videos, which stay in their lists; gives the bytes that this freed."""
        return self._services.exports.remove(self._old_videos())

    def _unused(self) -> list[MediaRow]:
        here = self._services
        used, before = referenced_keys(here.db), time.time() - self.rest_s
        # Typefaces are a shelf of their own: they stand there until somebody takes one.
        return [
            row
            for row in media.listed(here.db, before)
            if row.key not in used and not (row.facts or {}).get("typeface")
        ]

    def _old_videos(self) -> list[ExportRow]:
        return exports.ended_before(self._services.db, time.time() - self.days * _DAY_S)

    def _files(self, row: MediaRow) -> list[Path]:
        folder = self._services.folder
        original = folder.original(row)
        beside = (original, Path(f"{original}{LEVELS}"), folder.analysis(row.key), folder.clip(row.key))
        return [path for path in beside if path.exists()]


def _bytes(path: Path) -> int:
    if path.is_dir():
        return sum(file.stat().st_size for file in path.rglob("*") if file.is_file())
    return path.stat().st_size
