"""Limits around decoding: a damaged file may end a worker process, never the program."""

from __future__ import annotations

import resource
import time
from collections.abc import Iterator
from contextlib import contextmanager

MEMORY_BYTES = 4 << 30


def limit_process(*, memory: int = MEMORY_BYTES) -> None:
    """Bound this process's address space. Call it once, in a worker that decodes."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, resource.getrlimit(resource.RLIMIT_AS)[1]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


@contextmanager
def limited_time(seconds: float) -> Iterator[None]:
    """Let this process use `seconds` more of processor time in the block; past them the system ends it (SIGXCPU).

    Afterwards the limit is lifted again, since the same process goes on with other work.
    """
    hard = resource.getrlimit(resource.RLIMIT_CPU)[1]
    resource.setrlimit(resource.RLIMIT_CPU, (int(time.process_time() + seconds) + 1, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_CPU, (hard, hard))
