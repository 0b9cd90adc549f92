"""What a pickup hears: the level in dBFS of a band of the sound, 240 times a second.

Three detectors. *Level*: the RMS level of the band, from the stored bands. *Peak*: the highest value of the
band-passed sound, from its analytic envelope. *Hits*: the level of the power that is new, so that a stroke reads as
much as it is loud and a held note reads nothing.

The windows of the analysis reach some milliseconds ahead of a stroke. Out of silence that would show, so every
reading is held down to what the recording has as a whole at that time, known to 1/750 s.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.bands import FLOOR_DB, FRAME_RATE, band_edges
from velvetdrum.audio.decode import RATE
from velvetdrum.audio.filters import decimate
from velvetdrum.audio.levels import PYRAMID_BASE
from velvetdrum.signals.array_cache import KeptArrays
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.spectrum import BandSet

READ_RATE = 240
"""Readings of a signal per second."""

BandLevels = NDArray[np.float32]

_NEW = 2.0  # power that counts as new is more than twice that of before
_EDGE_OCT = 0.05  # the peak detector's least softness: a hard edge rings, this keeps it short
_BEFORE = 4
"""Readings before one that its new power is held against."""
_KEPT_READINGS = 20 * 60 * FRAME_RATE
"""Longest stretch whose bands are kept for the next turn of a knob: twenty minutes, 56 MB."""
_PIECE = 5 * 60 * FRAME_RATE
_AT_ONCE = 1 << 18  # samples that the peak detector transforms at once

_kept = KeptArrays("signals.detected")
_power = KeptArrays("signals.power")
_fresh = KeptArrays("signals.unshaped")
_streams = KeptArrays("signals.streams")


@dataclass(frozen=True)
class DetectedBand:
    """A band to listen to: Hz, the softness of its edges in octaves, a channel and a detector."""

    channel: str
    low_hz: float
    high_hz: float
    soft_oct: float
    detector: str


def level_db(use: AudioRange, listening: DetectedBand, length_s: float) -> BandLevels:
    """Level in dBFS (AES17), shape (readings,): reading n is at n / READ_RATE seconds of the project. Silence is -160.

    `use` is the used part of the recording, `length_s` the project's length in seconds. By detector: *level* is
    10 * log10(sum of w_b * P_b) over the stored bands b, with P_b their power (1 for a full-scale sine) and w_b the
    share of each that is heard; *peak* is 20 * log10 of the largest analytic envelope |x + iH(x)| of the band-passed
    sound within a reading (D. Gabor, "Theory of communication", 1946); *hits* is the level of the part of P_b that is
    beyond twice what it was a moment before (spectral flux, as S. Dixon, "Onset detection revisited", 2006).

    Parameters
    ----------
    use
        The used stretch of a recording.
    listening
        A band, a channel and a detector.
    length_s
        Length of the project, in seconds.
    """
    key = (use.recording.identity, use.in_s, use.out_s, length_s, listening)
    return _kept.get(key, lambda: _listen(use, listening, length_s))


def band_weights(listening: DetectedBand) -> NDArray[np.float32]:
    """Share of each stored band that is heard, shape (stored bands,), 0 to 1.

    Parameters
    ----------
    listening
        A band, a channel and a detector.
    """
    weights = BandSet.from_edges([(listening.low_hz, listening.high_hz)]).weights()[:, 0]
    if listening.soft_oct <= 0:
        return weights
    centres = np.sqrt(band_edges()[1:] * band_edges()[:-1])
    return np.maximum(weights, _softened(centres, listening)).astype(np.float32)


def _softened(hz: NDArray[np.float64], listening: DetectedBand) -> NDArray[np.float64]:
    """1 inside the band, falling as a squared cosine over `soft_oct` octaves outside of each edge."""
    octaves = np.log2(np.maximum(hz, 1e-3))
    off = np.maximum(np.log2(listening.low_hz) - octaves, octaves - np.log2(listening.high_hz))
    return np.cos(np.clip(off / max(listening.soft_oct, 1e-9), 0.0, 1.0) * np.pi / 2) ** 2


def _listen(use: AudioRange, listening: DetectedBand, length_s: float) -> BandLevels:
    count = int(np.ceil(length_s * READ_RATE)) + 1
    times = use.in_s + np.arange(count) / READ_RATE
    if listening.detector == "peak":
        result = _peaks(use, listening, times)
    else:
        start, stop = int(times[0] * FRAME_RATE) - 5, int(times[-1] * FRAME_RATE) + 3
        weights = band_weights(listening)
        chosen = _touched(weights)
        power = np.concatenate([part[:, chosen] @ weights[chosen] for part in _parts(use, listening, start, stop)])
        levels = 10.0 * np.log10(np.maximum(power, 10 ** (FLOOR_DB / 10)))
        result = np.interp(times * FRAME_RATE - start, np.arange(len(levels)), levels)
    result = np.minimum(result, _ceiling(use, listening, times))
    result[(times < use.in_s - 1e-9) | (times > use.out_s)] = FLOOR_DB
    return result.astype(np.float32)


def _parts(use: AudioRange, listening: DetectedBand, start: int, stop: int) -> Iterator[NDArray[np.float32]]:
    """The power that a detector weighs, in one piece that is kept, or, of long recordings, piece by piece."""
    hits = listening.detector == "hits"
    if stop - start <= _KEPT_READINGS:
        yield (new_power if hits else _band_power)(use, listening.channel, start, stop)
        return
    for first in range(start, stop, _PIECE):
        last = min(first + _PIECE, stop)
        back = _BEFORE if hits and first > start else 0
        power = use.recording.power(listening.channel, first - back, last)
        yield _fresh_of(power)[back:] if hits else power


def _touched(weights: NDArray[np.float32]) -> slice:
    heard = np.flatnonzero(weights > 1e-6)
    return slice(int(heard[0]), int(heard[-1]) + 1) if len(heard) else slice(0, 1)


def _band_power(use: AudioRange, channel: str, start: int, stop: int) -> NDArray[np.float32]:
    """All bands, decoded once for a channel, because people turn the same knob many times."""
    key = (use.recording.identity, channel, start, stop)
    return _power.get(key, lambda: use.recording.power(channel, start, stop))


def new_power(use: AudioRange, channel: str, start: int, stop: int) -> NDArray[np.float32]:
    """Power of all bands beyond twice the most that a band or its neighbours had 33 to 67 ms before, shape
    (stop - start, stored bands); nothing in the first four readings, which have none before them.

    Parameters
    ----------
    use
        The used stretch of a recording.
    channel
        Which channel: "mix", "left", "right", "mid" or "side".
    start
        The first reading.
    stop
        The reading after the last one.
    """

    key = (use.recording.identity, channel, start, stop)
    return _fresh.get(key, lambda: _fresh_of(_band_power(use, channel, start, stop)))


def _fresh_of(power: NDArray[np.float32]) -> NDArray[np.float32]:
    near = power.copy()
    np.maximum(near[:, 1:], power[:, :-1], out=near[:, 1:])
    np.maximum(near[:, :-1], power[:, 1:], out=near[:, :-1])
    fresh = np.zeros_like(power)
    before = np.maximum(near[2:-2], np.maximum(near[1:-3], near[:-4]))
    fresh[_BEFORE:] = np.maximum(power[_BEFORE:] - np.float32(_NEW) * before, 0.0)
    return fresh


def _ceiling(use: AudioRange, listening: DetectedBand, times: NDArray[np.float64]) -> NDArray[np.float64]:
    """Level in dBFS that nothing in the recording passes near each time.

    In a quarter of a tone's period, before or after any time, its short-time power reaches its mean. Both sides
    must have it, so a stroke opens the ceiling when it comes and closes it when it goes.
    """
    rate = RATE / PYRAMID_BASE
    first, last = int(times[0] * rate) - 40, int(times[-1] * rate) + 40
    power = use.recording.short_power(listening.channel, first, last)
    quarter = int(np.ceil(rate / (4 * max(listening.low_hz * 2**-listening.soft_oct, 15.0))))
    past = scipy.ndimage.maximum_filter1d(power, quarter + 1, origin=quarter // 2)
    future = scipy.ndimage.maximum_filter1d(power, quarter + 1, origin=-((quarter + 1) // 2))
    power = np.minimum(past, future)
    at = np.clip((times * rate - first).astype(int), 0, len(power) - 1)
    return 10.0 * np.log10(power[at].astype(np.float64))


def _peaks(use: AudioRange, listening: DetectedBand, times: NDArray[np.float64]) -> NDArray[np.float64]:
    """Highest value of the analytic envelope of the band within each reading, in dBFS.

    Blocks under Hann windows that overlap by half and sum to one; of each spectrum only the band's bins are kept
    and moved to 0 Hz, so a narrow band costs next to nothing on the way back. Its magnitude there is the
    envelope (D. Gabor, 1946). Low bands are read from a decimated stream, which is kept.
    """
    listening = listening if listening.soft_oct > _EDGE_OCT else replace(listening, soft_oct=_EDGE_OCT)
    steps = _steps_for(listening.high_hz * 2**listening.soft_oct)
    stream_rate = RATE // int(np.prod(steps))
    block = 1 << int(np.ceil(np.log2(0.6 * stream_rate)))
    hop, origin = block // 2, int(times[0] * RATE)
    stream = _stream(use, listening.channel, origin - 2 * RATE, int(times[-1] * RATE) + 2 * RATE, steps)
    weights = _softened(np.arange(block // 2 + 1) * stream_rate / block, listening).astype(np.float32)
    heard = np.flatnonzero(weights > 1e-6)
    low, high = int(heard[0]), int(heard[-1]) + 1
    size = min(max(1 << int(np.ceil(np.log2(2 * (high - low)))), 512), block)
    window = (0.5 - 0.5 * np.cos(2 * np.pi * np.arange(block) / block)).astype(np.float32)
    blocks = np.lib.stride_tricks.sliding_window_view(stream, block)[::hop]
    half = size // 2
    envelope = np.zeros((len(blocks) + 1, half), np.complex64)
    step = max(16, _AT_ONCE // block)
    for first in range(0, len(blocks), step):
        spectra = scipy.fft.rfft(blocks[first : first + step] * window, axis=1)[:, low:high]
        shifted = np.zeros((len(spectra), size), np.complex64)
        shifted[:, : high - low] = spectra * weights[low:high]
        # Moved down by `low` bins, each block's clock starts anew: half a turn for every odd bin.
        if low % 2:
            shifted[1 - first % 2 :: 2] *= -1
        parts = scipy.fft.ifft(shifted, axis=1) * np.float32(2 * size / block)
        envelope[first : first + len(parts)] += parts[:, :half]
        envelope[first + 1 : first + 1 + len(parts)] += parts[:, half:]
    rate = stream_rate * size / block
    height = scipy.ndimage.maximum_filter1d(np.abs(envelope.ravel()), 2 * round(rate / READ_RATE / 2) + 1)
    at = np.clip(np.rint((times - (origin - 2 * RATE) / RATE) * rate).astype(int), 0, len(height) - 1)
    return 20.0 * np.log10(np.maximum(height[at].astype(np.float64), 10 ** (FLOOR_DB / 20)))


def _steps_for(top_hz: float) -> tuple[int, ...]:
    """Decimation steps that leave frequencies up to `top_hz` untouched (see `filters.decimate`)."""
    return (4, 5) if top_hz <= 600 else (4,) if top_hz <= 3000 else ()


def _stream(use: AudioRange, channel: str, start: int, stop: int, steps: tuple[int, ...]) -> NDArray[np.float32]:
    """Samples start to stop of a channel, decimated."""

    def make() -> NDArray[np.float32]:
        out = _samples(use, channel, start, stop)[None]
        for step in steps:
            out = decimate(out, step)
        return out[0]

    return _streams.get((use.recording.identity, channel, start, stop, steps), make)


def _samples(use: AudioRange, channel: str, start: int, stop: int) -> NDArray[np.float32]:
    pcm = use.recording.pcm
    low, high = max(start, 0), max(min(stop, len(pcm)), max(start, 0))
    part = pcm[low:high].astype(np.float32) * np.float32(1 / 32767)
    out = np.zeros(stop - start, np.float32)
    if part.shape[1] == 1:
        mono = part[:, 0] if channel != "side" else np.zeros(len(part), np.float32)
    elif channel in ("left", "right"):
        mono = part[:, 0 if channel == "left" else 1]
    elif channel == "side":
        mono = (part[:, 0] - part[:, 1]) * np.float32(0.5)
    else:
        mono = part.mean(axis=1)
    out[low - start : low - start + len(mono)] = mono
    return out
