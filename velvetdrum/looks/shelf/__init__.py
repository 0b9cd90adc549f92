"""The looks that ship, one module each. Importing this package makes all of them known."""

from velvetdrum.declare.registry import import_kinds

import_kinds(__name__, __path__)
