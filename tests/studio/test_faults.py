"""What machines do: disks that are full, a database that somebody holds, processes that are killed."""

import errno
import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
import urllib.request

import psutil
import pytest

from tests.conftest import song
from tests.studio import tasks_that_fail
from tests.studio.conftest import Studio, wav
from tests.waiting import until
from velvetdrum.store import alignments, batches, exports, imports, reviews
from velvetdrum.studio.app import create_app
from velvetdrum.studio.jobs import exports as export_dispatcher
from velvetdrum.studio.jobs import imports as importing


@pytest.fixture(scope="module")
def here(tmp_path_factory):
    made = Studio(create_app(tmp_path_factory.mktemp("data"), upload_limit=30_000_000, exporters=1))
    made.project = made.bring(wav(song(2.0)), "Quay.wav")["project"]
    yield made
    made.services.close()


def test_an_edit_on_a_full_disk_says_that_it_was_not_saved_and_is_saved_later(here):
    before = here.state(here.project)
    db = here.services.db
    pages = db.execute("PRAGMA page_count").fetchone()[0]
    db.execute(f"PRAGMA max_page_count = {pages}")
    try:
        markers = [{"time_s": 0.5, "text": "x" * 200}] * 900
        answer = here.edit(here.project, "/markers", markers)
        assert answer.status_code == 507 and "not saved" in answer.json["error"] and "full" in answer.json["error"]
        assert here.state(here.project) == before
    finally:
        db.execute("PRAGMA max_page_count = 1073741823")
    assert here.edit(here.project, "/markers", markers).status_code == 200
    assert len(here.state(here.project)["document"]["markers"]) == 900


