"""Segments on a Dask cluster: the same bytes as here, whatever becomes of its workers and its network."""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
from concurrent.futures import CancelledError, Future, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.deliver.test_video import Here, clicks, make_job, white_bars
from velvetdrum.deliver import parcels
from velvetdrum.deliver.cluster import ClusterExecutor, Probe, own_probe, probe, take
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.deliver.export import Sources, make_segment, run_export
from velvetdrum.deliver.parcels import packed, parcels_of, unpacked
from velvetdrum.scene.document import new_layer
from velvetdrum.studio.workers.pools import Workers

BRIDGE, NET = "vdbridge", "10.77.31"
"""Of the machine: there is one network at a time, since the tests of a file run in one process."""


def run(*words):
    return subprocess.run(words, check=True, capture_output=True, text=True)


class Loopback:
    """Where no network of its own can be had: all on this machine; cutting off is stopping the process for a while."""

    host = "127.0.0.1"

    def worker(self, number):
        return [], self.host

    @contextlib.contextmanager
    def cut_off(self, number, process):
        os.kill(process.pid, signal.SIGSTOP)
        yield
        os.kill(process.pid, signal.SIGCONT)

    def close(self):
        pass


class Namespaces:
    """Each worker in a network namespace of its own, joined by a bridge."""

    host = f"{NET}.1"

    def __init__(self):
        self.close()
        run("ip", "link", "add", BRIDGE, "type", "bridge")
        run("ip", "addr", "add", f"{self.host}/24", "dev", BRIDGE)
        run("ip", "link", "set", BRIDGE, "up")
        for number in (1, 2):
            space, here, there = f"vdspace{number}", f"vdhere{number}", f"vdthere{number}"
            run("ip", "netns", "add", space)
            run("ip", "link", "add", here, "type", "veth", "peer", "name", there, "netns", space)
            run("ip", "link", "set", here, "master", BRIDGE, "up")
            inside = ("ip", "netns", "exec", space, "ip")
            run(*inside, "addr", "add", f"{NET}.{number + 1}/24", "dev", there)
            run(*inside, "link", "set", there, "up")
            run(*inside, "link", "set", "lo", "up")
        # A bridge passes nothing on until it has learnt.
        time.sleep(0.5)

    def worker(self, number):
        return ["ip", "netns", "exec", f"vdspace{number}"], f"{NET}.{number + 1}"

    @contextlib.contextmanager
    def cut_off(self, number, process):
        run("ip", "link", "set", f"vdhere{number}", "down")
        yield
        run("ip", "link", "set", f"vdhere{number}", "up")

    def close(self):
        for words in (
            ["ip", "netns", "del", "vdspace1"],
            ["ip", "netns", "del", "vdspace2"],
            ["ip", "link", "del", BRIDGE],
        ):
            subprocess.run(words, capture_output=True, check=False)


def network():
    if os.geteuid() == 0 and shutil.which("ip"):
        try:
            return Namespaces()
        except (OSError, subprocess.CalledProcessError):
            with contextlib.suppress(OSError):
                Namespaces.close(None)
    return Loopback()


class Cluster:
    """A scheduler and two workers of one thread each."""

    def __init__(self, folder):
        self.net, self.folder = network(), folder
        with socket.socket() as free:
            free.bind((self.net.host, 0))
            port = free.getsockname()[1]
        self.address = f"tcp://{self.net.host}:{port}"
        common = ("--host", self.net.host, "--port", str(port), "--no-dashboard")
        self.scheduler = self._start("scheduler", [], "dask_scheduler", *common)
        self.workers = {number: self.start_worker(number) for number in (1, 2)}

    def start_worker(self, number):
        before, host = self.net.worker(number)
        more = ("--host", host, "--nthreads", "1", "--no-nanny", "--no-dashboard")
        local = ("--local-directory", str(self.folder / f"worker{number}"))
        return self._start(f"worker{number}", before, "dask_worker", self.address, *more, *local)

    def _start(self, name, before, module, *words):
        command = [*before, sys.executable, "-m", f"distributed.cli.{module}", *words]
        log = (self.folder / f"{name}.log").open("w")
        env = {**os.environ, parcels.CACHE: str(self.folder / "parcels")}
        root = Path(__file__).parents[2]
        return subprocess.Popen(command, stdout=log, stderr=log, cwd=root, env=env, start_new_session=True)

    def close(self):
        for process in (*self.workers.values(), self.scheduler):
            with contextlib.suppress(ProcessLookupError):
                os.killpg(process.pid, signal.SIGKILL)
            process.wait()
        self.net.close()


