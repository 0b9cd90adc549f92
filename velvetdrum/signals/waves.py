"""The waveform for drawing: samples around a time, triggers that hold a tone still, and peaks of any stretch."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE
from velvetdrum.audio.levels import PYRAMID_BASE, PYRAMID_STEP
from velvetdrum.signals.array_cache import KeptArrays
from velvetdrum.signals.audio_range import AudioRange

Samples = NDArray[np.float32]

SEARCH_S = 0.025
"""How far back a trigger looks: a whole period of the lowest tone that it holds, 40 Hz."""

_UP = 8
_TAPS = 24
_columns = KeptArrays("signals.columns")


def samples(use: AudioRange, channel: str, first: int, count: int) -> Samples:
    """Samples of the recording at 48 kHz from `first` on, -1 to 1, shape (count,); zero outside of the used stretch.

    `channel` is mix, left, right, mid or side; of a mono recording, side is silent and all others are the same.

    Parameters
    ----------
    use
        The used stretch of a recording.
    channel
        Which channel: "mix", "left", "right", "mid" or "side".
    first
        The first one, counted from 0.
    count
        How many.
    """
    pair = stereo(use, first, count)
    match channel:
        case "left":
            return pair[:, 0]
        case "right":
            return pair[:, 1]
        case "side":
            return (pair[:, 0] - pair[:, 1]) * np.float32(0.5)
        case _:
            return (pair[:, 0] + pair[:, 1]) * np.float32(0.5)


def stereo(use: AudioRange, first: int, count: int) -> Samples:
    """Left and right samples from `first` on, shape (count, 2); a mono recording has both alike.

    Parameters
    ----------
    use
        The used stretch of a recording.
    first
        The first one, counted from 0.
    count
        How many.
    """
    out = np.zeros((count, 2), np.float32)
    low = max(first, round(use.in_s * RATE), 0)
    high = min(first + count, round(use.out_s * RATE), use.recording.samples)
    if high > low:
        out[low - first : high - first] = use.recording.pcm[low:high].astype(np.float32) / np.float32(32767)
    return out


def rising_crossing(wave: Samples, last: int) -> float:
    """Where a wave best begins to be shown so that a steady tone stands still: its index, with a fraction.

    Of the rising zero crossings up to index `last`, the latest among those that end the deepest valleys (by the sum
    of the samples below zero): in a tone with harmonics there may be several crossings in a period, but only one of
    them ends the deepest. `last` without any crossing.

    Parameters
    ----------
    wave
        Samples of one channel, -1 to 1.
    last
        The last one, counted from 0.
    """
    part = wave[: last + 2].astype(np.float64)
    rising = np.flatnonzero((part[:-1] < 0) & (part[1:] >= 0))
    if not len(rising):
        return float(last)
    # The area below zero of straight lines between the samples: where a valley is cut matters little then.
    first, second = part[:-1], part[1:]
    crossing = (first < 0) != (second < 0)
    low = np.minimum(first, second)
    triangle = low**2 / np.maximum(2 * np.abs(first - second), 1e-12)
    below = np.where(crossing, triangle, -np.minimum((first + second) / 2, 0.0))
    sums = np.concatenate([[0.0], np.cumsum(below)])
    falls = np.flatnonzero((first >= 0) & (second < 0))
    begins = np.concatenate([[0], falls])
    begin = begins[np.searchsorted(begins, rising, side="right") - 1]
    depths = sums[rising + 1] - sums[begin]
    # A valley that is cut off at the front cannot be weighed.
    depths[begin == 0] *= 0.5
    index = int(rising[np.flatnonzero(depths >= 0.99 * depths.max())[-1]])
    steps, values = np.array([0.0, 1.0]), part[index : index + 2]
    if MARGIN <= index < len(wave) - MARGIN - 2:
        # Between the samples the wave is no straight line: looked up at eighths, it hardly differs from one.
        steps = np.arange(9) / 8
        values = at_places(wave, index + steps)
        rises = np.flatnonzero((values[:-1] < 0) & (values[1:] >= 0))
        step = int(rises[0]) if len(rises) else 0
        steps, values = steps[step : step + 2], values[step : step + 2]
    share = float(np.clip(-values[0] / max(values[1] - values[0], 1e-12), 0.0, 1.0))
    return index + float(steps[0] + share * (steps[1] - steps[0]))


def at_places(wave: Samples, places: NDArray[np.float64]) -> NDArray[np.float64]:
    """A wave between its samples, band-limited, at fractional indices; the wave must go on for 12 samples around.

    Parameters
    ----------
    wave
        Samples of one channel, -1 to 1.
    places
        Places in samples, between two of them, too.
    """
    kernel = _kernel()
    whole = np.floor(places).astype(int)
    fine = (places - whole) * _UP
    step = np.floor(fine).astype(int)
    part = fine - step
    windows = wave[whole[:, None] + np.arange(1 - _TAPS // 2, 1 + _TAPS // 2)].astype(np.float64)
    first = np.einsum("nt,nt->n", windows, kernel[step])
    following = np.einsum("nt,nt->n", windows, kernel[step + 1])
    return first * (1 - part) + following * part


@cache
def _kernel() -> NDArray[np.float64]:
    """Weights of the samples around a place, by its eighth between two: shape (_UP + 1, _TAPS), each row a windowed
    sinc about that eighth."""
    offsets = np.arange(1 - _TAPS // 2, 1 + _TAPS // 2)[None, :] - (np.arange(_UP + 1) / _UP)[:, None]
    window = np.i0(8.0 * np.sqrt(np.clip(1 - (offsets / (_TAPS / 2)) ** 2, 0, 1))) / np.i0(8.0)
    rows = np.sinc(offsets) * window
    return rows / rows.sum(axis=1, keepdims=True)


MARGIN = _TAPS // 2
"""Samples that `at_places` needs on both sides of a place."""


def thinned(wave: Samples, columns: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """A long wave as the lowest and highest sample of each column, in their order: places from 0 to 1, and values.

    Every peak stays, whatever the number of columns.

    Parameters
    ----------
    wave
        Samples of one channel, -1 to 1.
    columns
        Number of columns that the stretch is divided into.
    """
    edges = np.linspace(0, len(wave), columns + 1).astype(int)[:-1]
    low, high = np.minimum.reduceat(wave, edges), np.maximum.reduceat(wave, edges)
    middle = np.linspace(0.0, 1.0, columns + 1)[:-1] + 0.5 / columns
    # Which of the two comes first is told by the slope: the line then crosses each column once.
    rises = np.concatenate([[True], (low + high)[1:] >= (low + high)[:-1]])
    first, second = np.where(rises, low, high), np.where(rises, high, low)
    places = np.stack([middle - 0.25 / columns, middle + 0.25 / columns], axis=1).reshape(-1)
    return places, np.stack([first, second], axis=1).reshape(-1).astype(np.float64)


def columns(use: AudioRange, channel: str, first: float, per_column: float, count: int) -> Samples:
    """Peak and RMS of neighbouring stretches of the recording, shape (count, 2), 0 to 1.

    The first begins at sample `first`; each is `per_column` samples long. Every sample counts for exactly one
    stretch, to the nearest eighth of a stretch at the most. `channel` is mix, left or right; the mix has the higher
    peak and the mean power of the two. What lies outside of the used stretch is silent.

    Parameters
    ----------
    use
        The used stretch of a recording.
    channel
        Which channel: "mix", "left", "right", "mid" or "side".
    first
        The place of the first column, in samples.
    per_column
        Samples a column.
    count
        How many.
    """
    key = (use.recording.identity, use.in_s, use.out_s, channel, first, per_column, count)
    return _columns.get(key, lambda: _read_columns(use, channel, first, per_column, count))


def _read_columns(use: AudioRange, channel: str, first: float, per_column: float, count: int) -> Samples:
    recording = use.recording
    level = -1
    while level + 1 < len(recording.pyramid) and PYRAMID_BASE * PYRAMID_STEP ** (level + 1) * 8 <= per_column:
        level += 1
    size = 1 if level < 0 else PYRAMID_BASE * PYRAMID_STEP**level
    low = max(round(use.in_s * RATE), 0)
    high = min(round(use.out_s * RATE), recording.samples)
    edges = np.clip(first + np.arange(count + 1) * per_column, low, high) / size
    edges = np.rint(edges).astype(np.int64)
    begin, end = int(edges[0]), int(edges[-1])
    out = np.zeros((count, 2), np.float32)
    if end <= begin:
        return out
    if level < 0:
        part = recording.pcm[begin:end].astype(np.float32)
        peaks, squares = np.abs(part), part**2
    else:
        entries = recording.pyramid[level][begin:end].astype(np.float32)
        peaks = np.maximum(-entries[..., 0], entries[..., 1])
        squares = entries[..., 2] ** 2
    if peaks.shape[1] == 2 and channel in ("left", "right"):
        side = 0 if channel == "left" else 1
        peak, square = peaks[:, side], squares[:, side]
    else:
        peak, square = peaks.max(axis=1), squares.mean(axis=1)
    starts = edges[:-1] - begin
    filled = edges[1:] > edges[:-1]
    inside = np.flatnonzero(filled & (starts < len(peak)))
    if len(inside):
        at = starts[inside]
        out[inside, 0] = np.maximum.reduceat(peak, at) / 32767
        sums = np.add.reduceat(square.astype(np.float64), at)
        out[inside, 1] = np.sqrt(sums / np.diff(np.append(at, len(square)))) / 32767
    return np.minimum(out, 1.0)


def sounding(use: AudioRange) -> tuple[float, float]:
    """First and last sound of the used stretch in seconds of the project; its ends where all is silent.

    Parameters
    ----------
    use
        The used stretch of a recording.
    """
    facts = use.recording.facts
    end = use.out_s - use.in_s
    first = min(max(facts.first_sound_s - use.in_s, 0.0), end)
    last = min(max(facts.last_sound_s - use.in_s, 0.0), end)
    return (first, last) if last > first else (0.0, end)


def fit_gain(use: AudioRange) -> float:
    """A gain in dB, to half a dB, with which nineteen in twenty stretches of 50 ms stay within full scale.

    Parameters
    ----------
    use
        The used stretch of a recording.
    """
    length = (use.out_s - use.in_s) * RATE
    count = max(int(length / RATE * 20), 1)
    tops = columns(use, "mix", use.in_s * RATE, length / count, count)[:, 0]
    top = max(float(np.percentile(tops[tops > 1e-3], 95)) if (tops > 1e-3).any() else 1.0, 1e-3)
    return float(np.clip(np.round(-20 * np.log10(top) * 2) / 2, -20.0, 40.0))
