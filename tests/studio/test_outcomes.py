"""What became of work, read while it is being written."""

import threading
from dataclasses import dataclass

from velvetdrum.studio.jobs.outcomes import Outcomes


@dataclass(frozen=True)
class Work:
    id: str
    state: str


def test_an_end_that_is_written_while_rows_are_read_is_not_lost():
    """Read before it was written, and told no more when the rows are here: once it was said to be done, it stays so."""
    outcomes = Outcomes(threading.Event())
    stored = {"a": Work("a", "running"), "b": Work("b", "running")}
    reading, written = threading.Event(), threading.Event()

    def write():
        assert reading.wait(20)
        stored["a"] = Work("a", "done")

    def settle():
        outcomes.settle("a", {"state": "done"}, write)
        written.set()

    thread = threading.Thread(target=settle)
    thread.start()
    while outcomes.by_now(lambda: [stored["a"]])[0].state != "done":
        pass

    def find():
        rows = [stored["a"], stored["b"]]
        reading.set()
        assert written.wait(20)
        return rows

    assert [row.state for row in outcomes.by_now(find)] == ["done", "running"]
    thread.join()
    assert outcomes.by_now(lambda: list(stored.values())) == [Work("a", "done"), Work("b", "running")]
