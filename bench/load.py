"""The studio under ten minutes of light work: whether memory, threads and files stay flat, and what an edit of a large
project takes beside it."""

from __future__ import annotations

import contextlib
import json
import random
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from statistics import median
from typing import Any

import psutil

from bench.playing import with_studio
from bench.rows import Row

MINUTES = 10.0
_CACHES_MB = 96
"""What the web process keeps of encoded pictures: `drawn_frames.MOST_BYTES`."""

_CUES = 10_000
_MARK = {"X-Velvet-Drum": "1", "Content-Type": "application/json", "Accept": "application/json"}


class Load:
    """One who looks, drags and edits, about four requests a second, in all demo projects in turn."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.rng = random.Random(24)
        self.refused = 0
        self.done = threading.Event()
        self.requests = 0
        self.projects = self.listed()

    def ask(self, path: str, body: Any = None) -> bytes:
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.address + path, data, _MARK)
        with urllib.request.urlopen(request, timeout=60) as answer:
            return bytes(answer.read())

    def read(self, path: str, body: Any = None) -> Any:
        return json.loads(self.ask(path, body))

    def listed(self) -> list[str]:
        """Ids of all projects."""
        page = urllib.request.Request(self.address + "/", headers={"Accept": "text/html"})
        with urllib.request.urlopen(page, timeout=60) as answer:
            parts = answer.read().decode().split('data-id="')[1:]
        return list(dict.fromkeys(part.partition('"')[0] for part in parts))

    def run(self) -> None:
        """Work until `done` is set."""
        while not self.done.wait(0.1):
            self._step(self.rng.choice(self.projects))

    def _step(self, project: str) -> None:
        state = self.read(f"/projects/{project}/state")
        frame = self.rng.randrange(300)
        # A new scene each time: pictures that were drawn before would be answered from the cache.
        self.ask(f"/projects/{project}/frames", {"frames": [frame, frame + 1, frame + 2], "width": 240})
        self.requests += 2
        if self.requests % 3 == 0:
            marker = {"time_s": round(self.rng.random(), 3), "text": "m"}
            patch = [{"op": "replace", "path": "/markers", "value": [marker]}]
            self.read(f"/projects/{project}/edits", {"revision": state["revision"], "label": "Mark", "patch": patch})
        if self.requests % 5 == 0:
            self.read(f"/projects/{project}/curves", {"spans": [{"from_s": 0.0, "to_s": 5.0, "columns": 200}]})
        if self.requests % 7 == 0:
            with contextlib.suppress(urllib.error.HTTPError):
                self.ask(f"/projects/{project}/cues", b"no cues")
            self.refused += 1


def many_cues(load: Load) -> str:
    """A copy of a demo project with 10,000 cues of eight words, and its id."""
    ident = str(load.read(f"/projects/{load.projects[0]}/duplicate", {})["id"])

    def words(start: int) -> list[list[Any]]:
        return [[start + n / 10, start + n / 10 + 0.1, "word", 1.0] for n in range(8)]

    cues = {
        f"c{n}": {"start_s": float(n), "end_s": n + 0.9, "text": "word " * 8, "words": words(n)} for n in range(_CUES)
    }
    revision = load.read(f"/projects/{ident}/state")["revision"]
    for first in range(0, _CUES, 1000):
        some = {key: cues[key] for key in list(cues)[first : first + 1000]}
        patch: list[dict[str, Any]]
        if first:
            patch = [{"op": "add", "path": f"/cue_tracks/aa/cues/{key}", "value": cue} for key, cue in some.items()]
        else:
            track = {"name": "A", "language": "en", "cues": some}
            patch = [{"op": "add", "path": "/cue_tracks/aa", "value": track}]
        body = {"revision": revision, "label": "Cues", "patch": patch}
        revision = load.read(f"/projects/{ident}/edits", body)["revision"]
    return ident


def edits(load: Load, project: str, times: int = 60) -> list[float]:
    """Milliseconds of edits of one cue each, ascending, an edit in about a second."""
    revision = load.read(f"/projects/{project}/state")["revision"]
    spent = []
    for turn in range(times):
        patch = [{"op": "replace", "path": f"/cue_tracks/aa/cues/c{turn * 7}/text", "value": f"new {turn}"}]
        begun = time.perf_counter()
        answer = load.read(f"/projects/{project}/edits", {"revision": revision, "label": f"Cue {turn}", "patch": patch})
        spent.append((time.perf_counter() - begun) * 1000)
        revision = answer["revision"]
        time.sleep(0.8)
    return sorted(spent)


def bench_load(folder: Path, minutes: float = MINUTES) -> Iterator[Row]:
    """Growth of the web process and of its workers from the third minute to the last; edits beside the work."""
    process, address = with_studio(folder)
    try:
        web = psutil.Process(process.pid)

        def held() -> tuple[float, float, int, int]:
            workers = web.children(recursive=True)
            return (
                web.memory_full_info().uss / 1e6,
                sum(worker.memory_full_info().uss for worker in workers) / 1e6,
                web.num_threads(),
                web.num_fds() - len(web.net_connections()),
            )

        load = Load(address)
        large = many_cues(load)
        worker = threading.Thread(target=load.run)
        worker.start()
        begun = time.monotonic()
        seen: list[tuple[float, float, int, int]] = []
        spent: list[float] = []
        while time.monotonic() - begun < minutes * 60:
            time.sleep(5)
            seen.append(held())
            if not spent and time.monotonic() - begun > 60:
                spent = edits(load, large)
        load.done.set()
        worker.join(60)
        settled = list(seen[int(len(seen) * 0.3) :])
        early, late = settled[: len(settled) // 4], settled[-len(settled) // 4 :]

        def grown(part: int) -> float:
            return median(item[part] for item in late) - median(item[part] for item in early)

        over = f"from minute {minutes * 0.4:.0f} to {minutes * 0.9:.0f}"
        first, last = median(item[0] for item in early), median(item[0] for item in late)
        yield Row(
            f"light load: {load.requests} requests; web process grown {over}",
            grown(0),
            "MB",
            _CACHES_MB,
            "96 MB, its cache of pictures",
        )
        yield Row(f"light load: web process at first {first:.0f} MB, at last", last, "MB", 0)
        yield Row(f"light load: workers grown {over}", grown(1), "MB", 640 * 2, "640 MB each, their caches")
        yield Row(f"light load: threads grown (to {late[-1][2]})", grown(2), "", 1, "none")
        yield Row(f"light load: files grown (to {late[-1][3]})", grown(3), "", 1, "none")
        yield Row("an edit among 10,000 cues under it, median", median(spent), "ms", 50, "50 ms")
        yield Row(
            "an edit among 10,000 cues under it, 90th percentile", spent[int(len(spent) * 0.9)], "ms", 100, "100 ms"
        )
    finally:
        process.terminate()
        process.wait(20)
