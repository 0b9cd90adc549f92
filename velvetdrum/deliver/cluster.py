"""Exports on many machines: segments go to the workers of a Dask cluster, all else stays here.

Files reach workers by what is in them: through a folder that they share with this machine, or from here through the
scheduler, once for each worker. Before the first segment every worker draws and encodes the same few pictures; one
whose processor makes other bytes of them is refused.
"""

from __future__ import annotations

import hashlib
import io
import os
import platform
import shutil
import tarfile
import tempfile
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import CancelledError, Executor, Future
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Job, Sources, make_segment, segment_path
from velvetdrum.deliver.files import written_whole
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
_CACHE = "velvetdrum-cluster"
_TRIES = 6
"""How often a segment is begun where the cluster gives it up."""


def address() -> str:
    """The address of the scheduler that exports are to use; empty for none."""
    return os.environ.get(ADDRESS, "")


@dataclass(frozen=True)
class Parcel:
    """A file or a folder that a worker needs: what is in it, its name's ending, and where it lies here."""

    key: str
    suffix: str
    path: str
    folder: bool


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


def parcels_of(sources: Sources | None) -> list[Parcel]:
    """What segments need of a project's media: its pictures and clips, and the analysis of its sound. The recording
    itself stays here: sound is encoded on this machine."""
    if sources is None:
        return []
    found = [_parcel(Path(path)) for path in sources.media.values()]
    if sources.analysis:
        found.append(_parcel(Path(sources.analysis)))
    return found


def _parcel(path: Path) -> Parcel:
    digest = hashlib.sha256()
    if path.is_dir():
        for file in sorted(path.rglob("*")):
            if file.is_file():
                digest.update(f"{file.relative_to(path)} {file.stat().st_size} ".encode())
                _feed(digest, file)
        return Parcel(digest.hexdigest(), "", str(path), True)
    _feed(digest, path)
    return Parcel(digest.hexdigest(), path.suffix, str(path), False)


def _feed(digest: Any, path: Path) -> None:
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            digest.update(piece)


def packed(parcel: Parcel) -> bytes:
    """A file's bytes, or a folder as a tar archive."""
    if not parcel.folder:
        return Path(parcel.path).read_bytes()
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as archive:
        archive.add(parcel.path, ".")
    return out.getvalue()


def unpacked(parcel: Parcel, data: bytes, cache: Path) -> str:
    """Where a worker has what came; kept by what is in it, and whole or not at all."""
    target = cache / f"{parcel.key}{parcel.suffix}"
    if target.exists():
        return str(target)
    cache.mkdir(parents=True, exist_ok=True)
    beside = cache / f"{parcel.key}.{os.getpid()}.{threading.get_ident()}.part{parcel.suffix}"
    if parcel.folder:
        beside.mkdir()
        with tarfile.open(fileobj=io.BytesIO(data)) as archive:
            archive.extractall(beside, filter="data")
    else:
        beside.write_bytes(data)
    try:
        beside.rename(target)
    except OSError:
        # Another thread was first.
        shutil.rmtree(beside, ignore_errors=True) if beside.is_dir() else beside.unlink(missing_ok=True)
    return str(target)


def remote_segment(job: Job, number: int, parcels: list[Parcel], *data: bytes) -> bytes:
    """Worker task: one segment as bytes, from files that came with it."""
    cache = Path(tempfile.gettempdir()) / _CACHE
    places = {parcel.path: unpacked(parcel, held, cache) for parcel, held in zip(parcels, data, strict=True)}
    sources = job.sources
    if sources is not None:
        media = {key: places.get(path, path) for key, path in sources.media.items()}
        sources = replace(sources, media=media, analysis=places.get(sources.analysis, sources.analysis), clips={})
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as folder:
        there = replace(job, sources=sources, folder=folder)
        make_segment(there, number)
        return segment_path(Path(folder), number, job.plan).read_bytes()


