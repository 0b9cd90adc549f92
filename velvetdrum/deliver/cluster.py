"""Exports on many machines: segments go to the workers of a Dask cluster, all else stays here.

Files reach workers by what is in them: through a folder that they share with this machine, or from here through the
scheduler. A segment is a task that depends on no other: a worker that lacks a file answers so at once, is given the
file and asked again. So nothing that a lost worker held is missed by others.

Every worker draws and encodes the same few pictures before its first segment; one whose processor makes other bytes of
them is refused, and so is one of several threads: limits of time and memory are those of a process.
"""

from __future__ import annotations

import hashlib
import logging
import os
import platform
import tempfile
import threading
from collections import defaultdict
from collections.abc import Callable, Iterator
from concurrent.futures import CancelledError, Executor, Future, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache, partial
from pathlib import Path
from typing import Any

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job, make_segment, segment_path
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.parcels import (
    Parcel,
    cache_folder,
    is_whole,
    packed,
    parcels_of,
    place_of,
    unpacked,
)
from velvetdrum.deliver.plan import plan_export
from velvetdrum.deliver.video import encode_segment
from velvetdrum.scene.document import new_document, new_layer
from velvetdrum.scene.frames import FrameSize
from velvetdrum.scene.kinds import LAYER_KINDS

ADDRESS = "VELVETDRUM_CLUSTER"
"""Environment variable with the address of a scheduler, like tcp://host:8786."""

REACH_S = 15.0
_AWAY = "The cluster at {address} can't be reached: {reason}. Start its scheduler, or unset {name}."
_MISSING = "Exports on a cluster need more: install velvetdrum[cluster], here and on all workers."
_OTHER = (
    "Worker {worker} ({cpu}) makes other pictures than this machine ({own}): bytes differ. Take it out of the cluster,"
    " or use workers of one kind of processor."
)
_THREADED = (
    "Worker {worker} has {threads} threads, and a worker makes one segment at a time. Start it with --nthreads 1, and"
    " as many of them as it has cores (--nworkers)."
)
_TRIES = 6
"""How often a segment is begun where the cluster gives it up; beside that, every worker may lack files once."""
_HANDS = 4
_GIVEN_UP = "The cluster has given up a segment again and again. See to its workers, then let the export go on."
_LOST = "The cluster's scheduler was lost. See to it; the same export goes on from there."

_log = logging.getLogger(__name__)


def address() -> str:
    """The address of the scheduler that exports are to use; empty for none."""
    return os.environ.get(ADDRESS, "")


@dataclass(frozen=True)
class Probe:
    """What a machine makes of the same few pictures, and which processor it has."""

    digest: str
    processor: str


def probe() -> Probe:
    """Draw and encode a few pictures with a layer of every kind that draws by itself; their bytes as a hash."""
    size = FrameSize(192, 108)
    layers = [new_layer(name) for name, cls in sorted(LAYER_KINDS.items()) if not cls.holds_members]
    document = new_document("Probe", frame=size, rate=Fraction(30), layers=layers)
    document["length_s"] = 0.2
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as folder:
        path = Path(folder) / "probe.mp4"
        encode_segment(document, None, plan_export(document), 0, path)
        return Probe(hashlib.sha256(path.read_bytes()).hexdigest(), _processor())


def _processor() -> str:
    try:
        lines = Path("/proc/cpuinfo").read_text().splitlines()
        return next(line.split(":", 1)[1].strip() for line in lines if line.startswith("model name"))
    except (OSError, StopIteration):
        return platform.processor() or platform.machine()


@lru_cache(maxsize=1)
def own_probe() -> Probe:
    """The probe of this process's machine, made once."""
    return probe()


@dataclass(frozen=True)
class Lacking:
    """A worker's answer where a segment needs files that it has not."""

    worker: str
    parcels: list[Parcel]


@dataclass(frozen=True)
class Unlike:
    """A worker's answer where it makes other bytes than the machine that asks."""

    worker: str
    probe: Probe


@dataclass(frozen=True)
class Threaded:
    """A worker's answer where it has several threads."""

    worker: str
    threads: int


Unfit = Unlike | Threaded


def shared_segment(expected: Probe, job: Job, number: int) -> bytes | Lacking | Unfit:
    """Worker task: one segment, into a folder that is shared; its answer is empty.

    Parameters
    ----------
    expected
        What the other machine must have in common with this one.
    job
        An export: document, sources, plan, folder.
    number
        Which one, counted from 0.
    """
    if unfit := _unfit(expected):
        return unfit
    make_segment(job, number)
    return b""