@pytest.fixture(scope="module")
def cluster(tmp_path_factory):
    made = Cluster(tmp_path_factory.mktemp("cluster"))
    yield made
    made.close()


@pytest.fixture(scope="module")
def wanted(tmp_path_factory):
    """An export, and the file that this machine makes of it."""
    folder = tmp_path_factory.mktemp("wanted")
    layers = [new_layer("backdrop"), white_bars(), new_layer("particles", rate=60.0), new_layer("text", text="Quay")]
    job = make_job(folder, clicks(24.0, [0.5, 3.3, 9.1, 14.0, 20.2]), size=(480, 270), layers=layers, speed="quick")
    run_export(job, Here(), 1, folder / "here.mp4")
    return job, (folder / "here.mp4").read_bytes()


def test_a_shared_folder_is_used_and_the_file_is_the_same(cluster, wanted, tmp_path, empty_caches):
    job, here = wanted
    executor = ClusterExecutor(cluster.address, Here())
    executor._client.wait_for_workers(2, timeout=30)
    try:
        assert executor.slots == 2
        run_export(replace(job, folder=str(tmp_path / "export")), executor, executor.slots, tmp_path / "there.mp4")
        assert executor._shared[str(tmp_path / "export")] and not empty_caches.exists()
    finally:
        executor.shutdown()
    assert (tmp_path / "there.mp4").read_bytes() == here


class GivenUp:
    """A task that the scheduler has given up, as it does where workers were lost again and again."""

    def result(self):
        raise CancelledError

    def add_done_callback(self, call):
        threading.Thread(target=call, args=(self,), daemon=True).start()

    def release(self):
        pass


@pytest.fixture
def empty_caches(cluster):
    """Workers that have got nothing yet: where they keep what they get. They share this machine's folder."""
    folder = cluster.folder / "parcels" / "cluster"
    shutil.rmtree(folder, ignore_errors=True)
    return folder


def not_for_ever(seconds=120.0):
    """A question whether an export was cancelled, which ends one that hangs."""
    end = time.monotonic() + seconds
    return lambda: time.monotonic() > end


def test_what_the_scheduler_gives_up_or_a_worker_has_lost_is_begun_again(
    cluster, wanted, tmp_path, monkeypatch, empty_caches
):
    job, here = wanted
    executor = ClusterExecutor(cluster.address, Here())
    executor._client.wait_for_workers(2, timeout=30)
    job = replace(job, folder=str(tmp_path / "export"))
    executor._shared[job.folder] = False
    begun, given = [], []
    real_submit, real_run = executor._client.submit, executor._client.run

    def submit(task, *values, **named):
        begun.append(values[2])
        if len(begun) <= 3:
            return GivenUp()
        if len(begun) == 8:
            # In one step: a worker may be writing there.
            empty_caches.rename(tmp_path / "lost")
        return real_submit(task, *values, **named)

    def run_there(task, *values, **named):
        if task is take:
            given.append(values[0].key)
            if len(given) == 1:
                raise OSError("The connection was closed.")
        return real_run(task, *values, **named)

    monkeypatch.setattr(executor._client, "submit", submit)
    monkeypatch.setattr(executor._client, "run", run_there)
    try:
        run_export(job, executor, executor.slots, tmp_path / "there.mp4", cancelled=not_for_ever())
    finally:
        executor.shutdown()
    assert len(begun) >= len(job.plan.segments) + 3 + 2
    # The first was lost on its way; then it came, and again after it had been lost.
    assert set(given) == {parcel.key for parcel in parcels_of(job.sources)} and len(given) >= 3
    assert (tmp_path / "there.mp4").read_bytes() == here