def sees(path: str, content: str) -> bool:
    """Worker task: whether a file of this machine lies there under the same path, with the same content."""
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
        self._sent: dict[str, Any] = {}
        self._shared: dict[str, bool] = {}
        self._parcels: dict[str, list[Parcel]] = {}
        self._lock = threading.Lock()
        self._closed = False
        try:
            self._client: Any = Client(address_, timeout=REACH_S, set_as_default=False, name="velvetdrum")
            self._client.wait_for_workers(1, timeout=REACH_S)
        except (OSError, TimeoutError) as problem:
            reason = str(problem).split("\n", 1)[0][:200] or "it does not answer in time"
            raise DeliverError(_AWAY.format(address=address_, reason=reason, name=ADDRESS)) from problem
        self._refuse_others(probe(), self._client.run(probe))

    @staticmethod
    def _refuse_others(own: Probe, found: dict[str, Probe]) -> None:
        for worker, other in found.items():
            if other.digest != own.digest:
                raise DeliverError(_OTHER.format(worker=worker, cpu=other.processor, own=own.processor))

    @property
    def slots(self) -> int:
        """How many segments the cluster makes at a time."""
        info = self._client.scheduler_info(n_workers=-1)
        return max(sum(worker["nthreads"] for worker in info["workers"].values()), 1)

    def submit(self, task: Callable[..., Any], /, *values: Any, **named: Any) -> Future[Any]:
        if task is not make_segment:
            return self._local.submit(task, *values, **named)
        job, number = values
        future: Future[Any] = Future()
        future.set_running_or_notify_cancel()
        self._begin(job, number, future, _TRIES)
        return future

    def _begin(self, job: Job, number: int, future: Future[Any], tries: int) -> None:
        """Let a worker make a segment. The future is done when what it made is kept here."""
        with self._lock:
            shared = self._is_shared(job)
            if not shared and job.folder not in self._parcels:
                self._parcels[job.folder] = list({parcel.key: parcel for parcel in parcels_of(job.sources)}.values())
            parcels = [] if shared else self._parcels[job.folder]
            self._send(parcels)
            data = [self._sent[parcel.key] for parcel in parcels]
        given = (make_segment, job, number) if shared else (remote_segment, job, number, parcels, *data)
        remote = self._client.submit(*given, key=_key(job, number), retries=3, pure=False)

        def done(other: Any) -> None:
            try:
                if not other.cancelled():
                    if not shared:
                        _keep(job, number, other.result())
                    future.set_result(other.result() if shared else None)
                elif self._closed or tries <= 1:
                    raise CancelledError
                else:
                    # The scheduler gives up what needs data that was on a lost worker alone. They are sent again.
                    self._begin(job, number, future, tries - 1)
            except BaseException as problem:
                future.set_exception(problem)
            finally:
                other.release()

        remote.add_done_callback(done)

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

    def _send(self, parcels: Iterable[Parcel]) -> None:
        """Give the scheduler what it has not, or has lost; a worker fetches it when its first segment needs it."""
        for parcel in parcels:
            if not self._has(self._sent.get(parcel.key)):
                [self._sent[parcel.key]] = self._client.scatter([packed(parcel)], hash=True, direct=False)

    def _has(self, sent: Any) -> bool:
        """True where a worker holds what was sent."""
        if sent is None or sent.status != "finished":
            return False
        return bool(self._client.who_has([sent]).get(sent.key))

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        self._closed = True
        self._client.close(timeout=5)
        self._local.shutdown(wait, cancel_futures=cancel_futures)


def _key(job: Job, number: int) -> str:
    return f"segment-{job.plan.key(job.document)[:16]}-{number}-{os.urandom(4).hex()}"


def _keep(job: Job, number: int, data: bytes) -> None:
    with written_whole(segment_path(Path(job.folder), number, job.plan), "The video") as beside:
        beside.write_bytes(data)
