"""Arrays that are kept for the next time, up to a number of bytes."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock

import numpy as np
from numpy.typing import NDArray


class Kept:
    """The most recently used arrays, as many as fit into `most_bytes`."""

    def __init__(self, most_bytes: int) -> None:
        self._most, self._bytes = most_bytes, 0
        self._found: OrderedDict[Hashable, NDArray[np.float32]] = OrderedDict()
        self._lock = Lock()

    def clear(self) -> None:
        """Keep nothing."""
        with self._lock:
            self._found.clear()
            self._bytes = 0

    def get(self, key: Hashable, make: Callable[[], NDArray[np.float32]]) -> NDArray[np.float32]:
        """The array under `key`, made when it is not there."""
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key]
        made = make()
        made.flags.writeable = False
        with self._lock:
            if key not in self._found and made.nbytes <= self._most:
                self._found[key] = made
                self._bytes += made.nbytes
                while self._bytes > self._most:
                    _, dropped = self._found.popitem(last=False)
                    self._bytes -= dropped.nbytes
        return made
