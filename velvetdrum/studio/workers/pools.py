"""Worker processes. Everything heavy goes through a `concurrent.futures.Executor`.

Four pools, so that an import or an export never keeps the picture waiting: some processes decode and listen under
limits, one reads small files under tighter ones, two draw previews, and the others export at a lower priority. What
listens takes turns (`Listening`), so that no kind of it waits behind another. When `VELVETDRUM_CLUSTER` names a Dask
scheduler, segments of exports are made there (see `deliver.cluster`), through a pool of its own that nobody else waits
for.
"""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Callable
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from enum import Enum
from typing import Any

from velvetdrum.deliver import cluster
from velvetdrum.limits.process import end_with_parent, limit_growth, limit_process, worker_context
from velvetdrum.studio import WORKERS_IMPORT
from velvetdrum.studio.workers.turns import Turns

_READING_BYTES = 1_200_000_000
_PREVIEW_BYTES = 3_000_000_000
_EXPORT_BYTES = 6_000_000_000
_LISTENERS = max(os.cpu_count() or 1, 2) + 1
"""Processes that decode and listen: one kind of work leaves one of them to the others."""


class ListeningTask(Enum):
    """Kinds of work that decode or listen to a recording, each with its rank: 0 for what somebody waits for."""

    IMPORT = ("import", 0)
    CLIP = ("clip", 0)
    PROJECT_FILE = ("project file", 0)
    SUM = ("sum", 0)
    ALIGNMENT = ("alignment", 1)
    BATCH = ("batch", 2)
    REFRESH = ("refresh", 3)


def _prepare() -> None:
    # Ctrl+C reaches the whole group of processes; what it ends is the server's to say.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with_parent()


def _prepare_analysis() -> None:
    _prepare()
    limit_process()


def _prepare_reading() -> None:
    _prepare()
    limit_growth(_READING_BYTES)


def _prepare_preview() -> None:
    _prepare()
    limit_growth(_PREVIEW_BYTES)


def _prepare_export() -> None:
    _prepare()
    limit_growth(_EXPORT_BYTES)
    os.nice(10)


