"""RMS and peak envelopes at the frame rate, and the pyramid that draws waveforms at any zoom."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.bands import HOP, to_centibel
from velvetdrum.audio.filters import Samples

PYRAMID_BASE = 64
"""Samples behind one entry of the finest pyramid level."""

PYRAMID_STEP = 4
PYRAMID_LEVELS = 7

Pyramid = list[NDArray[np.int16]]


def frame_levels(samples: Samples, frames: int) -> NDArray[np.int16]:
    """Peak and mean square of each frame's 1/60 s, in hundredths of dBFS (AES17).

    `samples`: shape (channels, frames * HOP), the first frame centred on sample HOP / 2. Returns shape
    (frames, 2, rows): peak and RMS, with the rows of `bands.band_power`.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    frames
        How many readings.
    """
    cut = samples[:, : frames * HOP].reshape(len(samples), frames, HOP)
    if len(cut) == 2:
        mid, side = (cut[0] + cut[1]) * np.float32(0.5), (cut[0] - cut[1]) * np.float32(0.5)
        cut = np.stack([cut[0], cut[1], mid, side])
    peak = np.maximum(cut.max(axis=2), -cut.min(axis=2)) ** 2
    # AES17: the RMS of a full-scale sine reads 0 dB, so mean squares count double.
    rms = np.einsum("cfn,cfn->cf", cut, cut) * np.float32(2.0 / HOP)
    return np.stack([to_centibel(peak).T, to_centibel(rms).T], axis=1)


def to_int16(samples: Samples) -> NDArray[np.int16]:
    """Samples as 16 bit, shape (n, channels), for listening and for the closest zoom; overs are clipped there.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    """
    return np.rint(np.clip(samples.T, -1.0, 1.0) * 32767.0).astype(np.int16)


def pyramid_base(pcm: NDArray[np.int16]) -> NDArray[np.int16]:
    """Lowest, highest and RMS value of each 64 samples, shape (entries, channels, 3). The last entry may hold
    fewer samples.

    Parameters
    ----------
    pcm
        Samples as int16, shape (channels, count).
    """
    count = -(-len(pcm) // PYRAMID_BASE)
    padded = np.pad(pcm, ((0, count * PYRAMID_BASE - len(pcm)), (0, 0)), mode="edge") if len(pcm) else pcm
    cut = padded.reshape(count, PYRAMID_BASE, pcm.shape[1])
    real = cut.astype(np.float32)
    rms = np.sqrt(np.einsum("ens,ens->es", real, real) / PYRAMID_BASE)
    return np.stack([cut.min(axis=1), cut.max(axis=1), np.rint(rms).astype(np.int16)], axis=2)


def pyramid_above(entries: NDArray[np.int16]) -> NDArray[np.int16]:
    """The next coarser level: four entries become one.

    Parameters
    ----------
    entries
        Least and greatest of each run, int16.
    """
    count = -(-len(entries) // PYRAMID_STEP)
    padded = np.pad(entries, ((0, count * PYRAMID_STEP - len(entries)), (0, 0), (0, 0)), mode="edge")
    cut = padded.reshape(count, PYRAMID_STEP, entries.shape[1], 3)
    rms = np.sqrt((cut[..., 2].astype(np.float32) ** 2).mean(axis=1))
    return np.stack([cut[..., 0].min(axis=1), cut[..., 1].max(axis=1), np.rint(rms).astype(np.int16)], axis=2)


def overview(pcm: NDArray[np.int16], pyramid: Pyramid, start: int, stop: int, columns: int) -> NDArray[np.float32]:
    """The waveform between two samples as `columns` columns, shape (columns, 3): lowest, highest, RMS, -1 to 1.

    Reads the coarsest level that is still finer than a column, so the cost does not grow with the length.
    Channels are joined: the lowest of the lowest, the highest of the highest. Columns beyond the recording
    are zero.

    Parameters
    ----------
    pcm
        Samples as int16, shape (channels, count).
    pyramid
        Least and greatest of runs of samples, each level half as long.
    start
        The first reading.
    stop
        The reading after the last one.
    columns
        Number of columns that the stretch is divided into.
    """
    columns = max(1, columns)
    per_column = max((stop - start) / columns, 1e-9)
    level = -1
    # Entries an eighth of a column at the most: a peak is then drawn no further off than that.
    while level + 1 < len(pyramid) and PYRAMID_BASE * PYRAMID_STEP ** (level + 1) * 8 <= per_column:
        level += 1
    size = 1 if level < 0 else PYRAMID_BASE * PYRAMID_STEP**level
    edges = (start + np.arange(columns + 1) * per_column) / size
    if level < 0:
        first, last = max(0, int(edges[0])), max(0, min(len(pcm), int(np.ceil(edges[-1])) + 1))
        values = pcm[first:last].astype(np.int32)
        rows = np.stack([values.min(axis=1), values.max(axis=1), np.abs(values).max(axis=1)], axis=1)
    else:
        first, last = max(0, int(edges[0])), min(len(pyramid[level]), int(np.ceil(edges[-1])) + 1)
        part = pyramid[level][first:last].astype(np.int32)
        rows = np.stack([part[..., 0].min(axis=1), part[..., 1].max(axis=1), part[..., 2].max(axis=1)], axis=1)
    out = np.zeros((columns, 3), np.float32)
    if not len(rows):
        return out
    low = np.floor(edges[:-1] + 1e-9).astype(int) - first
    # A column owns the entries that begin in it, and at least the one that it lies in.
    high = np.maximum(np.ceil(edges[1:] - 1e-9).astype(int) - first, low + 1)
    for column in np.flatnonzero((high > 0) & (low < len(rows))):
        piece = rows[max(low[column], 0) : high[column]]
        rms = np.sqrt(np.mean(piece[:, 2].astype(np.float64) ** 2))
        out[column] = piece[:, 0].min() / 32767, piece[:, 1].max() / 32767, rms / 32767
    return out
