"""Where one shot of a clip gives way to another at once."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.picture.media.clips.clip import opened
from velvetdrum.picture.media.clips.frame_source import Moving
from velvetdrum.picture.raster.areas import Pixels

Values = NDArray[np.float64]

_SIZE = (64, 36)
_FLAT = 50.0
_BINS = 4
_STEEP = 2.5
"""How much larger a change must be than those about it."""
_LEAST = 0.14
"""Mean change of colours, 0 to 1, from which on one may be a cut."""
_ABOUT = 8
_LEAST_APART_S = 0.2


def scene_cuts(path: str, from_s: float, to_s: float) -> list[float]:
    """Seconds of a clip at which a new shot begins, from one second of it to another, in their order. Raises ClipError
    and OSError.

    A cut changes more from one frame to the next than the frames about it do: in how far two pictures of
    64 x 36 pixels go together (their correlation, which a change of light leaves as it is) and in how often colours
    occur; the mean of both, each 0 to 1, is two and a half times the median about it.

    Parameters
    ----------
    path
        The clip.
    from_s
        From this second on.
    to_s
        Up to, and without, this second.
    """
    clip = opened(path)
    first, last = clip.number_at(from_s), clip.number_at(to_s)
    begin, end = max(first - _ABOUT, 0), min(last + _ABOUT + 1, clip.frames)
    changes = _changes(clip, begin, end)
    result: list[float] = []
    for index in np.flatnonzero(changes > _LEAST):
        about = np.concatenate([changes[max(index - _ABOUT, 0) : index], changes[index + 1 : index + _ABOUT + 1]])
        median = float(np.median(about)) if len(about) else 0.0
        time = float(clip.times[begin + index])
        apart = not result or time - result[-1] >= _LEAST_APART_S
        if changes[index] >= _STEEP * median and apart and from_s <= time < to_s:
            result.append(time)
    return result


def _changes(clip: Moving, begin: int, end: int) -> Values:
    """How much each of some frames differs from the one before it, 0 to 1; the first one not at all."""
    changes = np.zeros(max(end - begin, 0))
    before: tuple[Values, Values] | None = None
    for index in range(len(changes)):
        small = np.asarray(clip.pixels(begin + index, _SIZE)[..., :3])
        now = _level(small), _histogram(small)
        if before is not None:
            plain = not now[0].any() and not before[0].any()
            apart = 0.0 if plain else float(np.clip(1 - (now[0] * before[0]).sum(), 0.0, 1.0))
            colours = float(np.abs(now[1] - before[1]).sum() / 2)
            changes[index] = (apart + colours) / 2
        before = now
    return changes


def _level(pixels: Pixels) -> Values:
    """A picture about its mean, as a vector of length 1; of one colour alone, zeros."""
    values = pixels.astype(np.float64) - pixels.mean()
    length = float(np.sqrt((values**2).sum()))
    return values / length if length > _FLAT else np.zeros_like(values)


def _histogram(pixels: Pixels) -> Values:
    """How often colours occur, their sum 1, shape (64,)."""
    counts = cv2.calcHist([np.ascontiguousarray(pixels)], [0, 1, 2], None, [_BINS] * 3, [0, 256] * 3)
    return np.asarray(counts.reshape(-1) / max(counts.sum(), 1.0), np.float64)