class Workers:
    """Pools that come back after a worker died. `close` ends them, whatever they do."""

    def __init__(self, *, exporters: int | None = None, previewers: int = 2) -> None:
        self._exporters = exporters or os.cpu_count() or 1
        self._kinds: dict[str, tuple[int, Callable[[], None]]] = {
            "analysis": (_LISTENERS, _prepare_analysis),
            "reading": (1, _prepare_reading),
            "preview": (previewers, _prepare_preview),
            "export": (self._exporters, _prepare_export),
            "cluster": (self._exporters, _prepare_export),
        }
        self._turns = Turns(_LISTENERS)
        self._pools: dict[str, Executor] = {}
        # A pool is made outside of the lock that all share: a cluster may take long to answer.
        self._making = {name: threading.Lock() for name in self._kinds}
        self._single: Executor | None = None
        self._lock, self._alone = threading.Lock(), threading.Lock()
        self._closed = False

    @property
    def exporters(self) -> int:
        """How many segments are made at a time: on this machine, or on the cluster."""
        result = self._pools.get("cluster")
        return result.slots if isinstance(result, cluster.ClusterExecutor) else self._exporters

    def submit(self, pool: str, task: Callable[..., Any], /, *values: Any) -> Future[Any]:
        """Run a task on the pool named `analysis`, `reading`, `preview` or `export`."""
        executor = self.pool(pool)
        try:
            return executor.submit(task, *values)
        except (BrokenProcessPool, RuntimeError):
            self.replace(executor)
            return self.pool(pool).submit(task, *values)

    def within(self, seconds: float, pool: str, task: Callable[..., Any], /, *values: Any) -> Any:
        """Run a task that somebody waits for so long at the most. Raises TimeoutError; one that had not begun by then
        never does, and one that runs ends by its own limit of time."""
        future = self.submit(pool, task, *values)
        try:
            return future.result(seconds)
        except TimeoutError:
            future.cancel()
            raise

    def listen(self, kind: ListeningTask, task: Callable[..., Any], /, *values: Any) -> Any:
        """Run a task that decodes or listens to its end, when its kind's turn has come; else as `finish`."""
        with self._turns.turn(*kind.value):
            return self.finish("analysis", task, *values)

    def segments(self) -> Executor:
        """What makes segments of exports, and puts them together. Raises DeliverError where a cluster that is to make
        them can't be reached."""
        return self.pool("cluster" if cluster.address() else "export")

    def finish(self, pool: str, task: Callable[..., Any], /, *values: Any) -> Any:
        """Run a task to its end. One whose worker died is tried once more, alone: a death that another task of the
        pool caused, or somebody from outside, is not its fault. Raises BrokenProcessPool when it dies alone, too."""
        executor = self.pool(pool)
        try:
            return executor.submit(task, *values).result()
        except BrokenProcessPool:
            self.replace(executor)
        return self.alone(pool, task, *values)

    def alone(self, pool: str, task: Callable[..., Any], /, *values: Any) -> Any:
        """Run a task in a worker of its own, one at a time. Raises BrokenProcessPool when that worker dies."""
        with self._alone:
            with self._lock:
                if self._closed:
                    raise BrokenProcessPool("the server is stopping")
                executor = self._single = self._make(pool, 1)
            try:
                return executor.submit(task, *values).result()
            finally:
                self._single = None
                _shut(executor)

    def pool(self, name: str) -> Executor:
        """The pool of a sort of work, started when it is first asked for."""
        with self._making[name]:
            with self._lock:
                if self._closed:
                    raise RuntimeError("the server is stopping")
                if name in self._pools:
                    return self._pools[name]
            made = self._make(name)
            with self._lock:
                if not self._closed:
                    self._pools[name] = made
                    return made
            _shut(made)
            raise RuntimeError("the server is stopping")

    def replace(self, broken: Executor) -> None:
        """Let a new pool take the place of one whose worker died."""
        with self._lock:
            for name in [name for name, pool in self._pools.items() if pool is broken]:
                del self._pools[name]
        _shut(broken)

    def warm(self) -> None:
        """Start the processes that people wait for. This takes as long as what they import."""
        with suppress(RuntimeError):  # the server is stopping
            # What listens is started one by one, when it is needed.
            for name, count in (("analysis", 1), ("reading", 1), ("preview", self._kinds["preview"][0])):
                for _ in range(count):
                    self.submit(name, os.getpid)

    def close(self) -> None:
        """End all pools at once: what they do is resumed at the next start."""
        with self._lock:
            self._closed = True
            pools, self._pools = [*self._pools.values(), *([self._single] if self._single else [])], {}
        for pool in pools:
            if isinstance(pool, _Made):
                pool.kill()
            else:
                _shut(pool)

    def _make(self, name: str, count: int | None = None) -> Executor:
        usual, prepare = self._kinds[name]
        made = _Made(count or usual, prepare)
        return cluster.ClusterExecutor(cluster.address(), made) if name == "cluster" else made


class _Made(Executor):
    """A process pool that can be ended at once."""

    def __init__(self, count: int, prepare: Callable[[], None]) -> None:
        self._pool = ProcessPoolExecutor(count, mp_context=worker_context(*WORKERS_IMPORT), initializer=prepare)

    def submit(self, task: Callable[..., Any], /, *values: Any, **named: Any) -> Future[Any]:
        try:
            return self._pool.submit(task, *values, **named)
        except (EOFError, ConnectionError) as problem:
            # The process that workers are forked from died just then. Those of this pool go, too, so that all that they
            # do is begun anew, once, by whoever waits for it.
            for process in self._processes:
                process.kill()
            raise BrokenProcessPool("no worker could be started") from problem

    @property
    def _processes(self) -> list[Any]:
        return list((getattr(self._pool, "_processes", None) or {}).values())

    @property
    def pids(self) -> list[int]:
        """Ids of the processes that run now."""
        return [process.pid for process in self._processes]

    def kill(self) -> None:
        """End the processes now. The library has no word for that before Python 3.14."""
        for process in self._processes:
            process.kill()
        # Without its processes there is nothing to wait for but the pool's own thread, which the interpreter would
        # trip over at its end.
        self._pool.shutdown(wait=True, cancel_futures=True)

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        self._pool.shutdown(wait, cancel_futures=cancel_futures)


def _shut(pool: Executor) -> None:
    """End a pool without waiting. A cluster's executor can't be told to cancel; it does so by itself."""
    if isinstance(pool, _Made):
        pool.shutdown(wait=False, cancel_futures=True)
    else:
        pool.shutdown(wait=False)
