"""Limits around decoding: a damaged file may end a worker process, never the program."""

from __future__ import annotations

import resource
import time

MEMORY_BYTES = 4 << 30
BASE_CPU_S = 120


def limit_process(*, memory: int = MEMORY_BYTES) -> None:
    """Bound this process's address space. Call it once, in a worker that decodes."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, resource.getrlimit(resource.RLIMIT_AS)[1]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def limit_time(seconds: float) -> None:
    """Let this process use `seconds` more of processor time; past them the system ends it (SIGXCPU)."""
    used = time.process_time()
    resource.setrlimit(resource.RLIMIT_CPU, (int(used + seconds) + 1, resource.getrlimit(resource.RLIMIT_CPU)[1]))