def test_an_edit_while_somebody_holds_the_database_is_told_as_not_saved(here):
    other = sqlite3.connect(here.services.data / "velvetdrum.sqlite3", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    try:
        answer = here.edit(here.project, "/name", "Held")
        assert answer.status_code == 503 and "not saved" in answer.json["error"]
        assert here.state(here.project)["document"]["name"] == "Quay"  # reading goes on
    finally:
        other.execute("ROLLBACK")
    assert here.edit(here.project, "/name", "Quay").status_code == 200


def test_an_export_on_a_full_disk_stops_says_so_and_goes_on(here, monkeypatch):
    real_run, real_state, full = export_dispatcher.run_export, exports.set_state, [True]

    def run(job, *values):
        if full[0]:
            raise OSError(errno.ENOSPC, "No space left on device")
        return real_run(job, *values)

    def state(db, ident, state, *rest):
        if full[0]:
            raise sqlite3.OperationalError("database or disk is full")
        return real_state(db, ident, state, *rest)

    monkeypatch.setattr(export_dispatcher, "run_export", run)
    monkeypatch.setattr(exports, "set_state", state)
    body = {"frame": "64x64", "to_s": 0.2}
    ident = here.post(f"/projects/{here.project}/exports", body).json["id"]
    told = here.wait_export(ident, 30)
    assert told["state"] == "failed" and "full" in told["error"]
    # Asked again while there is no room: not done, and said so.
    assert here.post(f"/exports/{ident}/again").status_code in (500, 507)
    full[0] = False
    assert here.post(f"/exports/{ident}/again").status_code == 202
    assert here.wait_export(ident)["state"] == "done"


class Full:
    """A module of the store whose ends can't be written while the disk is full; all else it does."""

    def __init__(self, real, *names):
        self.real, self.names, self.full = real, names, True

    def __getattr__(self, name):
        if name in self.names and self.full:

            def refuse(*values, **named):
                raise sqlite3.OperationalError("database or disk is full")

            return refuse
        return getattr(self.real, name)


def test_work_that_ends_while_the_disk_is_full_is_told_and_written_later(here, monkeypatch):
    """An import, an alignment, a batch, a review: each ends for whoever asks, and in the database when there is room."""
    monkeypatch.setattr("velvetdrum.studio.jobs.outcomes.AGAIN_S", 0.05)
    rooms = {
        "jobs.imports.imports": Full(imports, "end"),
        "jobs.alignments.alignments": Full(alignments, "end"),
        "jobs.reviews.reviews": Full(reviews, "end"),
        "jobs.batches.batches": Full(batches, "set_report", "set_state"),
    }
    for name, full in rooms.items():
        monkeypatch.setattr(f"velvetdrum.studio.{name}", full)
    state = here.bring(wav(song(1.2)), "Pier.wav")
    assert state["state"] == "done" and state["project"]
    words = here.post(f"/projects/{here.project}/alignments", {"text": "nothing of this is said"}).json["alignment"]
    told = until(lambda: (found := here.get(f"/alignments/{words}").json)["state"] != "running" and found)
    assert told["state"] == "failed" and told["error"]
    table = here.post_file(f"/projects/{here.project}/batches", b"sound\nlost.wav\n", "t.csv").json
    assert here.post(f"/batches/{table['id']}/start", {"frames": ["64x64"]}).status_code == 202
    review = here.post(f"/projects/{here.project}/reviews", {"to_s": 0.2}).json
    key = review.get("review") or review.get("id")
    until(lambda: here.get(f"/reviews/{key}").json["state"] != "running")
    row = until(lambda: (r := here.get(f"/batches/{table['id']}").json["rows"][0])["state"] == "failed" and r)
    assert "lost.wav" in row["message"]
    # All of it is only told so far.
    db = here.services.db
    stored = [alignments.find(db, words).state, reviews.find(db, key).state, imports.unfinished(db) != []]
    assert stored == ["running", "running", True]
    for full in rooms.values():
        full.full = False
    until(lambda: alignments.find(db, words).state == "failed" and reviews.find(db, key).state == "done")
    until(lambda: batches.find(db, table["id"]).state == "done" and not imports.unfinished(db))


def test_a_database_that_is_deleted_or_replaced_is_noticed_with_the_next_edit(tmp_path):
    made = Studio(create_app(tmp_path / "data", exporters=1))
    try:
        project = made.bring(wav(song(0.3)), "Quay.wav")["project"]
        path, kept = tmp_path / "data" / "velvetdrum.sqlite3", tmp_path / "kept"
        path.rename(kept)
        for _ in range(2):
            answer = made.edit(project, "/name", "Gone", revision=1)
            assert answer.status_code == 503 and "deleted or replaced" in answer.json["error"]
        assert not path.exists()
        kept.rename(path)
        assert made.edit(project, "/name", "Back").status_code == 200
        # A copy takes its place: what is answered afterwards is what stands in it.
        made.services.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        shutil.copy(path, kept)
        assert made.edit(project, "/name", "Later").status_code == 200
        kept.replace(path)
        assert made.edit(project, "/name", "Lost", revision=3).status_code in (409, 503)
        assert made.state(project)["document"]["name"] == "Back"
        assert made.edit(project, "/name", "In the copy").status_code == 200
        with sqlite3.connect(path) as other:
            assert "In the copy" in other.execute("SELECT name FROM project").fetchone()[0]
    finally:
        made.services.close()


def test_an_export_survives_the_end_of_the_process_that_workers_are_forked_from(here, monkeypatch):
    from multiprocessing import forkserver

    here.services.workers.replace(here.services.workers.pool("export"))
    real, died = forkserver.connect_to_new_process, []

    def dies_just_then(fds):
        if not died:
            died.append(True)
            raise EOFError
        return real(fds)

    monkeypatch.setattr("multiprocessing.popen_forkserver.forkserver.connect_to_new_process", dies_just_then)
    ident = here.post(f"/projects/{here.project}/exports", {"frame": "64x64", "to_s": 0.2}).json["id"]
    told = here.wait_export(ident)
    assert told["state"] == "done" and died, told


@pytest.mark.parametrize("plan", ["", "[]", "{", "null"])
def test_a_plan_that_cannot_be_read_ends_no_export(here, plan):
    ident = here.post(f"/projects/{here.project}/exports", {"frame": "64x64", "to_s": 0.1}).json["id"]
    assert here.wait_export(ident)["state"] == "done"
    folder = here.services.data / "exports" / ident
    (folder / "plan.json").write_text(plan)
    next(folder.glob("video*")).unlink()
    assert here.post(f"/exports/{ident}/again").status_code == 202
    assert here.wait_export(ident)["state"] == "done" and not list(folder.glob("*.part"))


def test_an_import_whose_worker_was_killed_by_another_is_tried_again(here, monkeypatch):
    """Three imports wait for the one worker; it is killed. None of them was to blame: all come in."""
    monkeypatch.setattr(importing.tasks, "analyse_sound", tasks_that_fail.slow_analysis)
    idents = [here.send(wav(song(1.0 + n / 10)), f"{n}.wav").json["import"] for n in range(3)]
    time.sleep(0.6)
    for pid in here.services.workers.pool("analysis").pids:
        os.kill(pid, signal.SIGKILL)
    states = [here.wait_import(ident, 120) for ident in idents]
    assert [state["state"] for state in states] == ["done"] * 3, states


def test_an_import_that_kills_its_worker_is_blamed_after_a_try_alone(here, monkeypatch):
    monkeypatch.setattr(importing.tasks, "analyse_sound", tasks_that_fail.dies_on_odd_sizes)
    bad = here.send(wav(song(1.0)) + b"x", "bad.wav").json["import"]
    good = here.send(wav(song(1.3)), "good.wav").json["import"]
    assert here.wait_import(good, 120)["state"] == "done"
    told = here.wait_import(bad, 120)
    assert told["state"] == "failed" and "damaged" in told["error"]
    assert not list(here.services.folder.incoming.iterdir())


def test_a_layer_that_takes_too_long_to_draw_is_named_and_not_tried_again(here, monkeypatch):
    state = here.state(here.project)["document"]
    monkeypatch.setattr("velvetdrum.studio.services.tasks.draw_frames", tasks_that_fail.draw_for_ever)
    body = {"frames": [0], "width": 64}
    for _ in range(2):
        answer = here.post(f"/projects/{here.project}/frames", body)
        assert answer.status_code == 422
        found = answer.json["problems"]
        assert found[0]["path"] == "/layers/1" and state["layers"][1]["name"] in found[0]["sentence"]
    monkeypatch.undo()
    # Changed, it is drawn again.
    assert here.edit(here.project, "/layers/1/settings/gap", 20).status_code == 200
    assert here.post(f"/projects/{here.project}/frames", body).status_code == 200


def test_a_download_leaves_no_copy(here):
    before = sorted(path.name for path in here.services.data.iterdir())
    data = here.get(f"/projects/{here.project}/file").data
    assert data[:2] == b"PK"
    assert sorted(path.name for path in here.services.data.iterdir()) == before
    (here.services.data / "bundle-left").mkdir()
    here.services.resume()
    assert not (here.services.data / "bundle-left").exists()


@pytest.fixture
def served(tmp_path):
    """The studio as a process of its own, with a song in it."""
    command = [sys.executable, "-m", "velvetdrum", "serve", "--data", str(tmp_path / "data"), "--port"]
    made = []

    def start():
        import socket

        with socket.create_server(("127.0.0.1", 0)) as free:
            port = free.getsockname()[1]
        process = subprocess.Popen([*command, str(port)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        assert "http" in process.stdout.readline()
        made.append(process)
        return process, f"http://127.0.0.1:{port}"

    yield start
    for process in made:
        process.kill()
        process.wait()


def children(process, wanted: int) -> list[psutil.Process]:
    def enough():
        found = psutil.Process(process.pid).children(recursive=True)
        return found if len(found) >= wanted else None

    return until(enough, "its processes")


def post_sound(address):
    request = urllib.request.Request(f"{address}/sounds", wav(song(60.0)), {"X-Velvet-Drum": "1"}, method="POST")
    return urllib.request.urlopen(request, timeout=30).status


def test_workers_end_when_the_server_is_killed(served):
    process, address = served()
    assert post_sound(address) == 202
    workers = children(process, 4)
    process.kill()
    _, alive = psutil.wait_procs(workers, timeout=10)
    # Where the first process of a machine never asks for them, those that ended are kept in its table.
    assert not [worker for worker in alive if worker.status() != psutil.STATUS_ZOMBIE]


def test_sigterm_ends_the_server_whatever_its_workers_do(served):
    process, address = served()
    assert post_sound(address) == 202
    children(process, 4)
    begun = time.monotonic()
    process.send_signal(signal.SIGTERM)
    _, errors = process.communicate(timeout=30)
    assert process.returncode == 0 and "Traceback" not in errors
    assert time.monotonic() - begun < 8


@pytest.mark.parametrize("what", ["file", "database"])
def test_a_data_folder_that_cannot_be_used_is_told_at_the_start(tmp_path, what):
    data = tmp_path / "data"
    if what == "file":
        data.write_text("")
        data /= "inside of a file"
    else:
        (data / "velvetdrum.sqlite3").mkdir(parents=True)
    done = subprocess.run(
        [sys.executable, "-m", "velvetdrum", "serve", "--data", str(data), "--port", "8799"],
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert done.returncode == 1 and "can't be used" in done.stderr and "Traceback" not in done.stderr
