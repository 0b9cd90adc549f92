"""All loops compiled ahead of the first frame."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from pkgutil import iter_modules

import velvetdrum.picture.raster.kernels as kernels
from velvetdrum.picture.raster.kernels.building import is_complete, kept_folder, mark_complete

COMPILING = "Compiling the pixel loops for this machine, once: about a minute."
NOT_KEPT = (
    "Compiling the pixel loops: about a minute. No folder for them can be written, so every start does this anew."
)


def prepare(say: Callable[[str], None]) -> None:
    """Compile what is not kept yet, and say so."""
    if is_complete():
        return
    say(COMPILING if kept_folder() else NOT_KEPT)
    for module in iter_modules(kernels.__path__):
        if not module.name.startswith("__"):
            import_module(f"{kernels.__name__}.{module.name}")
    mark_complete()
