"""Files for workers on other machines: named by what is in them, packed to travel, kept where they arrive."""

from __future__ import annotations

import atexit
import hashlib
import io
import os
import shutil
import stat
import tarfile
import tempfile
import threading
import time
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from velvetdrum.deliver.export import Sources
from velvetdrum.limits import openers

CACHE = "VELVETDRUM_PARCELS"
"""Environment variable with the folder in which a worker keeps what came, in place of the user's cache folder."""
_KEPT_S = 14 * 86_400.0


class SpoiledParcel(OSError):
    """What came for a worker is not what it was said to be, as where it was lost half-way: it is given again."""


@dataclass(frozen=True)
class Parcel:
    """A file or a folder that a worker needs: what is in it, its name's ending, and where it lies here."""

    key: str
    suffix: str
    path: str
    folder: bool


def parcels_of(sources: Sources | None) -> list[Parcel]:
    """What segments need of a project's media: its pictures and clips, and the analysis of its sound. The recording
    itself stays here: sound is encoded on this machine.

    Parameters
    ----------
    sources
        Files of the project: its analysis, its media; None where there are none.
    """
    if sources is None:
        return []
    result = [_parcel(Path(path)) for path in sources.media.values()]
    if sources.analysis:
        result.append(_parcel(Path(sources.analysis)))
    return result


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
    """A file's bytes, or a folder as a tar archive.

    Parameters
    ----------
    parcel
        A file with its content hash.
    """
    if not parcel.folder:
        return Path(parcel.path).read_bytes()
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as archive:
        archive.add(parcel.path, ".")
    return out.getvalue()


@cache
def cache_folder() -> Path:
    """Where this worker keeps what came: a folder that nobody else can write to; one for this process alone where there
    is none."""
    own = os.environ.get(CACHE)
    base = Path(own) if own else Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "velvetdrum"
    folder = base / "cluster"
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        result = folder.lstat()
        if stat.S_ISDIR(result.st_mode) and result.st_uid == os.getuid() and not result.st_mode & 0o022:
            _clean(folder)
            return folder
    except OSError:
        pass
    made = tempfile.mkdtemp(prefix="velvetdrum-")
    atexit.register(shutil.rmtree, made, ignore_errors=True)
    return Path(made)


def _clean(folder: Path) -> None:
    """Remove what was not used for a long time, and what was left half-way."""
    oldest = time.time() - _KEPT_S
    for path in folder.iterdir():
        if max(path.lstat().st_mtime, path.lstat().st_atime) < oldest:
            shutil.rmtree(path, ignore_errors=True) if path.is_dir() else path.unlink(missing_ok=True)


_WHOLE: dict[str, tuple[int, int]] = {}
"""Parcels whose content this process has looked at: their key, and the time and size that they had."""


def is_whole(parcel: Parcel, cache: Path) -> bool:
    """True when a worker's cache has a parcel, and what lies there under its name is it. What is not it is removed.

    Parameters
    ----------
    parcel
        A file with its content hash.
    cache
        The folder of what was sent before.
    """
    place = place_of(parcel, cache)
    try:
        result = place.stat()
        # When it was used last: when it came stays.
        os.utime(place, ns=(time.time_ns(), result.st_mtime_ns))
    except OSError:
        return False
    mark = (result.st_ino, result.st_size)
    if _WHOLE.get(parcel.key) == mark:
        return True
    if _parcel(place).key == parcel.key:
        _WHOLE[parcel.key] = mark
        return True
    shutil.rmtree(place, ignore_errors=True) if place.is_dir() else place.unlink(missing_ok=True)
    return False


def place_of(parcel: Parcel, cache: Path) -> Path:
    """Where a parcel lies in a worker's cache, once it is there.

    Parameters
    ----------
    parcel
        A file with its content hash.
    cache
        The folder of what was sent before.
    """
    return cache / f"{parcel.key}{parcel.suffix}"


def _put(beside: Path, target: Path) -> None:
    """Give what was written its name, unless another process was first."""
    try:
        beside.rename(target)
    except OSError:
        if not target.exists():
            raise


def unpacked(parcel: Parcel, data: bytes, cache: Path) -> str:
    """Where a worker has what came; kept by what is in it, and whole or not at all.

    Parameters
    ----------
    parcel
        A file with its content hash.
    data
        The bytes of a file.
    cache
        The folder of what was sent before.
    """
    target = place_of(parcel, cache)
    if is_whole(parcel, cache):
        return str(target)
    cache.mkdir(parents=True, exist_ok=True)
    beside = cache / f"{parcel.key}.{os.getpid()}.{threading.get_ident()}.part{parcel.suffix}"
    if parcel.folder:
        beside.mkdir()
        with openers.tar(data) as archive:
            archive.extractall(beside, filter="data")
    else:
        beside.write_bytes(data)
    try:
        if _parcel(beside).key != parcel.key:
            raise SpoiledParcel("What came for this worker is not what it was said to be.")
        _put(beside, target)
    finally:
        shutil.rmtree(beside, ignore_errors=True) if beside.is_dir() else beside.unlink(missing_ok=True)
    return str(target)
