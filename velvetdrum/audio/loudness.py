"""Loudness after ITU-R BS.1770-4 and EBU Tech 3342, and true peak after BS.1770-4 Annex 2.

Both read the recording once, block by block, and keep only what later blocks need.
"""

from __future__ import annotations

from functools import cache

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE
from velvetdrum.audio.filters import Samples

BLOCK_S = 0.1
"""Step between stored energies, in seconds: a quarter of the momentary window (400 ms, 75 % overlap)."""

_BLOCK = int(RATE * BLOCK_S)

# BS.1770-4, tables 1 and 2: coefficients at 48 kHz of the shelf (head) and of the high-pass.
_K_WEIGHTING = np.array(
    [
        [1.53512485958697, -2.69169618940638, 1.19839281085285, 1.0, -1.69065929318241, 0.73248077421585],
        [1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621],
    ]
)
_ABSOLUTE_GATE = -70.0
_FADED = 1e-30  # linear: 600 dB below full scale


def channel_weights(names: tuple[str, ...]) -> NDArray[np.float64]:
    """Weights G_i of BS.1770-4, table 3: 1.41 for surrounds, 0 for the low-frequency channel, else 1.

    Parameters
    ----------
    names
        Names of channels, as the decoder gives them.
    """
    surround = {"SL", "SR", "BL", "BR", "BC"}
    return np.array([0.0 if n.startswith("LFE") else 1.41 if n in surround else 1.0 for n in names])


class LoudnessMeter:
    """Collects the weighted energy of every 100 ms, from which loudness is read (ITU-R BS.1770-4, annex 1).

    Feed blocks of shape (channels, n) at 48 kHz, full scale 1.0, in order. `energies` holds one linear value for each
    100 ms: the sum over channels of G_i * z_i, where z_i is the mean square of channel i after the K-weighting's two
    filters and G_i its weight (`channel_weights`). Loudness of a stretch is -0.691 + 10 * log10(mean of them) LUFS,
    gated as BS.1770 says.
    """

    def __init__(self, names: tuple[str, ...]) -> None:
        self._weights = channel_weights(names)
        self._state = np.zeros((2, len(names), 2))
        self._rest = np.zeros((len(names), 0))
        self._energies: list[NDArray[np.float64]] = []

    def feed(self, samples: Samples) -> None:
        """Take the next samples, shape (channels, n) at 48 kHz; a rest shorter than 100 ms waits for more.

        Parameters
        ----------
        samples
            The next samples, shape (channels, n).
        """
        weighted = np.empty((len(samples), samples.shape[1]))
        for start in range(0, samples.shape[1], RATE):
            part = slice(start, start + RATE)
            filtered, self._state = scipy.signal.sosfilt(_K_WEIGHTING, samples[:, part], axis=1, zi=self._state)
            weighted[:, part] = filtered
            # In silence the filter's memory would fade into denormal numbers, some hundred times as slow.
            self._state[np.abs(self._state) < _FADED] = 0.0
        if self._rest.shape[1]:
            weighted = np.concatenate([self._rest, weighted], axis=1)
        whole = weighted.shape[1] // _BLOCK
        cut = weighted[:, : whole * _BLOCK].reshape(len(weighted), whole, _BLOCK)
        mean_square = np.einsum("cbn,cbn->cb", cut, cut) / _BLOCK
        self._energies.append(self._weights @ mean_square)
        self._rest = weighted[:, whole * _BLOCK :]

    @property
    def energies(self) -> NDArray[np.float64]:
        """Weighted mean square of each complete 100 ms so far, shape (blocks,)."""
        return np.concatenate(self._energies) if self._energies else np.zeros(0)


def k_weighted(samples: Samples) -> Samples:
    """Samples at 48 kHz, shape (channels, n), after the K-weighting's two filters, begun in silence.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    """
    return np.asarray(scipy.signal.sosfilt(_K_WEIGHTING, samples, axis=1))


def k_weighting(hz: NDArray[np.float64]) -> NDArray[np.float64]:
    """Power gain of the K-weighting at frequencies in Hz.

    Parameters
    ----------
    hz
        Frequencies in Hz.
    """
    _, response = scipy.signal.sosfreqz(_K_WEIGHTING, np.minimum(hz, RATE / 2 - 1), fs=RATE)
    return np.abs(response) ** 2


def to_lufs(energy: NDArray[np.float64] | float) -> NDArray[np.float64]:
    """L_K = -0.691 + 10 log10(sum of weighted mean squares).

    Parameters
    ----------
    energy
        Mean square, weighted and summed over channels.
    """
    return -0.691 + 10.0 * np.log10(np.maximum(energy, 1e-20))


def sliding(energies: NDArray[np.float64], seconds: float) -> NDArray[np.float64]:
    """Mean energy over windows of `seconds` (0.4 momentary, 3.0 short-term), one per 100 ms step.

    Parameters
    ----------
    energies
        Mean squares of blocks, weighted and summed over channels, shape (n,).
    seconds
        Seconds.
    """
    length = round(seconds / BLOCK_S)
    if len(energies) < length:
        return np.zeros(0)
    total = np.concatenate([[0.0], np.cumsum(energies)])
    return np.maximum(total[length:] - total[:-length], 0.0) / length


