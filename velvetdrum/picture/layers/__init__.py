"""The layer kinds, one module each. Importing this package makes all of them known, and those of masks and effects."""

from importlib import import_module
from pkgutil import iter_modules

import velvetdrum.picture.effects
import velvetdrum.picture.masks  # noqa: F401

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
