"""All loops compiled ahead of the first frame."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from importlib import import_module

import velvetdrum.picture.raster.kernels as kernels
from velvetdrum.picture.raster.kernels.build import is_complete, kept_folder, mark_complete

COMPILING = "Compiling the pixel loops for this machine, once: about a minute."
NOT_KEPT = (
    "Compiling the pixel loops: about a minute. No folder for them can be written, so every start does this anew."
)


def prepare(say: Callable[[str], None], progress: Callable[[int, int], None] = lambda done, total: None) -> None:
    """Compile what is not kept yet, on all cores at once, and say so; `progress` is called with how many modules of
    loops are done, and how many there are."""
    if is_complete():
        return
    say(COMPILING if kept_folder() else NOT_KEPT)
    names = kernels.loop_modules()
    cores = os.cpu_count() or 1
    if kept_folder() and cores > 1:
        # Each takes what others have left. Where that is not possible, this process compiles what is missing.
        try:
            with ProcessPoolExecutor(cores, mp_context=multiprocessing.get_context("spawn")) as pool:
                waiting = [pool.submit(_compiled, name) for name in sorted(names, key=_length, reverse=True)]
                for done, future in enumerate(as_completed(waiting), 1):
                    future.result()
                    progress(done, len(names))
        except (BrokenProcessPool, OSError):
            pass
    for name in names:
        import_module(name)
    mark_complete()


def _compiled(name: str) -> None:
    """Worker task: compile the loops of a module into the kept folder."""
    import_module(name)


def _length(name: str) -> int:
    """How long a module is: the longest takes longest, and begins first."""
    path = next(iter(kernels.__path__))
    return os.path.getsize(os.path.join(path, f"{name.rsplit('.', 1)[-1]}.py"))
