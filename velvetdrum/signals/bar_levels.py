"""What a row of bars reads of a sound: which bands, what of them, and in which range."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.bands import FLOOR_DB, FRAME_RATE
from velvetdrum.signals.array_cache import KeptArrays
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.detect import new_power
from velvetdrum.signals.envelope import CHUNK, Curve
from velvetdrum.signals.pitch_bands import (
    LOWEST_SEMITONE,
    class_power,
    semitone_hz,
    semitone_power,
    semitones_between,
)
from velvetdrum.signals.spectrum import BandSet, Spacing, band_levels

HEARS = {
    "level": "Level",
    "peak": "Peak",
    "attacks": "Attacks",
    "difference": "Against its average",
}
"""What bars can hear of a band, by what projects store."""

_PIVOT_HZ = 1000.0
_PEAK_READINGS = round(0.05 * FRAME_RATE)
"""A peak is the highest level of a band within so many readings on both sides."""
_QUARTER = 2 ** (1 / 24)
"""A quarter tone, as a ratio: how far the edges of a semitone lie from it."""
_BEFORE = 4
"""Readings that an attack is held against."""
_NARROWEST_DB = 12.0

_means = KeptArrays("signals.band means")
_ranges = KeptArrays("signals.band ranges")


@dataclass(frozen=True)
class BarSettings:
    """What a row of bars reads: frequencies in Hz, levels in dBFS, tilt in dB per octave about 1 kHz, times in ms
    to 63 %."""

    count: int
    low_hz: float
    high_hz: float
    spacing: Spacing
    channel: str
    quiet_db: float
    loud_db: float
    tilt_db: float
    attack_ms: float
    release_ms: float
    smooth_bands: float = 0.0
    """Width in bands of the kernel that neighbours are smoothed with."""
    average_ms: float = 0.0
    """Length of the stretch around each reading whose power is averaged."""
    hears: str = "level"
    """What is read of a band: one of `HEARS`."""
    own_range: bool = False
    """True where each band has a quiet and a loud level of its own, read from the recording."""
    edges: tuple[tuple[float, float], ...] = ()
    """Edges of the bands in Hz where they were typed; else they are spaced."""
    average_by: str = "mean"
    neighbours_by: str = "mean"
    """Whether time, and neighbouring bands, are joined by their mean or their highest value."""

    @property
    def bands(self) -> BandSet:
        """Edges of the bands in Hz, shape (bars + 1,)."""
        if self.edges:
            return BandSet.from_edges(self.edges)
        if self.spacing in ("semitone", "class"):
            numbers = semitones_between(self.low_hz, self.high_hz) if self.spacing == "semitone" else np.arange(60, 72)
            return BandSet.from_edges([(hz / _QUARTER, hz * _QUARTER) for hz in semitone_hz(numbers).tolist()])
        return BandSet.spaced(self.low_hz, self.high_hz, self.count, self.spacing)


def tilted_levels(use: AudioRange, settings: BarSettings, start: int, stop: int) -> Curve:
    """Levels in dBFS with the tilt added, shape (stop - start, bars).

    By `settings.hears`: *level*; *peak*, the highest within 50 ms; *attacks*, the level of the power that is new in a
    band (spectral flux, as `detect.new_power`); *difference*, the level less the mean level of its band, about the mean
    of all bands, so that every band is heard as far as it stands out.

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that it has.
    start
        The first reading.
    stop
        The reading after the last one.
    """
    levels = _read_levels(use, settings, start, stop)
    if settings.hears == "difference":
        means = mean_levels(use, settings)
        levels = levels - means + np.float32(means.mean())
    if settings.tilt_db:
        octaves = np.log2(settings.bands.centres_hz / _PIVOT_HZ)
        levels = levels + (octaves * settings.tilt_db).astype(np.float32)
    return levels


def _read_levels(use: AudioRange, settings: BarSettings, start: int, stop: int) -> Curve:
    half = round(settings.average_ms * FRAME_RATE / 2000.0)
    pitched = settings.spacing in ("semitone", "class") and not settings.edges
    if not half and not pitched and settings.hears in ("level", "difference"):
        return band_levels(use.recording, settings.bands, settings.channel, start, stop)
    peak = _PEAK_READINGS if settings.hears == "peak" else 0
    first, last = start - half - peak, stop + half + peak
    if pitched:
        power = _pitch_power(use, settings, first, last).astype(np.float64)
    elif settings.hears == "attacks":
        stored = new_power(use, settings.channel, first - _BEFORE, last)[_BEFORE:]
        power = (stored @ settings.bands.weights()).astype(np.float64)
    else:
        stored = use.recording.power(settings.channel, first, last)
        power = (stored @ settings.bands.weights()).astype(np.float64)
    if peak:
        power = _windowed(power, peak, "highest")
    if half:
        power = _windowed(power, half, settings.average_by)
    return (10.0 * np.log10(np.maximum(power, 10 ** (FLOOR_DB / 10)))).astype(np.float32)


def _pitch_power(use: AudioRange, settings: BarSettings, start: int, stop: int) -> Curve:
    """Power of semitones, or of pitch classes; for attacks, what of it is beyond twice that of just before."""
    first = start - _BEFORE if settings.hears == "attacks" else start
    if settings.spacing == "class":
        power = class_power(use, settings.channel, first, stop, settings.low_hz, settings.high_hz)
    else:
        chosen = semitones_between(settings.low_hz, settings.high_hz)
        power = semitone_power(use, settings.channel, first, stop)[:, chosen - LOWEST_SEMITONE]
    if settings.hears != "attacks":
        return power
    before = np.maximum(np.maximum(power[:-4], power[1:-3]), power[2:-2])
    return np.maximum(power[_BEFORE:] - 2.0 * before, 0.0).astype(np.float32)


def _windowed(power: NDArray[np.float64], half: int, by: str) -> NDArray[np.float64]:
    """The mean or the highest of each value with `half` on both sides; the result is shorter by those of its ends."""
    if by == "highest":
        return np.asarray(scipy.ndimage.maximum_filter1d(power, 2 * half + 1, axis=0)[half : len(power) - half])
    sums = np.cumsum(np.pad(power, ((1, 0), (0, 0))), axis=0)
    return np.asarray((sums[2 * half + 1 :] - sums[: -2 * half - 1]) / (2 * half + 1))


def mean_levels(use: AudioRange, settings: BarSettings) -> Curve:
    """The mean level of each band over the used stretch in dBFS, where there is anything, shape (bars,).

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that it has.
    """
    plain = replace(settings, quiet_db=0.0, loud_db=0.0, attack_ms=0.0, release_ms=0.0, own_range=False)
    plain = replace(plain, average_ms=0.0, hears="level")
    key = (use.recording.identity, use.in_s, use.out_s, plain)

    def make() -> Curve:
        parts = [_read_levels(use, plain, *stretch).astype(np.float64) for stretch in stretches(use)]
        levels = np.concatenate(parts)
        there = levels > -120.0
        return (np.where(there, levels, 0.0).sum(axis=0) / np.maximum(there.sum(axis=0), 1)).astype(np.float32)

    return _means.get(key, make)


def own_ranges(use: AudioRange, settings: BarSettings) -> tuple[Curve, Curve]:
    """The quiet level of each band in dB and how far its loud one lies above, read from the used stretch, each of shape
    (bars,): what 1 of 4 and 99 of 100 readings stay below while the band sounds, at least 12 dB apart.

    Parameters
    ----------
    use
        The used stretch of a recording.
    settings
        The settings that it has.
    """
    read = replace(settings, quiet_db=0.0, loud_db=0.0, attack_ms=0.0, release_ms=0.0, own_range=False)

    def make() -> Curve:
        levels = np.concatenate([tilted_levels(use, read, *stretch) for stretch in stretches(use)])
        heard = np.where(levels > -120.0, levels, np.nan)
        heard[0] = np.where(np.isnan(heard).all(axis=0), -120.0, heard[0])
        low, high = np.nanpercentile(heard, [25.0, 99.0], axis=0)
        low = np.minimum(low, high - _NARROWEST_DB)
        return np.stack([low, high - low]).astype(np.float32)

    result = _ranges.get((use.recording.identity, use.in_s, use.out_s, read), make)
    return result[0], result[1]


def stretches(use: AudioRange) -> list[tuple[int, int]]:
    """Readings from and to: the whole used part, or twenty places of a long one.

    Parameters
    ----------
    use
        The used stretch of a recording.
    """
    start, stop = round(use.in_s * FRAME_RATE), round(use.out_s * FRAME_RATE) + 1
    stop = max(min(stop, use.recording.frames), start + 1)
    if stop - start <= 20 * CHUNK:
        return [(start, stop)]
    return [(int(place), int(place) + CHUNK) for place in np.linspace(start, stop - CHUNK, 20).astype(int)]