def test_a_worker_that_comes_late_and_makes_other_bytes_is_refused(cluster, wanted, tmp_path, monkeypatch):
    job, _ = wanted
    executor = ClusterExecutor(cluster.address, Here())
    other = replace(own_probe(), digest="0" * 64)
    real = executor._client.submit
    # The workers' own probe is not that of the machine that asks.
    monkeypatch.setattr(executor._client, "submit", lambda task, own, *more, **named: real(task, other, *more, **named))
    monkeypatch.setattr("velvetdrum.deliver.cluster.own_probe", lambda: other)
    job = replace(job, folder=str(tmp_path / "export"))
    try:
        with pytest.raises(DeliverError, match=r"Worker tcp://.* makes other pictures than this machine"):
            run_export(job, executor, executor.slots, tmp_path / "there.mp4", cancelled=not_for_ever())
    finally:
        executor.shutdown()


def test_a_killed_worker_and_one_that_is_cut_off_lose_nothing(cluster, wanted, tmp_path, empty_caches):
    job, here = wanted
    executor = ClusterExecutor(cluster.address, Here())
    executor._client.wait_for_workers(2, timeout=30)
    job = replace(job, folder=str(tmp_path / "export"))
    # As if nothing was shared: what is needed goes through the scheduler.
    executor._shared[job.folder] = False
    seen, done = [], threading.Event()

    def faults():
        while not seen or seen[-1] < job.plan.frames * 0.3:
            time.sleep(0.02)
        os.killpg(cluster.workers[1].pid, signal.SIGKILL)
        with cluster.net.cut_off(2, cluster.workers[2]):
            time.sleep(5.0)
        cluster.workers[1].wait()
        cluster.workers[1] = cluster.start_worker(1)
        done.set()

    thread = threading.Thread(target=faults, daemon=True)
    thread.start()
    try:
        run_export(job, executor, executor.slots, tmp_path / "there.mp4", seen.append, not_for_ever())
    finally:
        executor.shutdown()
    thread.join(60)
    # What it needed came to the workers, by what is in it.
    assert done.is_set() and {item.name for item in empty_caches.iterdir()} == {parcels_of(job.sources)[0].key}
    assert (tmp_path / "there.mp4").read_bytes() == here


def test_a_scheduler_that_is_lost_ends_the_executor_so_that_another_one_is_tried(cluster, wanted, tmp_path):
    job = replace(wanted[0], folder=str(tmp_path))
    executor = ClusterExecutor(cluster.address, Here())
    executor._client.close(timeout=5)
    try:
        with pytest.raises(BrokenProcessPool, match="scheduler was lost"):
            executor.submit(make_segment, job, 0)
        with pytest.raises(BrokenProcessPool, match="scheduler was lost"):
            executor._begin(job, 0, Future(), 2)
    finally:
        executor.shutdown()


def test_what_a_worker_needs_is_known_by_what_is_in_it(wanted, tmp_path):
    job, _ = wanted
    [analysis] = parcels_of(job.sources)
    assert analysis.folder and len(analysis.key) == 64
    place = Path(unpacked(analysis, packed(analysis), tmp_path / "cache"))
    for file in Path(job.sources.analysis).rglob("*"):
        if file.is_file():
            assert (place / file.relative_to(job.sources.analysis)).read_bytes() == file.read_bytes()
    # Not written again, and nothing half-written beside it.
    stamp = place.stat().st_mtime_ns
    assert unpacked(analysis, b"", tmp_path / "cache") == str(place) and place.stat().st_mtime_ns == stamp
    assert [item.name for item in (tmp_path / "cache").iterdir()] == [analysis.key]
    picture = tmp_path / "a.png"
    picture.write_bytes(np.arange(200, dtype=np.uint8).tobytes())
    [parcel] = parcels_of(Sources(media={"a": str(picture)}))
    assert Path(unpacked(parcel, packed(parcel), tmp_path / "cache")).read_bytes() == picture.read_bytes()


