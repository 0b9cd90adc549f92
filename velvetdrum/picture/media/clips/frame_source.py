"""What everything that moves has: frames by their number, and when each of them is shown."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.raster.areas import Pixels


class Moving(Protocol):
    """An open clip, whatever it is made of. Not for more than one thread at a time."""

    times: NDArray[np.float64]
    """When each frame begins, in seconds from the first one."""
    length_s: float
    """From the first frame to the end of the last one."""

    @property
    def frames(self) -> int:
        """How many frames it has."""

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels as it is shown."""

    @property
    def opaque(self) -> bool:
        """True when no pixel of it lets anything through."""

    def number_at(self, seconds: float) -> int:
        """The frame that is shown at a second of the clip: the last one that has begun."""

    def pixels(self, number: int, size: tuple[int, int] | None = None) -> Pixels:
        """Frame `number` upright, premultiplied BGRA, at its own size or scaled to (width, height). Not to be written
        to."""


def frame_at(times: NDArray[np.float64], seconds: float) -> int:
    """The number of the frame that has begun at a second; `times` are when frames begin, shape (frames,)."""
    result = int(np.searchsorted(times, seconds + 1e-6, side="right")) - 1
    return min(max(result, 0), len(times) - 1)
