"""Times as the cue formats write them, read leniently and written exactly."""

from __future__ import annotations

import re

ARROW = re.compile(r"^\s*(-?[\d:.,]+)\s*-+>\s*(-?[\d:.,]+)(.*)$")
"""A line with two times and an arrow between them, and what follows on it."""

_CLOCK = re.compile(r"^(?:(\d{1,4}):)?(\d{1,4}):(\d{1,2})(?:[.,:](\d{1,9}))?$")


def read_clock(text: str) -> float | None:
    """`h:mm:ss.fff`, `mm:ss,fff` and the like as seconds; None for anything else.

    Parameters
    ----------
    text
        The text.
    """
    result = _CLOCK.match(text.strip())
    if not result:
        return None
    hours, minutes, seconds, part = result.groups()
    return int(hours or 0) * 3600 + int(minutes) * 60 + int(seconds) + (float(f"0.{part}") if part else 0.0)


def clock(seconds: float, mark: str = ".", *, hours: bool = True, digits: int = 3) -> str:
    """Seconds as `hh:mm:ss.fff`, or `mm:ss.fff` without hours.

    Parameters
    ----------
    seconds
        Seconds.
    mark
        What stands between minutes and seconds.
    hours
        True where hours stand there even when they are 0.
    digits
        Digits after the point.
    """
    units = round(seconds * 10**digits)
    rest, part = divmod(units, 10**digits)
    minutes, second = divmod(rest, 60)
    end = f"{second:02d}{mark}{part:0{digits}d}"
    if not hours:
        return f"{minutes:02d}:{end}"
    return f"{minutes // 60:02d}:{minutes % 60:02d}:{end}"
