"""The signal kinds, one module each. Importing this package makes all of them known."""

from velvetdrum.declare.registry import import_kinds, sort_kinds
from velvetdrum.signals.kinds import SIGNAL_KINDS

import_kinds(__name__, __path__)
sort_kinds(SIGNAL_KINDS)
