"""A `.vdrum` file: a ZIP of `project.json` and the media that it names, under `media/`."""

from __future__ import annotations

import hashlib
import json
import shutil
import zipfile
from pathlib import Path

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.files import written_whole
from velvetdrum.scene.document import Document, ProjectError, parse

_LARGEST_DOCUMENT = 32 << 20


def content_hash(path: Path) -> str:
    """SHA-256 of a file's bytes, in hexadecimal."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def is_bundle(path: Path) -> bool:
    """True for a ZIP that holds a `project.json`."""
    if not zipfile.is_zipfile(path):
        return False
    with zipfile.ZipFile(path) as bundle:
        return "project.json" in bundle.namelist()


def write_bundle(path: Path, document: Document, media: dict[str, Path]) -> None:
    """Write a project and its media (content hash to file) to `path`, beside first and renamed when whole."""
    with (
        written_whole(path, "The project file") as beside,
        zipfile.ZipFile(beside, "w", allowZip64=True) as bundle,
    ):
        text = json.dumps(document, indent=2, ensure_ascii=False)
        bundle.writestr("project.json", text, zipfile.ZIP_DEFLATED)
        for key, source in media.items():
            bundle.write(source, f"media/{key}{source.suffix}")


def read_bundle(path: Path, folder: Path) -> tuple[Document, dict[str, Path]]:
    """Unpack a `.vdrum` file into `folder`. Returns the document and its media (content hash to file).

    Raises DeliverError with a sentence when it is not one, when media are missing, or when their content does
    not match their hash. Names inside the ZIP are never used as paths.
    """
    try:
        with zipfile.ZipFile(path) as bundle:
            entry = bundle.getinfo("project.json")
            if entry.file_size > _LARGEST_DOCUMENT:
                raise DeliverError("The project in this file is too large to be real.")
            document = json.loads(bundle.read(entry))
            project = parse(document)
            media: dict[str, Path] = {}
            wanted = {project.track.media} if project.track else set()
            wanted |= project.media
            for key in wanted:
                names = [name for name in bundle.namelist() if name.startswith(f"media/{key}")]
                if not names and key in project.media:
                    continue  # shown as missing, and found again by its content
                if not names:
                    raise DeliverError(f"The file lacks the recording that its project uses ({key[:12]}).")
                suffix = Path(names[0]).suffix
                target = folder / f"{key}{suffix if suffix.isascii() and len(suffix) < 9 else ''}"
                with bundle.open(names[0]) as source, target.open("wb") as file:
                    shutil.copyfileobj(source, file, 1 << 20)
                if content_hash(target) != key:
                    raise DeliverError(
                        "A recording, a picture or a clip in this file is damaged: its content does not match its name."
                    )
                media[key] = target
            return document, media
    except ProjectError as problem:
        raise DeliverError(f"The project in this file can't be used: {problem}") from problem
    except (zipfile.BadZipFile, KeyError, ValueError, UnicodeDecodeError, EOFError) as problem:
        raise DeliverError("This is not a project file (.vdrum), or it is damaged.") from problem
    except OSError as problem:
        raise DeliverError(f"The project file could not be read: {problem.strerror or problem}.") from problem