def integrated_lufs(energies: NDArray[np.float64]) -> float | None:
    """Integrated loudness with both gates (-70 LUFS, then 10 LU below the mean); None when nothing passes.

    A recording shorter than one 400 ms window is read as one window.

    Parameters
    ----------
    energies
        Mean squares of blocks, weighted and summed over channels, shape (n,).
    """
    windows = sliding(energies, 0.4)
    if not len(windows) and len(energies):
        windows = np.array([energies.mean()])
    loud = windows[to_lufs(windows) > _ABSOLUTE_GATE]
    if not len(loud):
        return None
    gate = to_lufs(loud.mean()) - 10.0
    return float(to_lufs(loud[to_lufs(loud) > gate].mean()))


def loudness_range_lu(energies: NDArray[np.float64]) -> float | None:
    """Loudness range after EBU Tech 3342: 10th to 95th percentile of gated short-term loudness, in LU.

    Parameters
    ----------
    energies
        Mean squares of blocks, weighted and summed over channels, shape (n,).
    """
    windows = sliding(energies, 3.0)
    loud = windows[to_lufs(windows) > _ABSOLUTE_GATE]
    if not len(loud):
        return None
    gate = to_lufs(loud.mean()) - 20.0
    levels = to_lufs(loud[to_lufs(loud) > gate])
    low, high = np.percentile(levels, [10, 95])
    return float(high - low)


_PHASES = 4
_TAPS = 16  # per phase


def interpolators() -> NDArray[np.float32]:
    """The three in-between phases of a four times oversampling low-pass, shape (3, taps)."""
    taps = scipy.signal.firwin(_PHASES * _TAPS - 1, 1.0 / _PHASES, window=("kaiser", 7.0)) * _PHASES
    taps = np.concatenate([[0.0], taps])
    phases = taps.reshape(_TAPS, _PHASES).T
    order = [p for p in range(_PHASES) if np.max(np.abs(phases[p])) < 0.999]
    kernels = phases[order]
    return (kernels / kernels.sum(axis=1, keepdims=True)).astype(np.float32)


class TruePeakMeter:
    """Largest value of the signal between the samples, four times oversampled.

    A stretch whose samples are so small that no interpolation could pass the peak so far is not interpolated:
    the bound is the sum of the kernel's magnitudes, so the answer is the same.
    """

    _STRETCH = 64

    def __init__(self) -> None:
        self._matrix, bound = _interpolation_matrix(self._STRETCH)
        self._bound = bound
        self._tail: Samples | None = None
        self.sample_peak = 0.0
        self.true_peak = 0.0

    def feed(self, samples: Samples) -> None:
        """Take the next block, shape (channels, n).

        Parameters
        ----------
        samples
            The next samples, shape (channels, n).
        """
        if self._tail is None:
            self._tail = np.zeros((len(samples), _TAPS), np.float32)
        joined = np.concatenate([self._tail, samples], axis=1)
        self._tail = joined[:, -_TAPS:]
        count = -(-joined.shape[1] // self._STRETCH)
        padded = np.pad(joined, ((0, 0), (0, count * self._STRETCH + _TAPS - joined.shape[1])))
        peaks = np.abs(padded[:, : count * self._STRETCH]).reshape(len(joined), count, -1).max(axis=2)
        self.sample_peak = max(self.sample_peak, float(peaks.max()))
        self.true_peak = max(self.true_peak, self.sample_peak)
        following = np.pad(peaks[:, 1:], ((0, 0), (0, 1)))
        reachable = np.maximum(peaks, following) * self._bound
        for channel, line in enumerate(padded):
            stretches = np.lib.stride_tricks.sliding_window_view(line, self._STRETCH + _TAPS)[:: self._STRETCH]
            order = np.argsort(reachable[channel])[::-1]
            # The loudest first: they raise the bar for all others.
            for part in (order[:64], order[64:]):
                chosen = part[reachable[channel][part] > self.true_peak]
                if len(chosen):
                    self.true_peak = max(self.true_peak, float(np.abs(stretches[chosen] @ self._matrix).max()))


@cache
def _interpolation_matrix(stretch: int) -> tuple[NDArray[np.float32], float]:
    kernels = interpolators()
    matrix = np.zeros((stretch + _TAPS, stretch * len(kernels)), np.float32)
    for start in range(stretch):
        for number, kernel in enumerate(kernels):
            matrix[start : start + _TAPS, start * len(kernels) + number] = kernel[::-1]
    return matrix, float(np.abs(kernels).sum(axis=1).max())


def to_decibel(amplitude: float) -> float:
    """20 log10 of a linear amplitude; silence reads -160 dB.

    Parameters
    ----------
    amplitude
        A factor; 1 is full scale.
    """
    return float(20.0 * np.log10(max(amplitude, 1e-8)))
