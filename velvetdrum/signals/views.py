"""What people see of signals: curves reduced to columns, and spectra over a logarithmic frequency axis."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.signals.detect import READ_RATE
from velvetdrum.signals.pickup_fit import pinned
from velvetdrum.signals.signal_set import SignalSet
from velvetdrum.signals.spectrum import BandSet, band_levels

_LOWEST_HZ, _HIGHEST_HZ, _PER_OCTAVE = 20.0, 20_000.0, 12
_MOST_READINGS = 20 * 60 * FRAME_RATE

View = NDArray[np.int16]


def columns_of(signals: SignalSet, ident: str, start_s: float, stop_s: float, columns: int) -> list[list[int]]:
    """A signal between two seconds as columns of lowest and highest value, in thousandths: two lists.

    Parameters
    ----------
    signals
        The project's signals.
    ident
        The id of a signal.
    start_s
        Seconds at which it begins.
    stop_s
        Seconds at which it ends.
    columns
        Number of columns that the stretch is divided into.
    """
    per_column = max(1, min(64, round((stop_s - start_s) / columns * READ_RATE)))
    times = start_s + (np.arange(columns * per_column) + 0.5) * (stop_s - start_s) / (columns * per_column)
    values = signals.values(ident, times).reshape(columns, per_column)
    return [_thousandths(values.min(axis=1)), _thousandths(values.max(axis=1))]


def unshaped_columns(signals: SignalSet, ident: str, start_s: float, stop_s: float, columns: int) -> list[int] | None:
    """A pickup before attack, release and smoothing, as columns of its highest value in thousandths; None for
    other kinds.

    Parameters
    ----------
    signals
        The project's signals.
    ident
        The id of a signal.
    start_s
        Seconds at which it begins.
    stop_s
        Seconds at which it ends.
    columns
        Number of columns that the stretch is divided into.
    """
    use, signal = signals.use, signals.signals[ident].signal
    curve = None if use is None else signal.unshaped(use, signals.length_s)
    if curve is None:
        return None
    edges = np.clip(np.rint(np.linspace(start_s, stop_s, columns + 1) * READ_RATE).astype(int), 0, len(curve) - 1)
    values = np.maximum.reduceat(curve, edges[:-1])
    return _thousandths(values)


def frames_of(signals: SignalSet, ident: str, times: NDArray[np.float64]) -> list[int]:
    """A signal's values at times, in thousandths.

    Parameters
    ----------
    signals
        The project's signals.
    ident
        The id of a signal.
    times
        Seconds.
    """
    return _thousandths(signals.values(ident, times))


def judged(signals: SignalSet, ident: str) -> dict[str, Any]:
    """What is pinned of a signal over the project, 60 readings a second, and what to do about it.

    Parameters
    ----------
    signals
        The project's signals.
    ident
        The id of a signal.
    """
    times = np.arange(0.0, signals.length_s, 1 / FRAME_RATE)
    signal = signals.signals[ident].signal
    result = pinned(signals.values(ident, times), signal)
    advice = (signal.sound_advice(signals.use) if signals.use else "") or result.advice
    return {"at_0": round(result.at_0, 4), "at_1": round(result.at_1, 4), "advice": advice}


def _thousandths(values: NDArray[np.floating]) -> list[int]:
    return np.rint(np.clip(values, -30.0, 30.0) * 1000).astype(int).tolist()


@cache
def axis() -> BandSet:
    """The bands of a drawn spectrum: a third of an octave wide, every twelfth of an octave."""
    count = int(np.floor(np.log2(_HIGHEST_HZ / _LOWEST_HZ) * _PER_OCTAVE)) + 1
    centres = _LOWEST_HZ * 2 ** (np.arange(count) / _PER_OCTAVE)
    return BandSet.from_edges([(centre * 2 ** (-1 / 6), centre * 2 ** (1 / 6)) for centre in centres])


def axis_hz() -> list[float]:
    """Centres of `axis` in Hz."""
    return [round(float(value), 3) for value in axis().centres_hz]


def spectra(recording: Analysis, channel: str, start: int, stop: int) -> View:
    """Levels on `axis` in hundredths of dBFS at readings start to stop, 60 a second, shape (readings, bands).

    Parameters
    ----------
    recording
        An analysed recording.
    channel
        Which channel: "mix", "left", "right", "mid" or "side".
    start
        The first reading.
    stop
        The reading after the last one.
    """
    return np.rint(band_levels(recording, axis(), channel, start, stop) * 100).astype(np.int16)


def spectrum_range(recording: Analysis, channel: str, start_s: float, stop_s: float) -> tuple[list[float], list[float]]:
    """Average (of power) and loudest level on `axis` between two seconds, in dBFS.

    Of a stretch longer than 20 minutes every so many readings are left out.

    Parameters
    ----------
    recording
        An analysed recording.
    channel
        Which channel: "mix", "left", "right", "mid" or "side".
    start_s
        Seconds at which it begins.
    stop_s
        Seconds at which it ends.
    """
    start, stop = round(start_s * FRAME_RATE), max(round(stop_s * FRAME_RATE), round(start_s * FRAME_RATE) + 1)
    total, loudest, count = np.zeros(len(axis().edges)), np.full(len(axis().edges), -160.0), 0
    pieces = max(1, (stop - start) // 3600)
    for piece in range(pieces):
        first = start + (stop - start) * piece // pieces
        last = start + (stop - start) * (piece + 1) // pieces
        levels = band_levels(recording, axis(), channel, first, min(last, first + _MOST_READINGS // pieces + 1))
        total += (10.0 ** (levels.astype(np.float64) / 10)).sum(axis=0)
        loudest = np.maximum(loudest, levels.max(axis=0))
        count += len(levels)
    average = 10 * np.log10(np.maximum(total / max(count, 1), 1e-16))
    return [round(float(v), 2) for v in average], [round(float(v), 2) for v in loudest]