def remote_segment(expected: Probe, job: Job, number: int, parcels: list[Parcel]) -> bytes | Lacking | Unfit:
    """Worker task: one segment as bytes, from files that were given to this worker before.

    Parameters
    ----------
    expected
        What the other machine must have in common with this one.
    job
        An export: document, sources, plan, folder.
    number
        Which one, counted from 0.
    parcels
        Files that the other machine needs.
    """
    if unfit := _unfit(expected):
        return unfit
    if lacked := [parcel for parcel in parcels if lacks(parcel)]:
        return Lacking(_worker(), lacked)
    places = {parcel.path: str(place_of(parcel, cache_folder())) for parcel in parcels}
    sources = job.sources
    if sources is not None:
        media = {key: places.get(path, path) for key, path in sources.media.items()}
        sources = replace(sources, media=media, analysis=places.get(sources.analysis, sources.analysis), clips={})
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as folder:
        there = replace(job, sources=sources, folder=folder)
        make_segment(there, number)
        return segment_path(Path(folder), number, job.plan).read_bytes()


def lacks(parcel: Parcel) -> bool:
    """Worker task: whether this worker has not what the parcel names.

    Parameters
    ----------
    parcel
        A file with its content hash.
    """
    return not is_whole(parcel, cache_folder())


def take(parcel: Parcel, data: bytes) -> None:
    """Worker task: keep what came.

    Parameters
    ----------
    parcel
        A file with its content hash.
    data
        The bytes of a file.
    """
    unpacked(parcel, data, cache_folder())


def _unfit(expected: Probe) -> Unfit | None:
    """Why this worker makes no segments for whoever expects that of its probe."""
    from distributed import get_worker

    threads = get_worker().state.nthreads
    if threads > 1:
        return Threaded(_worker(), threads)
    return None if own_probe().digest == expected.digest else Unlike(_worker(), own_probe())


def _worker() -> str:
    from distributed import get_worker

    return str(get_worker().address)


def sees(path: str, content: str) -> bool:
    """Worker task: whether a file of this machine lies there under the same path, with the same content.

    Parameters
    ----------
    path
        A file on the other machine.
    content
        Bytes in the file.
    """
    try:
        return Path(path).read_text() == content
    except OSError:
        return False


