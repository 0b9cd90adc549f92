"""Limits around decoding: a damaged file may end a worker process, never the program."""

from __future__ import annotations

import ctypes
import os
import resource
import signal
import time
from collections.abc import Iterator
from contextlib import contextmanager

MEMORY_BYTES = 4 << 30
_PR_SET_PDEATHSIG = 1


def limit_process(*, memory: int = MEMORY_BYTES) -> None:
    """Bound this process's address space. Call it once, in a worker that decodes."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, resource.getrlimit(resource.RLIMIT_AS)[1]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def end_with_parent(parent: int) -> None:
    """Let the system end this process when the process `parent` that made it ends, however that ends.

    Linux only (prctl, PR_SET_PDEATHSIG); elsewhere workers notice by their closed pipe.
    """
    try:
        ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0)
    except (OSError, AttributeError):
        return
    if os.getppid() != parent:
        # It was gone before the system was asked.
        os._exit(1)


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
