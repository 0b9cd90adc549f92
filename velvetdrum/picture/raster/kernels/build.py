"""How loops are compiled, and where what was compiled is kept."""

from __future__ import annotations

import hashlib
import os
import shutil
import tempfile
import time
import warnings
from collections.abc import Callable
from functools import cache
from importlib.metadata import version
from pathlib import Path
from typing import Any, TypeVar

Loop = TypeVar("Loop", bound=Callable[..., Any])

FOLDER = "VELVETDRUM_KERNELS"
"""Environment variable with the folder in which compiled loops are kept, in place of the user's cache folder."""

_STALE_S = 30 * 86_400

_HERE = Path(__file__).parent


def fingerprint() -> str:
    """Names the state of all loops: their sources, where these lie, and the compiler. The compiler looks at a loop's
    own file alone, and would go on with what it made of a helper that has changed since; what it made of a file it does
    not use for an equal one that lies elsewhere."""
    seen = hashlib.sha256(f"{version('numba')} {_HERE}".encode())
    for path in sorted(_HERE.glob("*.py")):
        seen.update(path.name.encode() + path.read_bytes())
    return seen.hexdigest()[:16]


@cache
def kept_folder() -> Path | None:
    """The folder of what was compiled; None where none can be written."""
    own = os.environ.get(FOLDER)
    base = Path(own) if own else Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "velvetdrum"
    folder = base / f"kernels-{fingerprint()}"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryFile(dir=folder):
            return folder
    except OSError:
        return None


def keep_in(folder: Path) -> None:
    """Keep what is compiled in a folder, where the user's own can't be written; for this process and its children."""
    if kept_folder() is None and FOLDER not in os.environ:
        os.environ[FOLDER] = str(folder.resolve())
        kept_folder.cache_clear()


def _marker() -> Path | None:
    folder = kept_folder()
    return folder / "complete" if folder else None


def is_complete() -> bool:
    """True when all loops were compiled before."""
    marker = _marker()
    return marker is not None and marker.exists()


def mark_complete() -> None:
    """Say that all loops were compiled, and drop what versions before this one left a long while ago."""
    marker = _marker()
    if marker is None:
        return
    marker.touch()
    for other in marker.parent.parent.glob("kernels-*"):
        if other != marker.parent and time.time() - other.stat().st_mtime > _STALE_S:
            shutil.rmtree(other, ignore_errors=True)


def read(item: Any, dimensions: int = 1) -> Any:
    """The type of an array that a loop only reads, rows side by side: one that must not be written to fits, too."""
    from numba import types

    return types.Array(item, dimensions, "C", readonly=True)


def written(item: Any, dimensions: int = 1) -> Any:
    """The type of an array that a loop writes to."""
    from numba import types

    return types.Array(item, dimensions, "C")


def compiled(signature: Any) -> Callable[[Loop], Loop]:
    """Decorator: compile a loop for arguments of these types (a signature of the compiler's) now, or load it from the
    kept folder.

    Equal bytes on all machines need plain arithmetic: nothing is reordered, and divisions by zero give what IEEE 754
    says.
    """
    import numba

    folder = kept_folder()
    if folder:
        numba.config.CACHE_DIR = str(folder)  # type: ignore[attr-defined]

    def build(loop: Loop) -> Loop:
        with warnings.catch_warnings():
            # Where a helper is put in its place twice in one expression, the compiler doubts its own book of names.
            warnings.simplefilter("ignore", numba.core.errors.NumbaIRAssumptionWarning)
            made: Any = numba.njit(signature, cache=folder is not None, error_model="numpy", nogil=True)(loop)
        return made

    return build