class ClusterExecutor(Executor):
    """Segments on a cluster, other tasks on an executor of this machine.

    Raises DeliverError where the cluster can't be reached or a worker's processor differs.
    """

    def __init__(self, address_: str, local: Executor) -> None:
        try:
            from distributed import Client
        except ImportError as problem:
            raise DeliverError(_MISSING) from problem
        self._local = local
        self._shared: dict[str, bool] = {}
        self._parcels: dict[str, list[Parcel]] = {}
        self._lock = threading.Lock()
        self._giving: dict[str, threading.Lock] = defaultdict(threading.Lock)
        self._closed = False
        try:
            self._client: Any = Client(address_, timeout=REACH_S, set_as_default=False, name="velvetdrum")
            self._client.wait_for_workers(1, timeout=REACH_S)
        except (OSError, TimeoutError) as problem:
            reason = str(problem).split("\n", 1)[0][:200] or "it does not answer in time"
            raise DeliverError(_AWAY.format(address=address_, reason=reason, name=ADDRESS)) from problem
        self._refuse_threaded()
        self._refuse_others(own_probe(), self._client.run(own_probe))
        # What ends on the cluster is seen to here: the client's own thread is not to wait for a worker.
        self._hands = ThreadPoolExecutor(_HANDS, thread_name_prefix="cluster")

    def _refuse_threaded(self) -> None:
        info = self._client.scheduler_info(n_workers=-1)
        for worker, facts in info["workers"].items():
            if facts["nthreads"] > 1:
                raise DeliverError(_THREADED.format(worker=worker, threads=facts["nthreads"]))

    @staticmethod
    def _refuse_others(own: Probe, found: dict[str, Probe]) -> None:
        for worker, other in found.items():
            if other.digest != own.digest:
                raise DeliverError(_OTHER.format(worker=worker, cpu=other.processor, own=own.processor))

    @property
    def slots(self) -> int:
        """How many segments the cluster makes at a time."""
        with self._reached():
            info = self._client.scheduler_info(n_workers=-1)
        return max(sum(worker["nthreads"] for worker in info["workers"].values()), 1)

    @contextmanager
    def _reached(self) -> Iterator[None]:
        """Raises BrokenProcessPool where the scheduler was lost for good: another executor may reach it again."""
        try:
            yield
        except Exception as problem:
            if self._client.status in ("closing", "closed"):
                raise BrokenProcessPool(_LOST) from problem
            raise

    def submit(self, task: Callable[..., Any], /, *values: Any, **named: Any) -> Future[Any]:
        if task is not make_segment:
            return self._local.submit(task, *values, **named)
        job, number = values
        future: Future[Any] = Future()
        future.set_running_or_notify_cancel()
        self._begin(job, number, future, _TRIES + self.slots)
        return future

    def _begin(self, job: Job, number: int, future: Future[Any], tries: int, worker: str = "") -> None:
        """Let a worker make a segment, `worker` if it can. The future is done when what it made is kept here."""
        with self._reached():
            with self._lock:
                shared = self._is_shared(job)
                if not shared and job.folder not in self._parcels:
                    parcels = {parcel.key: parcel for parcel in parcels_of(job.sources)}
                    self._parcels[job.folder] = list(parcels.values())
            task: tuple[Any, ...] = (shared_segment, own_probe(), job, number)
            if not shared:
                task = (remote_segment, own_probe(), job, number, self._parcels[job.folder])
            where = {"workers": [worker], "allow_other_workers": True} if worker else {}
            remote = self._client.submit(*task, key=_key(job, number), retries=3, pure=False, **where)
        ended = partial(self._ended, job, number, future, tries, shared)

        def noticed(other: Any) -> None:
            try:
                self._hands.submit(ended, other)
            except RuntimeError:
                # This executor was shut down meanwhile.
                future.set_exception(CancelledError())

        remote.add_done_callback(noticed)

    def _ended(self, job: Job, number: int, future: Future[Any], tries: int, shared: bool, remote: Any) -> None:
        """See to a task of the cluster that is done: keep what it made, or begin it again."""
        try:
            worker = ""
            try:
                made = remote.result()
            except CancelledError:
                # Given up by the scheduler, as where its workers were lost.
                made = None
            if isinstance(made, bytes):
                if not shared:
                    _keep(job, number, made)
                future.set_result(None)
                return
            if isinstance(made, Threaded):
                raise DeliverError(_THREADED.format(worker=made.worker, threads=made.threads))
            if isinstance(made, Unlike):
                self._refuse_others(own_probe(), {made.worker: made.probe})
            if self._closed or tries <= 1:
                raise DeliverError(_GIVEN_UP)
            if isinstance(made, Lacking):
                worker = self._given(made)
            self._begin(job, number, future, tries - 1, worker)
        except BaseException as problem:
            future.set_exception(problem)
        finally:
            remote.release()

    def _given(self, lacking: Lacking) -> str:
        """Give a worker the files that it lacks, each once. Its address, or nothing where it is lost."""
        with self._giving[lacking.worker]:
            try:
                for parcel in lacking.parcels:
                    if self._client.run(lacks, parcel, workers=[lacking.worker])[lacking.worker]:
                        self._client.run(take, parcel, packed(parcel), workers=[lacking.worker])
            except (OSError, KeyError) as problem:
                _log.warning("Worker %s was not given what it needs: %s", lacking.worker, problem)
                return ""
        return lacking.worker

    def _is_shared(self, job: Job) -> bool:
        """True where all workers see this machine's folder of the export under its path."""
        if job.folder not in self._shared:
            mark = Path(job.folder) / "shared.txt"
            word = os.urandom(8).hex()
            mark.write_text(word)
            try:
                seen = self._client.run(sees, str(mark), word)
                self._shared[job.folder] = bool(seen) and all(seen.values())
            finally:
                mark.unlink(missing_ok=True)
        return self._shared[job.folder]

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        self._closed = True
        self._client.close(timeout=5)
        self._hands.shutdown(wait=False, cancel_futures=True)
        self._local.shutdown(wait, cancel_futures=cancel_futures)


def _key(job: Job, number: int) -> str:
    return f"segment-{job.plan.key(job.document)[:16]}-{number}-{os.urandom(4).hex()}"


def _keep(job: Job, number: int, data: bytes) -> None:
    with written_whole(segment_path(Path(job.folder), number, job.plan), "The video") as beside:
        beside.write_bytes(data)
