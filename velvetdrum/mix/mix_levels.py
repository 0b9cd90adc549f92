"""Levels of tracks and of their sum, reading by reading: what meters show."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import fftconvolve

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.bands import from_centibel
from velvetdrum.audio.decode import RATE
from velvetdrum.audio.loudness import interpolators
from velvetdrum.audio.speech import READINGS, levels_db
from velvetdrum.mix.mixdown import gain_curve_db
from velvetdrum.mix.placed_track import MixSpec, PlacedTrack
from velvetdrum.mix.voice import gains_db

Values = NDArray[np.float64]

LEAST_DB = -90.0
_SHORT_S = 3.0
_PER_S = 10


@dataclass(frozen=True)
class SumLevels:
    """Readings of a sum, 60 a second: RMS in dBFS of left and right, true peaks in dBTP, how alike the two are
    (-1 to 1), and loudness over the last three seconds in LUFS (EBU Tech 3341)."""

    left: Values
    right: Values
    peak: Values
    correlation: Values
    short_term: Values


def sum_levels(recording: Analysis, start: int, count: int) -> SumLevels:
    """The levels of a sum.

    Parameters
    ----------
    recording
        Its analysis.
    start
        The first reading.
    count
        How many.
    """
    low, high = max(start, 0), min(start + count, recording.frames)
    rows = recording.levels.shape[2]
    rms = np.zeros((4, count))
    if high > low:
        stored = from_centibel(np.ascontiguousarray(recording.levels[low:high])).astype(np.float64)
        place = slice(low - start, high - start)
        rms[:, place] = stored[:, 1].T if rows == 4 else np.array([[1.0], [1.0], [1.0], [0.0]]) * stored[:, 1, 0]
    left, right, middle, side = rms
    both = np.sqrt(left * right)
    alike = np.where(both > 1e-9, (middle - side) / np.maximum(both, 1e-9), 0.0)
    peaks = np.maximum(true_peaks_db(recording, start, count), LEAST_DB)
    return SumLevels(_db(left), _db(right), peaks, np.clip(alike, -1.0, 1.0), short_term(recording, start, count))


def true_peaks_db(recording: Analysis, start: int, count: int) -> Values:
    """The largest value between the samples of each reading, over both channels, in dBTP: four times oversampled
    (ITU-R BS.1770-5, annex 2).

    Parameters
    ----------
    recording
        The analysis.
    start
        The first reading, 60 a second; each is the 1/60 s about its second.
    count
        How many.
    """
    hop = RATE // READINGS
    kernels = interpolators()
    margin = kernels.shape[1]
    first, size = start * hop - hop // 2, count * hop
    low, high = max(first - margin, 0), max(min(first + size + margin, recording.samples), 0)
    if high <= low:
        return np.full(count, LEAST_DB)
    inside = np.asarray(recording.pcm[low:high], np.float32).T / 32767
    before = low - (first - margin)
    padded = np.pad(inside, ((0, 0), (before, max(size + 2 * margin - before - inside.shape[1], 0))))
    peaks = np.abs(padded)
    for kernel in kernels:
        between = np.abs(fftconvolve(padded, kernel[None, :], mode="same", axes=1))
        peaks = np.maximum(peaks, between)
    highest = peaks[:, margin : margin + size].reshape(len(peaks), count, hop).max(axis=(0, 2))
    return 20 * np.log10(np.maximum(highest, 1e-5)).astype(np.float64)


def short_term(recording: Analysis, start: int, count: int) -> Values:
    """Short-term loudness at readings, 60 a second: over the three seconds before each.

    Parameters
    ----------
    recording
        The analysis.
    start
        The first reading.
    count
        How many.
    """
    sums = np.concatenate([[0.0], np.cumsum(recording.loudness_energies)])
    last = np.clip(((start + np.arange(count)) * _PER_S) // READINGS, 0, len(sums) - 1)
    size = round(_SHORT_S * _PER_S)
    energy = (sums[last] - sums[np.maximum(last - size, 0)]) / size
    return np.maximum(-0.691 + 10 * np.log10(np.maximum(energy, 1e-12)), LEAST_DB)


def loudness_curve(recording: Analysis, start_s: float, stop_s: float, count: int) -> Values:
    """Short-term loudness at even times of a stretch, in LUFS.

    Parameters
    ----------
    recording
        The analysis.
    start_s
        Where it begins, in seconds.
    stop_s
        Where it ends.
    count
        How many values.
    """
    places = np.rint(np.linspace(start_s, stop_s, count) * READINGS).astype(int)
    whole = short_term(recording, 0, int(places.max(initial=0)) + 1)
    return whole[np.maximum(places, 0)]


@dataclass(frozen=True)
class TrackLevels:
    """Readings of a track after its fader, 60 a second of the timeline: RMS in dBFS, and true peaks in dBTP. What a
    high-pass and a de-esser take away is not in them."""

    level: Values
    peak: Values


def track_levels(
    track: PlacedTrack, spec: MixSpec, recordings: Mapping[str, Analysis], start: int, count: int
) -> TrackLevels:
    """The levels of a track.

    Parameters
    ----------
    track
        The track.
    spec
        The mix that it is in.
    recordings
        Analyses by content hash.
    start
        The first reading.
    count
        How many.
    """
    times = (start + np.arange(count)) / READINGS
    result = TrackLevels(np.full(count, LEAST_DB), np.full(count, LEAST_DB))
    since = times - track.at_s
    inside = (since >= 0) & (since < track.length_s)
    recording = recordings.get(track.media)
    if recording is None or not track.heard or not inside.any():
        return result
    own = levels_db(recording)
    period = max(track.out_s - track.in_s, 1 / READINGS)
    places = np.rint((track.in_s + np.mod(since[inside], period)) * READINGS).astype(int)
    curve = gain_curve_db(track, spec.tracks, recordings)
    gain = track.gain_db + (curve(times[inside]) if curve else 0.0)
    if not track.voice.idle:
        evened = gains_db(recording, track.voice)
        gain = gain + evened[np.clip(places, 0, len(evened) - 1)]
    rising = np.clip(since[inside] / max(track.fade_in_s, 1e-6), 1e-6, 1.0)
    falling = np.clip((track.length_s - since[inside]) / max(track.fade_out_s, 1e-6), 1e-6, 1.0)
    gain = gain + 20 * np.log10(np.sin(rising * np.pi / 2) * np.sin(falling * np.pi / 2))
    # Turn by turn of a loop: each is one stretch of the recording.
    turns = np.split(places, np.flatnonzero(np.diff(places) != 1) + 1)
    peaks = np.concatenate([true_peaks_db(recording, int(turn[0]), len(turn)) for turn in turns])
    result.level[inside] = np.maximum(own[np.clip(places, 0, len(own) - 1)] + gain, LEAST_DB)
    result.peak[inside] = np.maximum(peaks + gain, LEAST_DB)
    return result


def _db(power: Values) -> Values:
    return np.maximum(10 * np.log10(np.maximum(power, 1e-9)), LEAST_DB)
