"""Loops over pixels, compiled once for this machine.

Importing a module of this package loads its loops from the kept folder, or compiles them, which takes a second each:
`python -m velvetdrum.picture.raster.kernels` does that ahead of the first frame. Pixels are 32-bit words, 0xaarrggbb,
premultiplied; an area of a larger picture is given as its words from its first pixel on, with the step to the next row.

`from velvetdrum.picture.raster.kernels import NAME` gives a module that is loaded with the first use of one of its
loops: the compiler alone takes two seconds to come up, and many a process knows how to draw and draws nothing.
"""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules
from typing import Any

HELPERS = {"__main__", "build", "coverage", "loaded", "preparation", "words"}
"""Modules without loops that are called from outside."""


def loop_modules() -> list[str]:
    """Names of all modules of loops, in full."""
    return [f"{__name__}.{module.name}" for module in iter_modules(__path__) if module.name not in HELPERS]


class _Deferred:
    """A module that is loaded when something of it is asked for."""

    def __init__(self, name: str) -> None:
        self._name = name

    def __getattr__(self, name: str) -> Any:
        value = getattr(import_module(self._name), name)
        # The next time it is found here, without a way round.
        setattr(self, name, value)
        return value


def __getattr__(name: str) -> Any:
    if f"{__name__}.{name}" in loop_modules():
        return _Deferred(f"{__name__}.{name}")
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
