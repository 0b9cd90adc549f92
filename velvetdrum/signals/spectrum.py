"""Any set of frequency bands, read from the stored bands of an analysis."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.bands import FLOOR_DB, band_edges, overlap, resolution_hz

Spacing = Literal["log", "linear"]


@dataclass(frozen=True)
class BandSet:
    """Bands given by their low and high edges in Hz."""

    edges: tuple[tuple[float, float], ...]

    @classmethod
    def from_edges(cls, edges: Sequence[tuple[float, float]]) -> BandSet:
        return cls(tuple((float(low), float(high)) for low, high in edges))

    @classmethod
    @cache
    def spaced(cls, low_hz: float, high_hz: float, count: int, spacing: Spacing = "log") -> BandSet:
        """`count` neighbouring bands between two frequencies, equally wide in octaves or in Hz."""
        space = np.geomspace if spacing == "log" else np.linspace
        marks = space(low_hz, high_hz, count + 1)
        return cls.from_edges(list(pairwise(marks)))

    @property
    def centres_hz(self) -> NDArray[np.float64]:
        """Geometric centre of each band, shape (bands,)."""
        pairs = np.array(self.edges)
        return np.sqrt(np.maximum(pairs[:, 0], 1.0) * pairs[:, 1])

    def weights(self) -> NDArray[np.float32]:
        """Shares of the stored bands in each of these, shape (stored bands, bands).

        A band narrower than the analysis can tell apart is read over the width that it can: a tone in its
        middle then still reads its level, and neighbours blend as they do in the sound.
        """
        return _weights(self)


@cache
def _weights(chosen: BandSet) -> NDArray[np.float32]:
    stored = band_edges()
    source = np.stack([stored[:-1], stored[1:]], axis=1)
    target = np.array(chosen.edges)
    middle = target.mean(axis=1)
    index = np.clip(np.searchsorted(stored, middle) - 1, 0, len(stored) - 2)
    widest = np.maximum(resolution_hz()[index], 1.75 * np.diff(stored)[index])
    short = np.maximum(widest - (target[:, 1] - target[:, 0]), 0.0)[:, None] / 2
    return overlap(source, target + short * np.array([[-1.0, 1.0]]))


def band_levels(recording: Analysis, chosen: BandSet, channel: str, start: int, stop: int) -> NDArray[np.float32]:
    """Level of each band in dBFS at readings start to stop, shape (stop - start, bands). Silence is -160 dB."""
    power = recording.power(channel, start, stop) @ chosen.weights()
    return 10.0 * np.log10(np.maximum(power, np.float32(10 ** (FLOOR_DB / 10))))
