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

Spacing = Literal["log", "linear", "mel", "octave", "third", "semitone", "class"]
SPACINGS: dict[str, str] = {
    "log": "Equal in octaves",
    "linear": "Equal in Hz",
    "mel": "Mel",
    "octave": "Octave bands",
    "third": "Third-octave bands",
    "semitone": "Semitones",
    "class": "Pitch classes",
}
"""How bands can share a range, by what projects store. Octave and third-octave bands are those of IEC 61260; semitones
and the twelve pitch classes are read by `pitch_bands`."""

_G = 10 ** (3 / 10)
_NOMINAL = (1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0)


@dataclass(frozen=True)
class BandSet:
    """Bands given by their low and high edges in Hz."""

    edges: tuple[tuple[float, float], ...]

    @classmethod
    def from_edges(cls, edges: Sequence[tuple[float, float]]) -> BandSet:
        """Bands between neighbouring edges in Hz, shape (bands + 1,).

        Parameters
        ----------
        edges
            Frequencies in Hz, rising, shape (bands + 1,).
        """
        return cls(tuple((float(low), float(high)) for low, high in edges))

    @classmethod
    @cache
    def spaced(cls, low_hz: float, high_hz: float, count: int, spacing: Spacing = "log") -> BandSet:
        """`count` neighbouring bands between two frequencies, equally wide in octaves, in Hz or in mel; or the bands
        of IEC 61260 whose centres lie between the two, however many those are.

        Parameters
        ----------
        low_hz
            Lowest frequency in Hz.
        high_hz
            Highest frequency in Hz.
        count
            Number of bands.
        spacing
            How they share the range: one of `SPACINGS`.
        """
        if spacing == "octave" or spacing == "third":
            return cls.from_edges([(low, high) for _, low, high in iec_bands(low_hz, high_hz, spacing)])
        if spacing == "mel":
            marks = from_mel(np.linspace(to_mel(low_hz), to_mel(high_hz), count + 1))
        else:
            marks = (np.geomspace if spacing == "log" else np.linspace)(low_hz, high_hz, count + 1)
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


def to_mel(hz: float) -> float:
    """Frequency on the mel scale of O'Shaughnessy (1987): 1000 Hz are about 1000 mel.

    Parameters
    ----------
    hz
        Frequencies in Hz.
    """
    return float(2595.0 * np.log10(1.0 + hz / 700.0))


def from_mel(mel: NDArray[np.float64]) -> NDArray[np.float64]:
    """Mel back to Hz.

    Parameters
    ----------
    mel
        Pitches in mel.
    """
    return 700.0 * (10.0 ** (mel / 2595.0) - 1.0)


def iec_bands(low_hz: float, high_hz: float, width: Literal["octave", "third"]) -> list[tuple[float, float, float]]:
    """Exact centre, low and high edge in Hz of the bands whose centres lie between two frequencies; at least one.

    IEC 61260-1:2014, base ten: G = 10^(3/10), centres 1000 G^(x/b), edges at G^(±1/(2b)) of the centre.

    Parameters
    ----------
    low_hz
        The lowest frequency, in Hz.
    high_hz
        The highest frequency, in Hz.
    width
        Octaves or thirds of octaves.
    """
    fraction = 1 if width == "octave" else 3
    first = int(np.ceil(fraction * np.log(low_hz / 1000.0) / np.log(_G) - 1e-6))
    last = int(np.floor(fraction * np.log(high_hz / 1000.0) / np.log(_G) + 1e-6))
    half = _G ** (1 / (2 * fraction))
    centres = [1000.0 * _G ** (x / fraction) for x in range(first, max(last, first) + 1)]
    return [(centre, centre / half, centre * half) for centre in centres]


def nominal_hz(centre_hz: float) -> float:
    """The rounded frequency by which a band of IEC 61260 is called: 31.5, 63, 1000.

    Parameters
    ----------
    centre_hz
        The exact centre of a band, in Hz.
    """
    tenths = round(10 * np.log10(centre_hz))
    return float(_NOMINAL[tenths % 10] * 10 ** (tenths // 10))


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
    """Level of each band in dBFS at readings start to stop, shape (stop - start, bands). Silence is -160 dB.

    Parameters
    ----------
    recording
        An analysed recording.
    chosen
        Edges of the bands.
    channel
        Which channel: "mix", "left", "right", "mid" or "side".
    start
        The first reading.
    stop
        The reading after the last one.
    """
    power = recording.power(channel, start, stop) @ chosen.weights()
    return 10.0 * np.log10(np.maximum(power, np.float32(10 ** (FLOOR_DB / 10))))
