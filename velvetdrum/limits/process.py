"""Limits around decoding: a damaged file may end a worker process, never the program."""

from __future__ import annotations

import faulthandler
import multiprocessing
import os
import resource
import signal
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from multiprocessing import forkserver, resource_tracker
from multiprocessing.connection import wait
from multiprocessing.context import BaseContext
from types import FrameType
from typing import IO

MEMORY_BYTES = 4 << 30


class OverTime(Exception):
    """Work that took longer than it may. `layer` is the id of the layer that was being drawn, where that is known."""

    def __init__(self, sentence: str = "This took longer than it may.", layer: str = "") -> None:
        super().__init__(sentence, layer)
        self.layer = layer

    def __str__(self) -> str:
        return str(self.args[0])


def limit_process(*, memory: int = MEMORY_BYTES) -> None:
    """Bound this process's address space. Call it once, in a worker that decodes."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, resource.getrlimit(resource.RLIMIT_AS)[1]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def limit_growth(memory: int) -> None:
    """Bound what this process may ask for beyond what it has now. Files that are mapped to be read do not count."""
    with open("/proc/self/status") as status:
        has = next((int(line.split()[1]) << 10 for line in status if line.startswith("VmData:")), 0)
    resource.setrlimit(resource.RLIMIT_DATA, (has + memory, resource.getrlimit(resource.RLIMIT_DATA)[1]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def worker_context(*modules: str) -> BaseContext:
    """How worker processes are started: forked from a small process that has imported `modules` once, so that one is
    there in a few hundredths of a second, also in the place of one that died; where that is not known, from nothing.

    That process is started by the first call, which so decides on the modules, and lasts as long as this program.
    Whoever calls early lets it import while this one does.
    """
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["velvetdrum.limits.forked", *modules])
    # Ctrl+C in a terminal is meant for the program alone, also while the other still imports. The tracker, which that
    # one needs, opens the signals again when it is started.
    resource_tracker.ensure_running()
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        forkserver.ensure_running()
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
    return context


def end_with_parent() -> None:
    """Let this worker end when the program that it works for ends, however that ends.

    Its pipe is closed then, and a thread that waits for that ends the process, whatever the others do.
    """
    program = multiprocessing.parent_process()
    if program is None:
        return

    def watch(sentinel: int) -> None:
        wait([sentinel])
        os.kill(os.getpid(), signal.SIGKILL)

    threading.Thread(target=watch, args=(program.sentinel,), daemon=True, name="parent").start()


@cache
def _nowhere() -> IO[str]:
    return open(os.devnull, "w")


_WAITING = 3.0
_WAITING_S = 30.0
"""How much longer than its processor time work may last: a machine may be busy, but what only waits ends, too."""


@contextmanager
def limited_time(seconds: float) -> Iterator[None]:
    """Let this process use `seconds` more of processor time in the block. Past them OverTime is raised; where no
    Python code comes to turn within two seconds more, the system ends the process (SIGXCPU). A worker process whose
    work lasts three times as long and half a minute, whatever it waits for, ends itself.

    Afterwards the limit is lifted again, since the same process goes on with other work.
    """
    soft = threading.current_thread() is threading.main_thread()
    worker = multiprocessing.parent_process() is not None

    def over(number: int, frame: FrameType | None) -> None:
        raise OverTime

    hard = resource.getrlimit(resource.RLIMIT_CPU)[1]
    resource.setrlimit(resource.RLIMIT_CPU, (int(time.process_time() + seconds) + 3, hard))
    before = signal.signal(signal.SIGPROF, over) if soft else None
    try:
        if worker:
            # A thread of its own without the interpreter: it ends the process whatever holds that.
            faulthandler.dump_traceback_later(_WAITING * seconds + _WAITING_S, exit=True, file=_nowhere())
        if soft:
            signal.setitimer(signal.ITIMER_PROF, seconds)
        yield
    finally:
        if worker:
            faulthandler.cancel_dump_traceback_later()
        if soft:
            signal.setitimer(signal.ITIMER_PROF, 0)
            signal.signal(signal.SIGPROF, before)
        resource.setrlimit(resource.RLIMIT_CPU, (hard, hard))
