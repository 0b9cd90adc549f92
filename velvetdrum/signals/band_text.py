"""Bands as people write them: 40-160, 160-2.5k."""

from __future__ import annotations

import re

_PAIR = re.compile(r"\s*(\d+(?:\.\d+)?)\s*(k?)\s*(?:-|–|to)\s*(\d+(?:\.\d+)?)\s*(k?)\s*(?:Hz)?\s*", re.IGNORECASE)


def parse_bands(given: str, most: int, *, apart: bool = False) -> list[tuple[float, float]]:
    """Bands in Hz from a text like "40-160, 160-2.5k".

    Parameters
    ----------
    given
        The text.
    most
        How many there may be.
    apart
        True where no band may begin before the one before it ends.

    Raises
    ------
    ValueError
        With a sentence.
    """
    out: list[tuple[float, float]] = []
    for part in given.split(","):
        match = _PAIR.fullmatch(part)
        if match is None:
            raise ValueError(f"Write bands as 40-160, 160-2.5k, in Hz; “{part.strip()[:40]}” is none.")
        low = float(match[1]) * (1000 if match[2] else 1)
        high = float(match[3]) * (1000 if match[4] else 1)
        if not 10 <= low < high <= 24_000:
            raise ValueError(f"A band goes from 10 Hz to 24 kHz and upward; “{part.strip()[:40]}” does not.")
        if apart and out and low < out[-1][1]:
            raise ValueError(f"Bands must not cross: “{part.strip()[:40]}” begins before {out[-1][1]:g} Hz.")
        out.append((low, high))
    if len(out) > most:
        raise ValueError(f"There may be up to {most} bands, not {len(out)}.")
    return out
