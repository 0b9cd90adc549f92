"""Arrays that are kept for the next time, in the cache of the process."""

from __future__ import annotations

from collections.abc import Callable, Hashable

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import SHARED_CACHE


class KeptArrays:
    """Arrays of one sort."""

    def __init__(self, name: str) -> None:
        self.name = name

    def clear(self) -> None:
        """Keep none of this sort."""
        SHARED_CACHE.drop(self.name)

    def get(self, key: Hashable, make: Callable[[], NDArray[np.float32]]) -> NDArray[np.float32]:
        """The array under `key`, made when it is not there; not to be written to.

        Parameters
        ----------
        key
            What it is kept under, hashable.
        make
            Makes the array where it is not there.
        """

        def fixed() -> NDArray[np.float32]:
            made = make()
            made.flags.writeable = False
            return made

        return SHARED_CACHE.get((self.name, key), fixed)
