"""A true-peak limiter: the signal between its samples does not pass a ceiling."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE
from velvetdrum.audio.filters import Samples
from velvetdrum.audio.loudness import interpolators

_TAPS = 16
_LOOK_S = 0.005
"""How long before a peak the gain begins to fall."""
_RELEASE_DB_S = 24.0
"""How fast the gain comes back: slowly enough that a bass note is not bent."""
_MARGIN_DB = 0.05


class Limiter:
    """Brings samples under a ceiling in dBTP (ITU-R BS.1770-4, annex 2: four times oversampled). Feed blocks of shape
    (channels, n) at 48 kHz in order, then `finish`; what comes out is delayed by `delay` samples, which are cut off.

    The gain that each sample needs is known from its neighbourhood; it rises again by so many dB a second, which is the
    largest of what any earlier sample still asks for. A maximum over the look-ahead, then a mean over the same, turn
    that into a gain that is down when the peak comes, and has no corners.
    """

    def __init__(self, channels: int, ceiling_db: float) -> None:
        self._ceiling = 10 ** ((ceiling_db - _MARGIN_DB) / 20)
        self._look = int(_LOOK_S * RATE) | 1
        self._half = self._look // 2
        self.delay = 2 * self._half + _TAPS // 2
        self._held = np.zeros((channels, self.delay + _TAPS), np.float64)
        self._asked = np.zeros(2 * self._look)
        self._carried = 0.0
        self._skip = self.delay

    def feed(self, samples: Samples) -> NDArray[np.float32]:
        """The next samples that are ready, shape (channels, m).

        Parameters
        ----------
        samples
            The next samples, shape (channels, n).
        """
        if not samples.shape[1]:
            return np.zeros((len(samples), 0), np.float32)
        count = samples.shape[1]
        whole = np.concatenate([self._held, samples], axis=1)
        # The need of the samples that lie half the interpolator behind the newest.
        span = whole[:, -(count + _TAPS) :]
        peaks = np.abs(span[:, _TAPS // 2 : _TAPS // 2 + count])
        for kernel in interpolators():
            between = np.abs(scipy.signal.lfilter(kernel, [1.0], span, axis=1))[:, _TAPS:]
            peaks = np.maximum(peaks, between)
        need = 20 * np.log10(np.maximum(peaks.max(axis=0) / self._ceiling, 1.0))
        steps = np.arange(1, count + 1) * (_RELEASE_DB_S / RATE)
        released = np.maximum(np.maximum.accumulate(need + steps), self._carried) - steps
        self._carried = float(released[-1])
        asked = np.concatenate([self._asked, released])
        self._asked = asked[-2 * self._look :]
        held = scipy.ndimage.maximum_filter1d(asked, self._look)
        smooth = np.convolve(held, np.hanning(self._look + 2)[1:-1] / np.hanning(self._look + 2).sum(), "same")
        # Both filters look both ways: what is ready lies a look-ahead back.
        gain = 10 ** (-smooth[-(count + 2 * self._half) : -2 * self._half] / 20)
        start = whole.shape[1] - count - self.delay
        out = whole[:, start : start + count] * gain
        self._held = whole[:, -(self.delay + _TAPS) :]
        cut = min(self._skip, count)
        self._skip -= cut
        return np.asarray(out[:, cut:], np.float32)

    def finish(self) -> NDArray[np.float32]:
        """What is still held."""
        return self.feed(np.zeros((len(self._held), self.delay), np.float32))
