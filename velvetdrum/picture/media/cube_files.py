"""Look-up tables of colours as `.cube` files: one or three dimensions, read under limits.

The form is plain text: TITLE, LUT_1D_SIZE or LUT_3D_SIZE, DOMAIN_MIN and DOMAIN_MAX, then a line of red, green and blue
for each point, red counting fastest.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from velvetdrum.limits.cache import cached

MOST_BYTES = 24 << 20
LARGEST_CUBE = 129
LARGEST_LINE = 65_536
_LONGEST = 400


class CubeError(ValueError):
    """A file is no look-up table. The text is a sentence for the person who brought it."""


@dataclass(frozen=True)
class LookUpTable:
    """Colours from 0 to 1. `points` has shape (n, n, n, 3), indexed by blue, green and red, or (n, 3) for one curve a
    channel; always red, green, blue. `low` and `high` are the colours of its ends."""

    title: str
    points: NDArray[np.float32]
    low: tuple[float, float, float]
    high: tuple[float, float, float]

    @property
    def size(self) -> int:
        """Points on a side."""
        return self.points.shape[0]


def parse_cube(data: bytes) -> LookUpTable:
    """A look-up table from a file's bytes. Raises CubeError."""
    if len(data) > MOST_BYTES:
        raise CubeError(f"This table has {len(data) / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are read.")
    text = data.decode("utf-8", "replace")
    title, sizes = "", {}
    ends = {"DOMAIN_MIN": (0.0, 0.0, 0.0), "DOMAIN_MAX": (1.0, 1.0, 1.0)}
    rows: list[str] = []
    for number, line in enumerate(text.splitlines(), 1):
        line = line.strip()
        if len(line) > _LONGEST:
            raise CubeError(f"Line {number} is too long for a look-up table. Is this a .cube file?")
        word = line.split(None, 1)[0] if line else "#"
        if word.startswith("#"):
            continue
        if word == "TITLE":
            title = line[5:].strip().strip('"')[:120]
        elif word in ("LUT_1D_SIZE", "LUT_3D_SIZE"):
            sizes[word] = _size(line, word, number)
        elif word in ends:
            ends[word] = _triple(line[len(word) :], number)
        elif word[0].isdigit() or word[0] in "+-.":
            if len(rows) > LARGEST_CUBE**3:
                raise CubeError(
                    f"This table has more than {LARGEST_CUBE**3} lines of colours; none that large is read."
                )
            rows.append(line)
        elif word.lower() in ("nan", "inf"):
            raise CubeError(f"Line {number} of the table has a value that is no number: {line[:40]}.")
        elif not word.isupper():
            raise CubeError(f"Line {number} is none of a .cube file: {line[:40]}.")
    if len(sizes) != 1:
        raise CubeError("A .cube file says LUT_1D_SIZE or LUT_3D_SIZE once; this one does not.")
    kind, size = next(iter(sizes.items()))
    wanted = size if kind == "LUT_1D_SIZE" else size**3
    if len(rows) != wanted:
        raise CubeError(f"The table says {size} points on a side, which are {wanted} lines; it has {len(rows)}.")
    points = _values(rows)
    low, high = ends["DOMAIN_MIN"], ends["DOMAIN_MAX"]
    if not all(a < b for a, b in zip(low, high, strict=True)):
        raise CubeError("The table's DOMAIN_MIN must lie below its DOMAIN_MAX.")
    shape = (size, 3) if kind == "LUT_1D_SIZE" else (size, size, size, 3)
    return LookUpTable(title, points.reshape(shape), low, high)


def _size(line: str, word: str, number: int) -> int:
    most = LARGEST_LINE if word == "LUT_1D_SIZE" else LARGEST_CUBE
    try:
        size = int(line.split()[1])
    except (IndexError, ValueError):
        size = 0
    if not 2 <= size <= most:
        raise CubeError(f"{word} in line {number} goes from 2 to {most}.")
    return size


def _triple(text: str, number: int) -> tuple[float, float, float]:
    try:
        red, green, blue = (float(value) for value in text.split())
    except ValueError:
        raise CubeError(f"Line {number} of the table needs three numbers.") from None
    if not all(np.isfinite((red, green, blue))):
        raise CubeError(f"Line {number} of the table has a value that is no number.")
    return red, green, blue


def _values(rows: list[str]) -> NDArray[np.float32]:
    try:
        result = np.array([row.split() for row in rows], np.float64)
    except ValueError:
        result = np.zeros((0, 0))
    if result.shape != (len(rows), 3):
        bad = next((row for row in rows if len(row.split()) != 3), rows[0] if rows else "")
        raise CubeError(f"Each line of the table has three numbers; this one has not: {bad[:40]}.")
    if not np.all(np.isfinite(result)) or np.abs(result).max() > 1000:
        raise CubeError("The table has a value that is no number, or far beyond what colours are.")
    return result.astype(np.float32)


@cached
def kept_table(path: str) -> LookUpTable:
    """The table of a file that was checked before, by its path: such files are named by their content."""
    return parse_cube(Path(path).read_bytes())
