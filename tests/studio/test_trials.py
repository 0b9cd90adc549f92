"""What an unlucky user does: kills at any moment, hours of light work, clocks that jump, folders that can't be written."""

import errno
import gc
import http.client
import json
import os
import random
import signal
import socket
import sqlite3
import subprocess
import sys
import threading
import time
import urllib.request
from pathlib import Path

import psutil
import pytest

from tests.conftest import song
from tests.studio.conftest import Studio, wav
from tests.waiting import until
from velvetdrum.store import projects
from velvetdrum.store.db import open_database
from velvetdrum.studio.app import create_app

KILLS = 20


@pytest.fixture(scope="module")
def here(tmp_path_factory):
    made = Studio(create_app(tmp_path_factory.mktemp("data"), upload_limit=30_000_000, exporters=1))
    made.project = made.bring(wav(song(1.0)), "Quay.wav")["project"]
    yield made
    made.services.close()


def asked(address, path, body=None):
    data = None if body is None else json.dumps(body).encode()
    head = {"X-Velvet-Drum": "1", "Content-Type": "application/json", "Accept": "application/json"}
    with urllib.request.urlopen(urllib.request.Request(address + path, data, head), timeout=20) as answer:
        return json.loads(answer.read())


def ended(pid):
    try:
        return psutil.Process(pid).status() == psutil.STATUS_ZOMBIE
    except psutil.NoSuchProcess:
        return True


@pytest.fixture
def served(tmp_path):
    """Servers over one data folder, one after the other, each in a process that is there at once."""
    command = [sys.executable, "-m", "tests.studio.forked_server", str(tmp_path / "data")]
    parent = subprocess.Popen(
        command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=Path(__file__).parents[2]
    )

    def start():
        with socket.create_server(("127.0.0.1", 0)) as free:
            port = free.getsockname()[1]
        parent.stdin.write(f"{port}\n")
        parent.stdin.flush()
        lines = [parent.stdout.readline(), parent.stdout.readline()]
        pid = next(int(line) for line in lines if line.strip().isdigit())
        return pid, f"http://127.0.0.1:{port}"

    yield start
    parent.stdin.close()
    parent.wait(20)


def test_no_acknowledged_edit_is_lost_over_twenty_kills(served, tmp_path):
    """Each server is killed at a moment of its own while it takes edits one after another."""
    rng = random.Random(20)
    db = open_database(tmp_path / "data" / "velvetdrum.sqlite3")
    made = Studio(create_app(tmp_path / "other"))
    document = made.state(made.bring(wav(song(0.2)), "Quay.wav")["project"])["document"]
    made.services.close()
    project = projects.create(db, document | {"tracks": []})
    db.close()
    last, revision = "", 1
    for number in range(KILLS):
        pid, address = served()
        state = asked(address, f"/projects/{project}/state")
        # What was answered is there; what was on its way may be.
        assert state["revision"] in (revision, revision + 1)
        assert not last or state["document"]["name"] in (last, f"{last}+")
        revision, last = state["revision"], state["document"]["name"]
        # Counted in edits, not in time: a busy machine makes fewer in a while.
        last_quiet, delay_s = rng.randrange(1, 8), rng.uniform(0.0, 0.03)
        for step in range(10_000):
            if step == last_quiet:
                threading.Timer(delay_s, os.kill, (pid, signal.SIGKILL)).start()
            name = f"Edit {number} {step}"
            patch = [{"op": "replace", "path": "/name", "value": name}]
            if rng.random() < 0.3:
                patch.append({"op": "replace", "path": "/markers", "value": [{"time_s": 1.0, "text": "x" * 20_000}]})
                patch[-1]["value"][0]["text"] = "x" * rng.randrange(200)
            try:
                answer = asked(
                    address, f"/projects/{project}/edits", {"revision": revision, "label": name, "patch": patch}
                )
            except (OSError, http.client.HTTPException, ValueError):
                # Refused, or cut off between its head and its body.
                break
            revision, last = answer["revision"], name
        until(lambda pid=pid: ended(pid), "its end")
        with sqlite3.connect(tmp_path / "data" / "velvetdrum.sqlite3") as file:
            assert file.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            stored = file.execute("SELECT name, revision FROM project WHERE id = ?", (project,)).fetchone()
        # The edit that was being made when it died may have been stored without its answer.
        assert stored[1] in (revision, revision + 1) and (stored[1] > revision or stored[0] == last)
        revision, last = stored[1], stored[0]
    assert revision > KILLS


