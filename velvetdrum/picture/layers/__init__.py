"""The layer kinds, one module each. Importing this package makes all of them known, and those of masks and effects."""

import velvetdrum.picture.effects
import velvetdrum.picture.masks  # noqa: F401
from velvetdrum.declare.registry import import_kinds

import_kinds(__name__, __path__)
