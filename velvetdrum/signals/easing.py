"""Easings of CSS Easing Functions, level 1, for arrays."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached

_BEZIER = {
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": (0.42, 0.0, 0.58, 1.0),
}
NAMED = ("linear", *_BEZIER, "hold")
_CALL = re.compile(r"(cubic-bezier|steps)\(([^()]*)\)")
_JUMPS = {
    "jump-start": (1, 0),
    "start": (1, 0),
    "jump-end": (0, 0),
    "end": (0, 0),
    "jump-none": (0, -1),
    "jump-both": (1, 1),
}
MOST_STEPS = 1000


class EasingError(ValueError):
    """An easing that cannot be read. The text is a sentence."""


@cached
def parse_easing(text: str) -> tuple[str, tuple[float, ...]]:
    """An easing as its form and numbers: a name, `cubic-bezier(x1, y1, x2, y2)` or `steps(count, jump)`.

    Gives ("linear", ()), ("hold", ()), ("bezier", (x1, y1, x2, y2)) or ("steps", (count, rises at the start, further
    jumps)).

    Parameters
    ----------
    text
        The text.

    Raises
    ------
    EasingError
    """
    if text in _BEZIER:
        return "bezier", _BEZIER[text]
    if text in NAMED:
        return text, ()
    result = _CALL.fullmatch(text.strip())
    parts = [part.strip() for part in result[2].split(",")] if result else []
    try:
        if result and result[1] == "cubic-bezier" and len(parts) == 4:
            x1, y1, x2, y2 = (float(part) for part in parts)
            if 0 <= x1 <= 1 and 0 <= x2 <= 1 and abs(y1) <= 10 and abs(y2) <= 10:
                return "bezier", (x1, y1, x2, y2)
            raise EasingError("cubic-bezier takes x from 0 to 1 and y from -10 to 10.")
        if result and result[1] == "steps" and len(parts) in (1, 2):
            count, jump = int(parts[0]), parts[1] if len(parts) == 2 else "end"
            if jump in _JUMPS and (2 if jump == "jump-none" else 1) <= count <= MOST_STEPS:
                return "steps", (float(count), *(float(value) for value in _JUMPS[jump]))
            raise EasingError(f"steps takes a count from 1 to {MOST_STEPS} and one of {', '.join(_JUMPS)}.")
    except ValueError as problem:
        if isinstance(problem, EasingError):
            raise
        raise EasingError(f"{text} has a number that cannot be read.") from problem
    raise EasingError(f"An easing is {', '.join(NAMED)}, cubic-bezier(…) or steps(…), not “{text[:40]}”.")


def ease(name: str, part: NDArray[np.float64]) -> NDArray[np.float64]:
    """Progress after easing, for progress `part` from 0 to 1. `hold` stays at 0 until the end.

    Parameters
    ----------
    name
        Name, as the file or the format has it.
    part
        Shares of the way, 0 to 1.
    """
    form, numbers = parse_easing(name)
    match form:
        case "hold":
            return np.where(part >= 1.0, 1.0, 0.0)
        case "bezier":
            return cubic_bezier(numbers[0], numbers[1], numbers[2], numbers[3], part)
        case "steps":
            # CSS Easing Functions 1, section 2.3: the current step over the number of jumps.
            count, first, more = numbers
            step = np.clip(np.floor(part * count + 1e-9) + first, 0, count + more)
            return np.asarray(np.where(part >= 1.0, 1.0, step / (count + more)), np.float64)
        case _:
            return part


def cubic_bezier(x1: float, y1: float, x2: float, y2: float, x: NDArray[np.float64]) -> NDArray[np.float64]:
    """The CSS cubic Bezier through (0, 0) and (1, 1), as y over x. Solved by bisection: exact to 2^-40.

    Parameters
    ----------
    x1
        First control point, x.
    y1
        First control point, y.
    x2
        Second control point, x.
    y2
        Second control point, y.
    x
        Shares of the time, 0 to 1.
    """

    def curve(first: float, second: float, t: NDArray[np.float64]) -> NDArray[np.float64]:
        return 3 * (1 - t) ** 2 * t * first + 3 * (1 - t) * t**2 * second + t**3

    low, high = np.zeros_like(x), np.ones_like(x)
    for _ in range(40):
        middle = (low + high) / 2
        below = curve(x1, x2, middle) < x
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    return np.where(x <= 0, 0.0, np.where(x >= 1, 1.0, curve(y1, y2, (low + high) / 2)))
