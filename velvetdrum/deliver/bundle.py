"""A `.vdrum` file: a ZIP of `project.json` and the media that it names, under `media/`."""

from __future__ import annotations

import hashlib
import io
import json
import re
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.files import written_whole
from velvetdrum.limits.archive import Archive, ArchiveError, looks_like_archive, open_archive
from velvetdrum.limits.json_text import JsonError, read_json
from velvetdrum.scene.document import Document, ProjectError, parse
from velvetdrum.scene.migrate import upgraded

DOCUMENT = "project.json"
LARGEST = 32 << 30
"""Bytes that a project file may unpack to."""
_LARGEST_DOCUMENT = 32 << 20
_ENTRY = re.compile(r"media/[0-9a-f]{64}(\.[a-z0-9]{1,8})?")


def content_hash(path: Path) -> str:
    """SHA-256 of a file's bytes, in hexadecimal.

    Parameters
    ----------
    path
        The file.
    """
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def is_bundle(path: Path) -> bool:
    """True for a ZIP that holds a `project.json`, or that is too damaged to tell; `read_bundle` says what is wrong.

    Parameters
    ----------
    path
        The file.
    """
    if not looks_like_archive(path):
        return False
    try:
        with open_archive(path, most_bytes=LARGEST) as archive:
            return DOCUMENT in archive.entries
    except ArchiveError:
        return True


def write_bundle(path: Path, document: Document, media: dict[str, Path]) -> None:
    """Write a project and its media (content hash to file) to `path`, beside first and renamed when whole.

    Parameters
    ----------
    path
        The file.
    document
        A project's document.
    media
        Paths of the project's files by content hash.
    """
    with written_whole(path, "The project file") as beside, beside.open("wb") as file:
        for piece in bundle_pieces(document, media):
            file.write(piece)


def bundle_pieces(document: Document, media: dict[str, Path]) -> Iterator[bytes]:
    """A project and its media as the bytes of a `.vdrum` file, piece by piece; nothing is written on the way.

    Parameters
    ----------
    document
        A project's document.
    media
        Paths of the project's files by content hash.
    """
    held = _Held()
    with zipfile.ZipFile(held, "w", allowZip64=True) as bundle:
        text = json.dumps(document, indent=2, ensure_ascii=False)
        bundle.writestr(DOCUMENT, text, zipfile.ZIP_DEFLATED)
        yield held.taken()
        for key, path in media.items():
            size = path.stat().st_size
            with (
                path.open("rb") as source,
                bundle.open(f"media/{key}{path.suffix}", "w", force_zip64=size > 1 << 30) as target,
            ):
                while piece := source.read(1 << 20):
                    target.write(piece)
                    yield held.taken()
    yield held.taken()


class _Held(io.RawIOBase):
    """What was written and not yet taken: a file that a ZIP can be written to without ever being whole."""

    def __init__(self) -> None:
        super().__init__()
        self._parts: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self._parts.append(bytes(data))
        return len(data)

    def taken(self) -> bytes:
        """What was written since it was last asked for."""
        result, self._parts = b"".join(self._parts), []
        return result


def read_bundle(path: Path, folder: Path) -> tuple[Document, dict[str, Path]]:
    """Unpack a `.vdrum` file into `folder`. Returns the document and its media (content hash to file).

    The whole document is accepted before any file is written, and files are written under their content hash only:
    names inside the ZIP are never used as paths.

    Parameters
    ----------
    path
        The file.
    folder
        The folder that it lies in.

    Raises
    ------
    DeliverError
        With a sentence when it is no project file, when a part is too large, damaged or encrypted, or when
        content does not match its hash.
    """
    if not looks_like_archive(path):
        raise DeliverError("This is not a project file (.vdrum), or it is damaged.")
    try:
        with open_archive(path, most_bytes=LARGEST) as archive:
            if DOCUMENT not in archive.entries:
                raise DeliverError("This is not a project file (.vdrum): it has no project.json in it.")
            document = upgraded(read_json(archive.read(DOCUMENT, _LARGEST_DOCUMENT), most_bytes=_LARGEST_DOCUMENT))
            project = parse(document)
            recording = {track.media for track in project.sound.tracks} if project.sound else set()
            names = {key: _entry_of(archive, key) for key in sorted(recording | project.media)}
            lacking = [key for key in recording if names[key] is None]
            if lacking:
                raise DeliverError(f"The file lacks the recording that its project uses ({lacking[0][:12]}).")
            # What else is missing is shown as missing, and found again by its content.
            return document, {key: _unpack(archive, name, key, folder) for key, name in names.items() if name}
    except ProjectError as problem:
        raise DeliverError(f"The project in this file can't be used: {problem}") from problem
    except (JsonError, ArchiveError) as problem:
        raise DeliverError(str(problem)) from problem
    except OSError as problem:
        raise DeliverError(f"The project file could not be read: {problem.strerror or problem}.") from problem


def _entry_of(archive: Archive, key: str) -> str | None:
    return next((name for name in archive.entries if _ENTRY.fullmatch(name) and name[6:70] == key), None)


def _unpack(archive: Archive, name: str, key: str, folder: Path) -> Path:
    """Write an entry under its content hash; what does not have that content leaves nothing."""
    target = folder / f"{key}{Path(name).suffix}"
    digest = hashlib.sha256()
    try:
        with target.open("xb") as file:
            for piece in archive.pieces(name, LARGEST):
                digest.update(piece)
                file.write(piece)
        if digest.hexdigest() != key:
            raise DeliverError(
                "A recording, a picture or a clip in this file is damaged: its content does not match its name."
            )
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    return target
