"""Worker processes. Everything heavy goes through a `concurrent.futures.Executor`.

Three pools, so that an import or an export never keeps the picture waiting: one process decodes and analyses
under limits, two draw previews, and the others export at a lower priority. When `VELVETDRUM_DASK` names a Dask
scheduler, analysis and export run there; workers must see the data folder under the same path.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from typing import Any

from velvetdrum.limits.process import limit_process


def _prepare_analysis() -> None:
    _prepare_preview()
    limit_process()


def _prepare_preview() -> None:
    import velvetdrum.studio.tasks  # noqa: F401  (pays for the imports before the first frame is asked for)


def _prepare_export() -> None:
    os.nice(10)


class Workers:
    """Pools that come back after a worker died. `close` ends them."""

    def __init__(self, *, exporters: int | None = None, previewers: int = 2) -> None:
        self.exporters = exporters or os.cpu_count() or 1
        self._previewers = previewers
        self._pools: dict[str, Executor] = {}
        self._lock = threading.Lock()
        self._closed = False

    def submit(self, pool: str, task: Callable[..., Any], /, *values: Any) -> Future[Any]:
        """Run a task on the pool named `analysis`, `preview` or `export`."""
        executor = self.pool(pool)
        try:
            return executor.submit(task, *values)
        except (BrokenProcessPool, RuntimeError):
            self.replace(pool, executor)
            return self.pool(pool).submit(task, *values)

    def pool(self, name: str) -> Executor:
        with self._lock:
            if self._closed:
                raise RuntimeError("the server is stopping")
            if name not in self._pools:
                self._pools[name] = self._make(name)
            return self._pools[name]

    def replace(self, name: str, broken: Executor) -> None:
        """Put a new pool in the place of one whose worker died."""
        with self._lock:
            if self._pools.get(name) is broken:
                del self._pools[name]
        _shut(broken)

    def warm(self) -> None:
        """Start the processes that people wait for now, without waiting for them."""
        self.submit("analysis", os.getpid)
        for _ in range(self._previewers):
            self.submit("preview", os.getpid)

    def close(self) -> None:
        with self._lock:
            self._closed = True
            pools, self._pools = list(self._pools.values()), {}
        for pool in pools:
            _shut(pool)

    def _make(self, name: str) -> Executor:
        address = os.environ.get("VELVETDRUM_DASK")
        if address and name != "preview":
            from distributed import Client  # type: ignore[import-not-found]

            return Client(address).get_executor()
        count, prepare = {
            "analysis": (1, _prepare_analysis),
            "preview": (self._previewers, _prepare_preview),
            "export": (self.exporters, _prepare_export),
        }[name]
        return ProcessPoolExecutor(count, mp_context=get_context("spawn"), initializer=prepare)


def _shut(pool: Executor) -> None:
    """End a pool without waiting. A cluster's executor can't be told to cancel; it does so by itself."""
    if isinstance(pool, ProcessPoolExecutor):
        pool.shutdown(wait=False, cancel_futures=True)
    else:
        pool.shutdown(wait=False)
