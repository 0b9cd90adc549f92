"""The percussive and the harmonic part of a sound: median filtering of its spectrogram.

After FitzGerald, Harmonic/Percussive Separation using Median Filtering (DAFx 2010): what lasts in a band is harmonic,
what fills all bands at a time is percussive, and a soft mask of both parts every cell of the spectrum.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, rfft
from scipy.ndimage import median_filter

from velvetdrum.audio.filters import Samples

_SIZE = 2048
_HOP = _SIZE // 2
_LASTS = 11
"""Frames of the median along time: 230 ms at 48 kHz."""
_SPREADS = 17
"""Bands of the median across frequency: 400 Hz."""
_FINE = 512
"""Bands up to which each is looked at alone, 12 kHz; above, four are one."""
_MARGIN = (_LASTS // 2 + 2) * _HOP
_CHUNK = 128 * _HOP


def separated(blocks: Iterator[Samples], part: str) -> Iterator[Samples]:
    """The percussive or the harmonic part of a sound; both together are the whole.

    Parameters
    ----------
    blocks
        Samples at 48 kHz, each of shape (channels, n), without a gap.
    part
        percussive or harmonic.
    """
    held: Samples | None = None
    for block in blocks:
        held = np.pad(block, ((0, 0), (_MARGIN, 0))) if held is None else np.concatenate([held, block], axis=1)
        while held.shape[1] >= _CHUNK + 2 * _MARGIN:
            yield _part(held[:, : _CHUNK + 2 * _MARGIN], part)
            held = held[:, _CHUNK:]
    if held is not None and held.shape[1] > _MARGIN:
        left = held.shape[1] - _MARGIN
        padded = np.pad(held, ((0, 0), (0, 2 * _MARGIN - left % _HOP)))
        yield _part(padded, part)[:, :left]


def _part(samples: Samples, part: str) -> Samples:
    """A part of a chunk, without its margins."""
    window = np.sqrt(np.hanning(_SIZE + 1)[:-1]).astype(np.float32)
    count = (samples.shape[1] - _SIZE) // _HOP + 1
    frames = np.lib.stride_tricks.sliding_window_view(samples, _SIZE, axis=1)[:, ::_HOP][:, :count]
    spectra = rfft(frames * window, axis=2)
    strength = np.abs(spectra).sum(axis=0, dtype=np.float32)
    share = _percussive_share(strength)
    if part == "harmonic":
        share = 1.0 - share
    pieces = irfft(spectra * share, n=_SIZE, axis=2).astype(np.float32) * window
    total = np.zeros(samples.shape, np.float32)
    for offset in range(_SIZE // _HOP):
        # Every other frame lies beside the next: they are laid down at once.
        some = pieces[:, offset :: _SIZE // _HOP]
        span = some.shape[1] * _SIZE
        total[:, offset * _HOP : offset * _HOP + span] += some.reshape(len(some), -1)
    # The squares of two windows that overlap add up to 1.
    return total[:, _MARGIN : samples.shape[1] - _MARGIN]


def _percussive_share(strength: NDArray[np.float32]) -> NDArray[np.float32]:
    """How much of each cell is percussive, 0 to 1, shape (frames, bands). High bands are looked at four at a time:
    their detail says nothing, and costs most."""
    bands = strength.shape[1]
    fine, coarse = strength[:, :_FINE], strength[:, _FINE : bands - 1]
    joined = coarse.reshape(len(coarse), -1, 4).mean(axis=2)
    small = np.concatenate([fine, joined], axis=1)
    lasting = median_filter(small, (_LASTS, 1), mode="nearest")
    spreading = median_filter(small, (1, _SPREADS), mode="nearest")
    across, along = spreading * spreading, lasting * lasting
    share = across / np.maximum(across + along, np.float32(1e-20))
    wide = np.concatenate([share[:, :_FINE], np.repeat(share[:, _FINE:], 4, axis=1)], axis=1)
    return np.concatenate([wide, wide[:, -1:]], axis=1)
