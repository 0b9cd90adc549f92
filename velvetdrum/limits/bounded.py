"""Files that somebody brought, read in a process of its own under limits of time and memory."""

from __future__ import annotations

import signal
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import ParamSpec, TypeVar

from velvetdrum.limits.process import end_with_parent, limit_growth, limited_time, worker_context

Given = ParamSpec("Given")
Made = TypeVar("Made")

MEMORY_BYTES = 1_500_000_000
MOST_S = 7200.0
"""Of processor time: an hour of video in 4K is looked at in about half of it."""


class Unreadable(ValueError):
    """A file that ended the process which read it. The text is a sentence."""


def bounded(task: Callable[Given, Made], seconds: float = MOST_S) -> Callable[Given, Made]:
    """A function that runs `task` in a worker under limits. It raises what the task raises, MemoryError and OverTime at
    the limits, and Unreadable where the file ended the worker."""

    def run(*given: Given.args, **named: Given.kwargs) -> Made:
        context = worker_context(task.__module__)
        with ProcessPoolExecutor(1, mp_context=context, initializer=_prepare) as pool:
            try:
                return pool.submit(_timed, seconds, task, given, named).result()
            except BrokenProcessPool as problem:
                raise Unreadable(
                    "What read this file was ended by it: the file is damaged, or asks for more than it may."
                ) from problem

    return run


def _prepare() -> None:
    # Ctrl+C ends what reads at once: nobody waits for its result any more.
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    signal.pthread_sigmask(signal.SIG_UNBLOCK, {signal.SIGINT})
    end_with_parent()
    limit_growth(MEMORY_BYTES)


def _timed(seconds: float, task: Callable[..., Made], given: tuple[object, ...], named: dict[str, object]) -> Made:
    with limited_time(seconds):
        return task(*given, **named)
