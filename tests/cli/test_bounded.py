"""What reads a file that somebody brought: its own process, which has an end."""

import os

import numpy as np
import pytest

from velvetdrum.cli.bounded import MEMORY_BYTES, bounded
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.limits.process import OverTime


def test_what_a_task_gives_and_raises_comes_back():
    assert bounded(sum)([1, 2, 3]) == 6
    with pytest.raises(ZeroDivisionError):
        bounded(divmod)(1, 0)


def test_memory_time_and_a_death_are_told():
    with pytest.raises(MemoryError):
        bounded(np.ones)(2 * MEMORY_BYTES // 8)
    with pytest.raises(OverTime):
        bounded(eval, seconds=0.5)("[n for n in iter(int, 1)]")
    with pytest.raises(DeliverError, match="ended by it"):
        bounded(os._exit)(3)
