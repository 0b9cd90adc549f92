"""Jobs: begun once, a few at a time, stopped, gone on with, their ends kept in sentences whatever happens."""

import sqlite3
import threading
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from types import SimpleNamespace

import pytest

from velvetdrum.audio.errors import Cancelled
from velvetdrum.limits.door import Unreadable
from velvetdrum.limits.openers import OutsideError, xml
from velvetdrum.studio.jobs.background import BackgroundJob


@dataclass(frozen=True)
class Row:
    id: str
    state: str = "running"
    sentence: str = ""
    found: str = ""


class Store:
    """Rows in memory, in place of the database."""

    def __init__(self):
        self.kept = {}

    def find(self, db, ident):
        return self.kept.get(ident)

    def unfinished(self, db):
        return [row for row in self.kept.values() if row.state == "running"]


class Tides(BackgroundJob[Row]):
    """Reckons tides."""

    threads = 2
    refusals = (KeyError,)
    heavy, no_room, fault = "Too heavy.", "No room.", "A fault."

    def __init__(self, services, does):
        self.rows, self.does, self.cleaned, self.ended = Store(), does, [], threading.Semaphore(0)
        super().__init__(services)

    def work(self, row):
        return self.does(self, row)

    def clean(self, row):
        self.cleaned.append(row.id)

    def write(self, ident, outcome):
        self.rows.kept[ident] = Row(ident, **outcome)
        self.ended.release()

    def begin(self, *idents):
        for ident in idents:
            self.rows.kept[ident] = Row(ident)
            self.run(ident)

    def wait(self, count=1):
        for _ in range(count):
            assert self.ended.acquire(timeout=20)


@pytest.fixture
def services():
    return SimpleNamespace(db=None, stopping=threading.Event())


def raising(problem):
    def does(job, row):
        raise problem

    return does


@pytest.mark.parametrize(
    ("problem", "state", "sentence"),
    [
        (KeyError("No such harbour."), "failed", "'No such harbour.'"),
        (Unreadable(), "failed", "Too heavy."),
        (MemoryError(), "failed", "Too heavy."),
        (BrokenProcessPool(), "failed", "Too heavy."),
        (OSError(28, "full"), "failed", "No room."),
        (sqlite3.OperationalError("full"), "failed", "No room."),
        (ZeroDivisionError(), "failed", "A fault."),
        (Cancelled(), "cancelled", ""),
    ],
)
def test_every_end_has_its_state_and_its_sentence(services, problem, state, sentence):
    tides = Tides(services, raising(problem))
    tides.begin("a")
    tides.wait()
    assert (tides.find("a").state, tides.find("a").sentence) == (state, sentence)
    assert tides.cleaned == ["a"]


def test_work_that_is_done_keeps_what_it_gives(services):
    tides = Tides(services, lambda job, row: {"found": f"tide {row.id}"})
    tides.begin("a", "b", "c")
    tides.wait(3)
    assert [row.found for row in tides.rows.kept.values()] == ["tide a", "tide b", "tide c"]


def test_only_so_many_are_at_work_and_none_is_begun_twice(services):
    go, at_work, most = threading.Event(), [], []

    def does(job, row):
        at_work.append(row.id)
        most.append(len(at_work))
        assert go.wait(20)
        at_work.remove(row.id)
        return {}

    tides = Tides(services, does)
    tides.begin("a", "b", "c", "d")
    tides.run("a")
    go.set()
    tides.wait(4)
    assert max(most) <= 2 and len(most) == 4


def test_a_cancelled_one_ends_and_a_stopped_server_leaves_the_rest_for_the_next(services):
    begun = threading.Event()

    def does(job, row):
        begun.set()
        while not job.is_stopped(row.id):
            pass
        raise Cancelled

    tides = Tides(services, does)
    tides.begin("a")
    assert begun.wait(20)
    tides.cancel("a")
    tides.wait()
    assert tides.find("a").state == "cancelled"
    begun.clear()
    tides.begin("b")
    assert begun.wait(20)
    services.stopping.set()
    tides.close()
    tides._threads.shutdown(wait=True)
    assert tides.find("b").state == "running" and "b" not in tides.cleaned
    services.stopping.clear()
    later = Tides(services, lambda job, row: {"found": "tide"})
    later.rows.kept = {"b": Row("b"), "a": Row("a", "cancelled")}
    later.resume()
    later.wait()
    assert later.find("b").found == "tide" and later.find("a").state == "cancelled"


def test_an_end_that_can_not_be_written_is_said_and_written_later(services, monkeypatch):
    monkeypatch.setattr("velvetdrum.studio.jobs.outcomes.AGAIN_S", 0.01)
    full = threading.Event()
    full.set()
    tides = Tides(services, lambda job, row: {"found": "tide"})
    write, tried = tides.write, threading.Semaphore(0)

    def refused(ident, outcome):
        tried.release()
        if full.is_set():
            raise sqlite3.OperationalError("database or disk is full")
        write(ident, outcome)

    tides.write = refused
    tides.begin("a", "b", "c")
    for _ in range(5):
        assert tried.acquire(timeout=20)
    assert {tides.find(ident).state for ident in "abc"} == {"done"}
    assert {row.state for row in tides.rows.kept.values()} == {"running"}
    full.clear()
    tides.wait(3)
    assert {row.found for row in tides.rows.kept.values()} == {"tide"}


def test_no_job_opens_a_file_of_others_by_itself(services):
    problems = []

    def does(job, row):
        try:
            xml(b"<a/>")
        except OutsideError as problem:
            problems.append(problem)
        return {}

    tides = Tides(services, does)
    tides.begin("a")
    tides.wait()
    assert problems