def test_a_worker_whose_processor_makes_other_bytes_is_refused_by_name():
    own = probe()
    assert own == probe() and own.processor
    ClusterExecutor._refuse_others(own, {"tcp://a": own})
    other = Probe("0" * 64, "Lantern 9000")
    with pytest.raises(DeliverError, match=r"Worker tcp://b \(Lantern 9000\) makes other pictures"):
        ClusterExecutor._refuse_others(own, {"tcp://a": own, "tcp://b": other})


def test_a_cluster_that_is_not_there_is_told(monkeypatch):
    monkeypatch.setattr("velvetdrum.deliver.cluster.REACH_S", 0.5)
    with pytest.raises(DeliverError, match="can't be reached"):
        ClusterExecutor("tcp://127.0.0.1:9", Here())


def test_what_lies_in_a_cache_is_looked_at_before_it_is_used(tmp_path, monkeypatch):
    """Another file under a parcel's name is removed; what comes and is not what it was said to be is not kept."""
    source, cache = tmp_path / "lamp.svg", tmp_path / "cache"
    source.write_text("<svg/>")
    (parcel,) = parcels_of(Sources(media={"a": str(source)}))
    cache.mkdir()
    parcels.place_of(parcel, cache).write_text("planted")
    assert not parcels.is_whole(parcel, cache) and not parcels.place_of(parcel, cache).exists()
    with pytest.raises(parcels.SpoiledParcel, match="not what it was said to be"):
        unpacked(parcel, b"another file", cache)
    assert not list(cache.iterdir())
    assert Path(unpacked(parcel, packed(parcel), cache)).read_text() == "<svg/>"
    assert parcels.is_whole(parcel, cache)


def test_a_cache_that_others_can_write_to_is_not_used(tmp_path, monkeypatch):
    monkeypatch.setenv(parcels.CACHE, str(tmp_path))
    parcels.cache_folder.cache_clear()
    own = parcels.cache_folder()
    assert own == tmp_path / "cluster" and own.stat().st_mode & 0o077 == 0
    for spoil in (lambda: own.chmod(0o777), lambda: (own.rmdir(), (tmp_path / "cluster").symlink_to("/tmp"))):
        spoil()
        parcels.cache_folder.cache_clear()
        assert parcels.cache_folder().parent != tmp_path
    parcels.cache_folder.cache_clear()


class SlowScheduler(ClusterExecutor):
    """A cluster that takes long to say that it is not there."""

    def __init__(self, address, local):
        time.sleep(3.0)
        raise DeliverError("The cluster can't be reached.")


def test_who_waits_for_a_cluster_holds_nobody_else_up(monkeypatch):
    monkeypatch.setenv("VELVETDRUM_CLUSTER", "tcp://127.0.0.1:1")
    monkeypatch.setattr("velvetdrum.deliver.cluster.ClusterExecutor", SlowScheduler)
    workers = Workers(exporters=1)
    raised = []

    def wait():
        try:
            workers.segments()
        except DeliverError as problem:
            raised.append(problem)

    waiting = threading.Thread(target=wait)
    waiting.start()
    try:
        for name in ("reading", "preview", "export"):
            assert workers.pool(name) is workers.pool(name)
        assert waiting.is_alive() and not raised
        waiting.join(30)
        assert raised
    finally:
        workers.close()


def test_a_worker_of_several_threads_is_refused_by_name():
    from distributed import LocalCluster

    quiet = {"dashboard_address": ":0", "processes": False, "silence_logs": 50}
    with (
        LocalCluster(n_workers=1, threads_per_worker=2, host="127.0.0.1", protocol="tcp://", **quiet) as threaded,
        ThreadPoolExecutor(1) as local,
        pytest.raises(DeliverError, match=r"Worker tcp://127.* has 2 threads.*--nthreads 1"),
    ):
        ClusterExecutor(threaded.scheduler_address, local)
