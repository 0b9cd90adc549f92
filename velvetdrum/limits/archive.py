"""ZIP archives that somebody else made: judged by their directory before anything of them is unpacked."""

from __future__ import annotations

import struct
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from velvetdrum.limits import openers

MOST_ENTRIES = 2000
_MOST_DIRECTORY = 4 << 20
_MOST_RATIO = 200
"""Deflate reaches 1032 to 1; media that a project holds are compressed already, and JSON reaches 30."""
_SMALL = 1 << 20
_TAIL = 22 + 65_535


class ArchiveError(ValueError):
    """An archive that is not unpacked. The text is a sentence for the person who brought it."""


@dataclass(frozen=True)
class Entry:
    """A file in an archive, as the directory tells of it. Its name is never used as a path."""

    name: str
    size: int


class Archive:
    """An open archive whose directory was found to be in order."""

    def __init__(self, opened: zipfile.ZipFile) -> None:
        self._opened = opened
        self.entries = {item.filename: Entry(item.filename, item.file_size) for item in opened.infolist()}

    def read(self, name: str, most: int) -> bytes:
        """The bytes of a small entry. Raises ArchiveError when it is larger than `most`, damaged or not there."""
        return b"".join(self.pieces(name, most))

    def pieces(self, name: str, most: int) -> Iterator[bytes]:
        """The bytes of an entry, piece by piece, never more than its directory says."""
        if name not in self.entries:
            raise ArchiveError(f"There is no {name[:80]} in this file.")
        size = self.entries[name].size
        if size > most:
            raise ArchiveError(f"{name[:80]} in this file is larger than {most / 1e6:.0f} MB.")
        got = 0
        try:
            with self._opened.open(name) as source:
                while piece := source.read(1 << 20):
                    got += len(piece)
                    if got > size:
                        raise ArchiveError("This file is damaged: more is in it than its directory says.")
                    yield piece
        except (zipfile.BadZipFile, zlib.error, EOFError, RuntimeError, NotImplementedError, struct.error) as problem:
            raise ArchiveError(
                "This file is damaged: a part of it can't be unpacked. Save or copy it again."
            ) from problem
        if got != size:
            raise ArchiveError("This file is damaged: less is in it than its directory says.")


def looks_like_archive(path: Path) -> bool:
    """True for a file that begins as a ZIP does."""
    with path.open("rb") as file:
        return file.read(4) in (b"PK\x03\x04", b"PK\x05\x06")


@contextmanager
def open_archive(path: Path, *, most_bytes: int, most_entries: int = MOST_ENTRIES) -> Iterator[Archive]:
    """Open a ZIP after a look at its directory: how many entries, how large, how much denser than they can be.

    Raises ArchiveError with a sentence for what is damaged, encrypted, compressed in an unknown way, or would grow
    beyond `most_bytes`.
    """
    _check_end(path, most_entries)
    try:
        opened = openers.archive(path)
    except (zipfile.BadZipFile, NotImplementedError, ValueError, EOFError, struct.error, OverflowError) as problem:
        raise ArchiveError("This file is damaged: its directory can't be read. Save or copy it again.") from problem
    with opened:
        listed = opened.infolist()
        if len(listed) > most_entries:
            raise ArchiveError(f"This file has {len(listed)} parts; up to {most_entries} are read.")
        if len({item.filename for item in listed}) != len(listed):
            raise ArchiveError("This file is damaged: it has two parts of one name.")
        total, packed, whole = 0, 0, path.stat().st_size
        for item in listed:
            if item.flag_bits & 0x1:
                raise ArchiveError("This file is encrypted, which is not read. Save it without a password.")
            if item.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
                raise ArchiveError("This file is compressed in a way that is not read. Save it as a plain ZIP.")
            if item.file_size > _SMALL and item.file_size > _MOST_RATIO * max(item.compress_size, 1):
                raise ArchiveError("This file unpacks to far more than it is; it is not read.")
            total, packed = total + item.file_size, packed + item.compress_size
        if packed > whole:
            raise ArchiveError("This file is damaged: its parts lie over each other.")
        if total > most_bytes:
            raise ArchiveError(f"This file unpacks to {total / 1e9:.1f} GB; up to {most_bytes / 1e9:.1f} GB is read.")
        yield Archive(opened)


def _check_end(path: Path, most_entries: int) -> None:
    """Look at the record at a ZIP's end (APPNOTE 4.3.16), so that no long directory is read to find it too long."""
    size = path.stat().st_size
    with path.open("rb") as file:
        file.seek(max(size - _TAIL, 0))
        tail = file.read(_TAIL)
    at = tail.rfind(b"PK\x05\x06")
    if at < 0 or len(tail) - at < 22:
        raise ArchiveError("This file is damaged: its directory is missing. Save or copy it again.")
    count, directory = struct.unpack("<HI", tail[at + 10 : at + 16])
    if count == 0xFFFF or directory == 0xFFFFFFFF:
        locator = tail[at - 20 : at] if at >= 20 else b""
        if locator[:4] == b"PK\x06\x07":
            where = struct.unpack("<Q", locator[8:16])[0]
            with path.open("rb") as file:
                file.seek(min(where, size))
                record = file.read(56)
            if record[:4] == b"PK\x06\x06" and len(record) == 56:
                count, directory = struct.unpack("<QQ", record[32:48])
    if count > most_entries or directory > _MOST_DIRECTORY:
        raise ArchiveError(f"This file has more than {most_entries} parts, or a damaged directory; it is not read.")
