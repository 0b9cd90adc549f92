"""The one door for what somebody brought: a reader runs in a reading worker, under limits of time and memory.

The studio, the command line and the channels' stand-in all call `read`. What the reader opens, it opens with
`limits.openers`.
"""

from __future__ import annotations

import signal
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from typing import Any, ParamSpec, Protocol, TypeVar

from velvetdrum.limits.process import OverTime, end_with_parent, limit_growth, limited_time, worker_context

Given = ParamSpec("Given")
Result = TypeVar("Result")


@dataclass(frozen=True)
class Bounds:
    """What a reader may use."""

    seconds: float
    """Of processor time."""
    memory: int
    """Bytes beyond what its worker has before it reads."""


SMALL = Bounds(12.0, 1_200_000_000)
"""Pictures, typefaces, tables, words."""

RECORDING = Bounds(7200.0, 1_500_000_000)
"""Sounds and videos: an hour of video in 4K is looked at in about half of that time."""


class Unreadable(ValueError):
    """A file that asked its reader for more than it may have, or ended it. The text is a sentence."""

    def __init__(
        self, sentence: str = "Reading this file takes more time or memory than any such file needs. Make it simpler."
    ) -> None:
        super().__init__(sentence)


class Worker(Protocol):
    """Runs a task to its end in another process, whose memory is bounded; raises BrokenProcessPool where that dies."""

    def __call__(self, task: Callable[..., Any], /, *values: Any) -> Any: ...


def read(
    reader: Callable[..., Result], /, *values: Any, bounds: Bounds = SMALL, worker: Worker | None = None, **named: Any
) -> Result:
    """What `reader` makes of the bytes or paths among `values`, in `worker`, or in a process of its own.

    Raises what the reader raises, and Unreadable at the limits or where the file ended the worker.
    """
    run = worker or _Own(bounds.memory, reader.__module__)
    try:
        result: Result = run(_inside, bounds.seconds, reader, values, named)
        return result
    except (OverTime, MemoryError) as problem:
        raise Unreadable from problem
    except BrokenProcessPool as problem:
        raise Unreadable(
            "What read this file was ended by it: the file is damaged, or asks for more than it may."
        ) from problem


def _inside(seconds: float, reader: Callable[..., Result], values: tuple[Any, ...], named: dict[str, Any]) -> Result:
    with limited_time(seconds):
        return reader(*values, **named)


class _Own:
    """A worker for one task."""

    def __init__(self, memory: int, module: str) -> None:
        self._memory, self._module = memory, module

    def __call__(self, task: Callable[..., Any], /, *values: Any) -> Any:
        context = worker_context(self._module)
        with ProcessPoolExecutor(1, mp_context=context, initializer=_begin, initargs=(self._memory,)) as pool:
            return pool.submit(task, *values).result()


def _begin(memory: int) -> None:
    # Ctrl+C ends what reads at once: nobody waits for its result any more.
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    signal.pthread_sigmask(signal.SIG_UNBLOCK, {signal.SIGINT})
    end_with_parent()
    limit_growth(memory)
