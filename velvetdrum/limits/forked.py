"""Imported first by the process that workers are forked from, so that all of them have it."""

from __future__ import annotations

import sys
from typing import Any

_RACE = "ignored due to race condition"


def _report(unraisable: Any) -> None:
    """As Python reports it, but for one thing that is no fault: that a worker ended just before another was forked is
    noticed by that one too, which has nothing to do with it."""
    if isinstance(unraisable.exc_value, OSError) and _RACE in str(unraisable.exc_value):
        return
    sys.__unraisablehook__(unraisable)


sys.unraisablehook = _report
