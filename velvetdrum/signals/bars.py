"""Heights of spectrum bars at any time: levels, tilt, range and envelope, 0 to 1."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.signals.envelope import CHUNK, Curve, chunk_of
from velvetdrum.signals.spectrum import BandSet, Spacing, band_levels
from velvetdrum.signals.use import Use

_PIVOT_HZ = 1000.0
_KEPT_CHUNKS = 64


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

    @property
    def bands(self) -> BandSet:
        return BandSet.spaced(self.low_hz, self.high_hz, self.count, self.spacing)


_chunks: OrderedDict[tuple[object, ...], Curve] = OrderedDict()


def bar_heights(use: Use, settings: BarSettings, time: Fraction) -> Curve:
    """Heights at `time` (seconds from the in point), shape (bars,), 0 at the quiet level and 1 at the loud.

    Between two readings the heights lie on a straight line.
    """
    position = (Fraction(round(use.in_s * 48_000), 48_000) + time) * FRAME_RATE
    index = position.numerator // position.denominator
    part = float(position - index)
    first = _reading(use, settings, index)
    if part < 1e-6:
        return first
    following = _reading(use, settings, index + 1)
    return first + np.float32(part) * (following - first)


def tilted_levels(use: Use, settings: BarSettings, start: int, stop: int) -> Curve:
    """Levels in dBFS with the tilt added, shape (stop - start, bars)."""
    levels = band_levels(use.recording, settings.bands, settings.channel, start, stop)
    if settings.tilt_db:
        octaves = np.log2(settings.bands.centres_hz / _PIVOT_HZ)
        levels = levels + (octaves * settings.tilt_db).astype(np.float32)
    return levels


def fit_range(use: Use, settings: BarSettings) -> tuple[float, float]:
    """Quiet and loud level in dB that suit the used stretch, rounded to whole dB.

    Loud: passed by the tallest bar in 1 of 100 readings. Quiet: the level under which a quarter of all bars lie,
    between 28 and 42 dB below loud, so that the range neither sticks nor shows noise.
    """
    start, stop = round(use.in_s * FRAME_RATE), round(use.out_s * FRAME_RATE) + 1
    stop = min(stop, use.recording.frames)
    stretches = [(start, stop)]
    if stop - start > 20 * CHUNK:
        places = np.linspace(start, stop - CHUNK, 20).astype(int)
        stretches = [(int(p), int(p) + CHUNK) for p in places]
    levels = np.concatenate([tilted_levels(use, settings, *stretch) for stretch in stretches])
    tallest = levels.max(axis=1)
    sounding = tallest > tallest.max() - 60.0
    loud = float(np.percentile(tallest[sounding], 99.0))
    quiet = float(np.percentile(levels[sounding], 25.0))
    loud = float(np.clip(np.rint(loud), -90.0, 20.0))
    return float(np.clip(np.rint(quiet), loud - 42.0, loud - 28.0)), loud


def _reading(use: Use, settings: BarSettings, index: int) -> Curve:
    number, offset = divmod(index, CHUNK)
    key = (use.recording.identity, use.in_s, use.out_s, settings, number)
    chunk = _chunks.get(key)
    if chunk is None:
        chunk = chunk_of(
            lambda start, stop: _unfollowed(use, settings, start, stop),
            number,
            settings.attack_ms,
            settings.release_ms,
        )
        _chunks[key] = chunk
        while len(_chunks) > _KEPT_CHUNKS:
            _chunks.popitem(last=False)
    return chunk[offset]


def _unfollowed(use: Use, settings: BarSettings, start: int, stop: int) -> Curve:
    levels = tilted_levels(use, settings, start, stop)
    span = max(settings.loud_db - settings.quiet_db, 0.1)
    heights = np.clip((levels - settings.quiet_db) / span, 0.0, 1.0).astype(np.float32)
    # The tilt must not lift silence into view.
    heights[levels <= -120.0] = 0.0
    frames: NDArray[np.int64] = np.arange(start, stop)
    outside = (frames < round(use.in_s * FRAME_RATE)) | (frames > round(use.out_s * FRAME_RATE))
    heights[outside] = 0.0
    return heights
