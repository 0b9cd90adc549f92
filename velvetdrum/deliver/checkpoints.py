"""Places at which long work lets itself be stopped, and says that it goes on."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_STEP: ContextVar[Callable[[], None] | None] = ContextVar("step", default=None)


def checkpoint() -> None:
    """Called once a picture or a packet by what puts files together. Raises what the observer of the work raises."""
    step = _STEP.get()
    if step is not None:
        step()


@contextmanager
def observed(step: Callable[[], None]) -> Iterator[None]:
    """Let `step` be called at every checkpoint in the block; it may raise to stop the work.

    Parameters
    ----------
    step
        Called at every checkpoint.
    """
    token = _STEP.set(step)
    try:
        yield
    finally:
        _STEP.reset(token)
