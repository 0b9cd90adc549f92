"""Onset strength: how fast the sound rises, in a low, a middle and a high part of the spectrum, 120 times a second.

The magnitude in a few bands is compressed, log(1 + 1000 M), and its rise over one sixtieth of a second is kept
where it is positive (spectral flux). A drum's stroke rises in all its bands at once; a held note does not rise.
"""

from __future__ import annotations

from functools import cache

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.bands import HOP, MARGIN
from velvetdrum.audio.decode import RATE
from velvetdrum.audio.filters import Samples

ONSET_RATE = 120
_HOP = RATE // ONSET_RATE
_SIZE = 1024
_BACK = 2  # readings over which a rise is measured
_AT_ONCE = 64
_COMPRESSION = 1000.0
_GROUPS_HZ = ((30.0, 160.0, 2), (160.0, 3000.0, 9), (3000.0, 16_000.0, 5))
"""Low, middle, high: from, to, and the number of bands between."""


def onset_strength(samples: Samples, frames: int) -> NDArray[np.float32]:
    """Rise of the compressed magnitude, shape (2 * frames, 3): low, middle, high.

    `samples`: shape (channels, frames * HOP + 2 * MARGIN) at 48 kHz; reading n is centred on sample
    MARGIN + n * 400.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    frames
        How many readings.
    """
    mono = samples.mean(axis=0) if len(samples) > 1 else samples[0]
    count = frames * (HOP // _HOP)
    first = MARGIN - _SIZE // 2 - _BACK * _HOP
    windows = np.lib.stride_tricks.sliding_window_view(mono, _SIZE)[first::_HOP][: count + _BACK]
    window = scipy.signal.get_window("hann", _SIZE).astype(np.float32)
    scale = np.float32(2.0 / window.sum())
    projection, groups = _projections()
    level = np.empty((len(windows), projection.shape[1]), np.float32)
    for start in range(0, len(windows), _AT_ONCE):
        spectra = scipy.fft.rfft(windows[start : start + _AT_ONCE] * window, axis=1)
        power = (spectra.real**2 + spectra.imag**2) @ projection
        level[start : start + _AT_ONCE] = np.log1p(np.sqrt(power) * (scale * np.float32(_COMPRESSION)))
    return np.maximum(level[_BACK:] - level[:-_BACK], 0.0) @ groups


@cache
def _projections() -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """From transform bins to bands, shape (bins, bands), and from bands to the mean of each group."""
    bins = np.arange(_SIZE // 2 + 1) * RATE / _SIZE
    columns, groups = [], []
    for number, (low, high, count) in enumerate(_GROUPS_HZ):
        edges = np.geomspace(low, high, count + 1)
        for index in range(count):
            inside = ((bins >= edges[index]) & (bins < edges[index + 1])).astype(np.float32)
            if not inside.any():
                inside[int(np.argmin(np.abs(bins - np.sqrt(edges[index] * edges[index + 1]))))] = 1.0
            columns.append(inside)
            groups.append([1.0 / count if group == number else 0.0 for group in range(len(_GROUPS_HZ))])
    return np.stack(columns, axis=1), np.array(groups, np.float32)
