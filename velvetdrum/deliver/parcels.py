"""Files for workers on other machines: named by what is in them, packed to travel, kept where they arrive."""

from __future__ import annotations

import hashlib
import io
import os
import shutil
import tarfile
import threading
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from velvetdrum.deliver.export import Sources


@dataclass(frozen=True)
class Parcel:
    """A file or a folder that a worker needs: what is in it, its name's ending, and where it lies here."""

    key: str
    suffix: str
    path: str
    folder: bool


def parcels_of(sources: Sources | None) -> list[Parcel]:
    """What segments need of a project's media: its pictures and clips, and the analysis of its sound. The recording
    itself stays here: sound is encoded on this machine."""
    if sources is None:
        return []
    found = [_parcel(Path(path)) for path in sources.media.values()]
    if sources.analysis:
        found.append(_parcel(Path(sources.analysis)))
    return found


def _parcel(path: Path) -> Parcel:
    digest = hashlib.sha256()
    if path.is_dir():
        for file in sorted(path.rglob("*")):
            if file.is_file():
                digest.update(f"{file.relative_to(path)} {file.stat().st_size} ".encode())
                _feed(digest, file)
        return Parcel(digest.hexdigest(), "", str(path), True)
    _feed(digest, path)
    return Parcel(digest.hexdigest(), path.suffix, str(path), False)


def _feed(digest: Any, path: Path) -> None:
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            digest.update(piece)


def packed(parcel: Parcel) -> bytes:
    """A file's bytes, or a folder as a tar archive."""
    if not parcel.folder:
        return Path(parcel.path).read_bytes()
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as archive:
        archive.add(parcel.path, ".")
    return out.getvalue()


def place_of(parcel: Parcel, cache: Path) -> Path:
    """Where a parcel lies in a worker's cache, once it is there."""
    return cache / f"{parcel.key}{parcel.suffix}"


def unpacked(parcel: Parcel, data: bytes, cache: Path) -> str:
    """Where a worker has what came; kept by what is in it, and whole or not at all."""
    target = place_of(parcel, cache)
    if target.exists():
        return str(target)
    cache.mkdir(parents=True, exist_ok=True)
    beside = cache / f"{parcel.key}.{os.getpid()}.{threading.get_ident()}.part{parcel.suffix}"
    if parcel.folder:
        beside.mkdir()
        with tarfile.open(fileobj=io.BytesIO(data)) as archive:
            archive.extractall(beside, filter="data")
    else:
        beside.write_bytes(data)
    try:
        beside.rename(target)
    except OSError:
        # Another thread was first.
        shutil.rmtree(beside, ignore_errors=True) if beside.is_dir() else beside.unlink(missing_ok=True)
    return str(target)
