"""Whose turn it is among kinds of work that wait for the same workers."""

import threading

from hypothesis import given
from hypothesis import strategies as st

from tests.waiting import until
from velvetdrum.studio.workers.turns import Turns


class Work:
    """Threads that take turns, and end when they are told to."""

    def __init__(self, places):
        self.turns, self.begun, self.ends, self.lock = Turns(places), [], {}, threading.Lock()
        self.threads = []

    def add(self, name, kind, rank=0):
        self.ends[name] = threading.Event()

        def run():
            with self.turns.turn(kind, rank):
                with self.lock:
                    self.begun.append(name)
                self.ends[name].wait(30)

        waiting = len(self.turns._waiting) + sum(self.turns._running.values())
        self.threads.append(threading.Thread(target=run, daemon=True))
        self.threads[-1].start()
        until(lambda: len(self.turns._waiting) + sum(self.turns._running.values()) > waiting)

    def end(self, name):
        running = len(self.begun)
        self.ends[name].set()
        until(lambda: len(self.begun) > running or not self.turns._waiting)

    def finish(self):
        for event in self.ends.values():
            event.set()
        for thread in self.threads:
            thread.join(30)
            assert not thread.is_alive()


def test_a_batch_does_not_wait_behind_many_alignments():
    work = Work(3)
    for number in range(6):
        work.add(f"alignment {number}", "alignment", 1)
    assert work.begun == ["alignment 0", "alignment 1"]
    # One place is never taken by a kind that has all others: the batch begins at once, what somebody waits for, too.
    work.add("batch 0", "batch", 2)
    until(lambda: "batch 0" in work.begun)
    work.add("batch 1", "batch", 2)
    work.add("import", "import", 0)
    work.end("alignment 0")
    assert work.begun[3:] == ["import"]
    work.end("import")
    assert work.begun[4] in ("batch 1", "alignment 2")
    work.finish()
    assert len(work.begun) == 9


@given(st.lists(st.tuples(st.sampled_from("abcd"), st.integers(0, 3)), min_size=1, max_size=14), st.integers(2, 4))
def test_all_work_is_done_and_never_more_than_so_many_at_once(rows, places):
    turns, running, most, done = Turns(places), [0], [0], []
    lock = threading.Lock()

    def run(number, kind, rank):
        with turns.turn(kind, rank):
            with lock:
                running[0] += 1
                most[0] = max(most[0], running[0])
            with lock:
                running[0] -= 1
                done.append(number)

    threads = [threading.Thread(target=run, args=(n, *row)) for n, row in enumerate(rows)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert sorted(done) == list(range(len(rows))) and most[0] <= places
