"""Compile all loops ahead of the first frame."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

import velvetdrum.picture.raster.kernels as kernels
from velvetdrum.picture.raster.kernels.building import is_complete, kept_folder, mark_complete


def main() -> None:
    """Compile what is not kept yet, and say so."""
    if is_complete():
        return
    where = "" if kept_folder() else " No folder for them can be written, so every start does this anew."
    print(f"Compiling the pixel loops for this machine, once: about a minute.{where}", flush=True)
    for module in iter_modules(kernels.__path__):
        if not module.name.startswith("__"):
            import_module(f"{kernels.__name__}.{module.name}")
    mark_complete()


if __name__ == "__main__":
    main()