def test_light_work_leaves_memory_threads_and_files_as_they_are(here):
    """Edits, frames, curves, states and refused files, in rounds; what caches may hold was filled by the first ones."""
    process = psutil.Process()

    def round_of_work(number):
        assert here.edit(here.project, "/name", f"Quay {number}").status_code == 200
        body = {"frames": [number % 20], "width": 96}
        assert here.post(f"/projects/{here.project}/frames", body).status_code == 200
        assert here.get(f"/projects/{here.project}/state").status_code == 200
        here.post(f"/projects/{here.project}/curves", {"spans": [[0, 1, 10]]})
        here.post_file(f"/projects/{here.project}/cues", b"no cues", "x.srt")

    def held():
        gc.collect()
        return process.memory_info().rss, threading.active_count(), process.num_fds()

    for number in range(40):
        round_of_work(number)
    before = held()
    for number in range(120):
        round_of_work(number)
    after = held()
    assert after[1] <= before[1] + 1 and after[2] <= before[2] + 2
    assert after[0] - before[0] < 12_000_000, (before, after)


@pytest.mark.parametrize("jump", [-400 * 86_400, -3600, 3600, 400 * 86_400])
def test_a_clock_that_jumps_loses_nothing_and_mixes_up_no_order(here, monkeypatch, jump):
    real = time.time
    revision = here.edit(here.project, "/name", "Before").json["revision"]
    monkeypatch.setattr(time, "time", lambda: real() + jump)
    assert here.edit(here.project, "/name", "Then").json["revision"] == revision + 1
    ident = here.post(f"/projects/{here.project}/exports", {"frame": "64x64", "to_s": 0.1}).json["id"]
    assert here.wait_export(ident)["state"] == "done"
    monkeypatch.undo()
    assert here.edit(here.project, "/name", "After").json["revision"] == revision + 2
    for name in ("Then", "Before"):
        state = here.state(here.project)
        here.post(f"/projects/{here.project}/undo", {"revision": state["revision"]})
        assert here.state(here.project)["document"]["name"] == name


def test_a_folder_that_can_only_be_read_is_told(here, monkeypatch):
    db = here.services.db
    db.execute("PRAGMA query_only = ON")
    try:
        answer = here.edit(here.project, "/name", "Not kept")
        assert answer.status_code == 507 and "not saved" in answer.json["error"]
        assert here.state(here.project)["document"]["name"] != "Not kept"
    finally:
        db.execute("PRAGMA query_only = OFF")
    real = os.open

    def refused(path, flags, *rest, **named):
        if str(here.services.folder.incoming) in str(path) and flags & (os.O_WRONLY | os.O_RDWR | os.O_CREAT):
            raise OSError(errno.EROFS, "Read-only file system", str(path))
        return real(path, flags, *rest, **named)

    monkeypatch.setattr(os, "open", refused)
    monkeypatch.setattr("builtins.open", _opening(refused))
    monkeypatch.setattr("io.open", _opening(refused))
    answer = here.send(wav(song(0.3)), "Quay.wav")
    assert answer.status_code == 507 and "Traceback" not in answer.get_data(as_text=True), answer.json


def _opening(opener):
    """The built-in `open` by a function that opens."""
    real = open

    def opened(file, mode="r", *rest, **named):
        if isinstance(file, int) or "r" in mode:
            return real(file, mode, *rest, **named)
        return real(file, mode, *rest, **named | {"opener": opener})

    return opened
