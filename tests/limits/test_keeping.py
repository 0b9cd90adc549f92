"""The cache of a process: what was used last, as much as fits into a number of bytes."""

import threading
from dataclasses import dataclass

import numpy as np
import pytest

from velvetdrum.limits.cache import SHARED_CACHE, Kept, cached, size_of


@dataclass(frozen=True)
class Pair:
    one: np.ndarray
    other: tuple[np.ndarray, ...]


def test_what_does_not_fit_any_more_goes_and_the_rest_stays():
    keep, made = Kept(3000), []

    def value(name):
        def make():
            made.append(name)
            return np.zeros(1000, np.uint8)

        return keep.get((name,), make)

    value("a"), value("b"), value("a"), value("c"), value("a"), value("b")
    # Two fit beside their names; `b` went for `c`, since `a` had been asked for again.
    assert made == ["a", "b", "c", "b"]
    assert sum(keep.held().values()) <= 3000


def test_what_is_larger_than_all_is_made_and_not_kept():
    keep = Kept(1000)
    keep.get("small", lambda: b"x")
    assert len(keep.get("large", lambda: np.zeros(2000, np.uint8))) == 2000
    assert keep.peek("large") is None and keep.peek("small") == b"x"


def test_nothing_is_kept_of_what_fails():
    keep = Kept(1000)
    with pytest.raises(OSError, match="gone"):
        keep.get("a", lambda: (_ for _ in ()).throw(OSError("gone")))
    assert keep.get("a", lambda: 3) == 3


def test_sizes_are_those_of_the_arrays_within():
    arrays = [np.zeros(n, np.uint8) for n in (500, 700, 900)]
    assert 2100 <= size_of(Pair(arrays[0], (arrays[1], arrays[2]))) < 2800
    assert size_of([arrays[0], {"a": arrays[1]}]) >= 1200


def test_functions_keep_by_their_arguments_and_forget_on_request():
    calls = []

    @cached
    def doubled(value, times=2):
        """Doubles."""
        calls.append(value)
        return value * times

    assert [doubled(2), doubled(2), doubled(2, times=3), doubled(3)] == [4, 4, 6, 6] and calls == [2, 2, 3]
    assert doubled.__doc__ == "Doubles." and doubled.name in SHARED_CACHE.held()
    doubled.forget()
    assert doubled(2) == 4 and len(calls) == 4


def test_threads_may_ask_at_once():
    keep, found = Kept(10_000), []

    def ask():
        for number in range(300):
            found.append(
                keep.get(number % 40, lambda number=number: np.full(200, number % 40, np.uint8))[0] == number % 40
            )

    threads = [threading.Thread(target=ask) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(found) == 1200 and all(found) and sum(keep.held().values()) <= 10_000
