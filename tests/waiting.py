"""Waiting for a state, in place of so many seconds: a quick machine goes on at once, a busy one is given its time."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TypeVar

Result = TypeVar("Result")


def until(state: Callable[[], Result], what: str = "it", seconds: float = 120.0, every: float = 0.02) -> Result:
    """What `state` gives, once that is true; asked again and again. An AssertionError names `what` did not come."""
    end = time.monotonic() + seconds
    while not (result := state()):
        assert time.monotonic() < end, f"{what} did not come within {seconds:g} s"
        time.sleep(every)
    return result
