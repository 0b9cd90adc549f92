"""Band levels over time: a bank of windows that are long for low notes and short for high ones.

The recording is decimated in three steps, and each step is read with a Hann window whose length suits its
octaves (`STAGES`). Power is counted so that a full-scale sine reads 0 dBFS (AES17-2020, 3.12): with a window w
of N samples, the one-sided spectrum X of a sine of amplitude A obeys  sum_k 4|X_k|^2 / (N sum w^2) = A^2.

A window of 320 ms, centred on its frame, would show a kick 160 ms before it sounds. So each reading of the two
long stages is held down by a *guard*: the power that a 40 ms window finds near that frequency. What the guard
does not see is not there yet.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE
from velvetdrum.audio.filters import Samples, decimate

FRAME_RATE = 60
"""Readings per second."""

HOP = RATE // FRAME_RATE
MARGIN = HOP * 16
"""Samples needed on both sides of a stretch (half the longest window, and the filters)."""

TOP_HZ = 22_500.0
FLOOR_DB = -160.0
_GUARD_SLACK = 2.0
_AT_ONCE = 50
_GUARD_REACH = 2.5  # guard bins on each side: the half width of a Hann main lobe, and a little


@dataclass(frozen=True)
class BankStage:
    """One window of the bank: `size` samples at the recording's rate divided by `decimation`.

    It comes in between the two frequencies of `rises` and leaves between those of `falls`, in straight lines.
    A window's lobe is symmetric, so across a straight fade two stages share a tone's power without loss.
    """

    decimation: int
    size: int
    rises: tuple[float, float]
    falls: tuple[float, float]
    guarded: bool = False

    @property
    def rate(self) -> float:
        """Samples a second at this stage, in Hz."""
        return RATE / self.decimation

    @property
    def bin_hz(self) -> float:
        """Width of one bin of the spectrum, in Hz."""
        return self.rate / self.size

    def share(self, hz: NDArray[np.float64]) -> NDArray[np.float64]:
        """Part of the reading at each frequency that this stage gives, 0 to 1.

        Parameters
        ----------
        hz
            Frequencies in Hz.
        """
        rise = (hz - self.rises[0]) / (self.rises[1] - self.rises[0])
        fall = (self.falls[1] - hz) / (self.falls[1] - self.falls[0])
        return np.clip(np.minimum(rise, fall), 0.0, 1.0)


STAGES = (
    BankStage(80, 192, (-1.0, 0.0), (90.0, 150.0), guarded=True),
    BankStage(20, 192, (90.0, 150.0), (360.0, 600.0), guarded=True),
    BankStage(4, 512, (360.0, 600.0), (1900.0, 2900.0)),
    BankStage(1, 2048, (1900.0, 2900.0), (TOP_HZ, TOP_HZ + 1.0)),
)
_GUARD = BankStage(20, 96, (-1.0, 0.0), (1200.0, 1201.0))
_STEPS = (4, 5, 4)  # decimation from each stage to the next longer one: 48 k, 12 k, 2.4 k, 600 Hz
_LOWEST_HZ = 10.9375


@cache
def band_edges() -> NDArray[np.float64]:
    """Edges of the stored bands in Hz, shape (bands + 1,): one transform bin wide where bins are wider than a
    24th of an octave, a 24th of an octave above."""
    edges = [_LOWEST_HZ]
    for stage in STAGES:
        end = sum(stage.falls) / 2
        while edges[-1] < end:
            edges.append(edges[-1] + max(stage.bin_hz, edges[-1] * (2 ** (1 / 24) - 1)))
    return np.array([edge for edge in edges if edge <= TOP_HZ])


@cache
def resolution_hz() -> NDArray[np.float64]:
    """For each stored band, the narrowest width in Hz over which its window can tell a level, shape (bands,).

    A Hann window puts 99 % of a sine's power within 1.75 bins on each side of it.
    """
    centres = np.sqrt(band_edges()[1:] * band_edges()[:-1])
    width = np.empty(len(centres))
    for stage in reversed(STAGES):
        width[centres < sum(stage.falls) / 2] = 3.5 * stage.bin_hz
    return width


def overlap(source: NDArray[np.float64], target: NDArray[np.float64]) -> NDArray[np.float32]:
    """Shares of source intervals that fall in target intervals.

    `source` has shape (m, 2), `target` (n, 2), both low and high edges; the result, shape (m, n), holds the
    fraction of each source interval inside each target interval, so power is neither lost nor doubled.

    Parameters
    ----------
    source
        Edges of the bands that there are, ascending.
    target
        Edges of the bands that are wanted, ascending.
    """
    low = np.maximum(source[:, None, 0], target[None, :, 0])
    high = np.minimum(source[:, None, 1], target[None, :, 1])
    width = (source[:, 1] - source[:, 0])[:, None]
    return (np.clip(high - low, 0.0, None) / width).astype(np.float32)


def band_power(samples: Samples, frames: int) -> NDArray[np.float32]:
    """Power in each band, each frame.

    `samples`: shape (channels, frames * HOP + 2 * MARGIN), one or two channels at 48 kHz, the first frame
    centred on sample MARGIN. Returns shape (frames, rows, bands), linear power where a full-scale sine has 1.
    One channel gives one row; two give four: left, right, mid (l+r)/2, side (l-r)/2.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    frames
        How many readings.
    """
    streams = [samples]
    for step in _STEPS:
        streams.append(decimate(streams[-1], step))
    by_decimation = dict(zip((1, 4, 20, 80), streams, strict=True))
    guard = _stage_power(by_decimation[20], _GUARD, frames, np.eye(_GUARD.size // 2 + 1, dtype=np.float32))
    out = np.zeros((frames, guard.shape[1], len(band_edges()) - 1), np.float32)
    for stage in STAGES:
        served = _served(stage)
        power = _stage_power(by_decimation[stage.decimation], stage, frames, _projection(stage))
        if stage.guarded:
            np.minimum(power, guard @ _guard_projection(stage), out=power)
        out[:, :, served] += power
    return out


def to_centibel(power: NDArray[np.float32]) -> NDArray[np.int16]:
    """Linear power as hundredths of a decibel, the form in which it is stored; -160 dB is the floor.

    Parameters
    ----------
    power
        Power, 1 being a sine at full scale.
    """
    level = np.log10(np.maximum(power, 10 ** (FLOOR_DB / 10)))
    return np.rint(level * 1000.0).astype(np.int16)


@cache
def _power_table() -> NDArray[np.float32]:
    codes = np.arange(-32768, 32768)
    table = 10.0 ** (codes / 1000.0)
    table[codes <= FLOOR_DB * 100] = 0.0
    return table.astype(np.float32)


def from_centibel(code: NDArray[np.int16]) -> NDArray[np.float32]:
    """The reverse of `to_centibel`; the floor becomes exact zero.

    Parameters
    ----------
    code
        Levels in hundredths of a dB, int16.
    """
    return _power_table()[code.astype(np.int32) + 32768]


@cache
def _window(size: int) -> NDArray[np.float32]:
    return scipy.signal.get_window("hann", size).astype(np.float32)


@cache
def _served(stage: BankStage) -> slice:
    """The stored bands to which a stage contributes."""
    touched = np.flatnonzero(stage.share(_centres()))
    return slice(int(touched[0]), int(touched[-1]) + 1)


def _centres() -> NDArray[np.float64]:
    return (band_edges()[1:] + band_edges()[:-1]) / 2


@cache
def _projection(stage: BankStage) -> NDArray[np.float32]:
    """From transform bins to the bands that a stage serves, its share included, shape (bins, bands)."""
    bins = np.arange(stage.size // 2 + 1) * stage.bin_hz
    source = np.stack([bins - stage.bin_hz / 2, bins + stage.bin_hz / 2], axis=1)
    target = np.stack([band_edges()[:-1], band_edges()[1:]], axis=1)[_served(stage)]
    return (overlap(source, target) * stage.share(_centres()[_served(stage)])).astype(np.float32)


@cache
def _guard_projection(stage: BankStage) -> NDArray[np.float32]:
    """Upper bound for each of a stage's bands from the guard's bins, shape (guard bins, bands)."""
    bins = np.arange(_GUARD.size // 2 + 1)
    near = np.abs(bins[:, None] - _centres()[_served(stage)] / _GUARD.bin_hz) <= _GUARD_REACH
    return (near * _GUARD_SLACK * stage.share(_centres()[_served(stage)])).astype(np.float32)


def _stage_power(
    stream: Samples, stage: BankStage, frames: int, projection: NDArray[np.float32]
) -> NDArray[np.float32]:
    hop, margin = HOP // stage.decimation, MARGIN // stage.decimation
    first = margin - stage.size // 2
    window = _window(stage.size)
    scale = np.float32(4.0 / (stage.size * float(np.sum(window.astype(np.float64) ** 2))))
    windows = np.lib.stride_tricks.sliding_window_view(stream, stage.size, axis=1)
    chosen = windows[:, first : first + frames * hop : hop]
    out = np.empty((frames, 1 if len(stream) == 1 else 4, projection.shape[1]), np.float32)
    # A few frames at a time: what is read, transformed and summed then stays in the processor's cache.
    for start in range(0, frames, _AT_ONCE):
        spectra = scipy.fft.rfft(chosen[:, start : start + _AT_ONCE] * window, axis=2)
        part = out[start : start + _AT_ONCE]
        power = spectra.real**2 + spectra.imag**2
        part[:, 0] = power[0] @ projection
        if len(stream) == 2:
            both = spectra[0] + spectra[1]
            part[:, 1] = power[1] @ projection
            part[:, 2] = (both.real**2 + both.imag**2) @ projection
    if len(stream) == 2:
        out[:, 2] *= np.float32(0.25)
        # |L|^2 + |R|^2 = 2 |M|^2 + 2 |S|^2
        out[:, 3] = np.maximum((out[:, 0] + out[:, 1]) * np.float32(0.5) - out[:, 2], 0.0)
    out *= scale
    return out
