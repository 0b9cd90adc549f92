"""A recording cut at its pauses: pieces short enough to be decoded one by one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE

SPEECH_RATE = 16_000
"""Samples per second that the acoustic model takes."""
STEP_S = 0.01
_SHORTEST_S, _LONGEST_S = 3.0, 14.0
_ROOM = 0.002
VOICE_HZ = (180.0, 4000.0)


@dataclass(frozen=True)
class Pause:
    """A stretch without voice, in seconds."""

    start_s: float
    end_s: float


def speech_samples(pcm: NDArray[np.int16], start_s: float, end_s: float, *, song: bool = False) -> NDArray[np.int16]:
    """A stretch of a recording, shape (samples, channels) or (channels, samples) at 48 kHz, as one channel at
    `SPEECH_RATE`. `song`: only the band of a voice, and of it what both channels have in common.

    Parameters
    ----------
    pcm
        Samples as int16, shape (channels, count).
    start_s
        Seconds at which it begins.
    end_s
        Seconds at which it ends.
    song
        True for a song, False for speech alone.
    """
    pcm = pcm if pcm.shape[0] < pcm.shape[1] else pcm.T
    cut = pcm[:, round(start_s * RATE) : round(end_s * RATE)]
    mono = cut.astype(np.float32).mean(axis=0) / 32768.0
    result = scipy.signal.resample_poly(mono, 1, RATE // SPEECH_RATE).astype(np.float32)
    if song:
        band = scipy.signal.butter(4, VOICE_HZ, "bandpass", fs=SPEECH_RATE, output="sos")
        result = scipy.signal.sosfiltfilt(band, result).astype(np.float32)
    peak = float(np.abs(result).max()) if result.size else 0.0
    scaled = result * (0.7 / peak) if peak > 1e-4 else result
    # The acoustic model has never heard a room without noise: it takes all that is louder for the same.
    scaled = scaled + np.random.default_rng(7).standard_normal(scaled.size).astype(np.float32) * _ROOM
    return np.rint(np.clip(scaled, -1.0, 1.0) * 32767).astype(np.int16)


def levels_db(samples: NDArray[np.int16]) -> NDArray[np.float64]:
    """RMS level of every `STEP_S` over 30 ms, in dBFS of this signal.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    """
    step = round(STEP_S * SPEECH_RATE)
    count = len(samples) // step
    if not count:
        return np.full(1, -96.0)
    power = np.square(samples[: count * step].astype(np.float64) / 32768.0).reshape(count, step).mean(axis=1)
    return np.asarray(10 * np.log10(scipy.ndimage.uniform_filter1d(power, 3, mode="nearest") + 1e-10), np.float64)


def pauses(samples: NDArray[np.int16], *, shortest_s: float = 0.18) -> list[Pause]:
    """Stretches without voice: clearly under the level that the voice mostly has, and not far over the ground.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    shortest_s
        Seconds that a pause lasts at the least.
    """
    level = levels_db(samples)
    ground, voice = np.percentile(level, 5), np.percentile(level, 90)
    edge = max(ground + 0.3 * (voice - ground), voice - 45.0)
    if voice - ground < 6:
        return []
    quiet = np.concatenate([[False], level < edge, [False]])
    steps = np.flatnonzero(np.diff(quiet.astype(np.int8)))
    spans = steps.reshape(-1, 2) * STEP_S
    return [Pause(float(low), float(high)) for low, high in spans if high - low >= shortest_s]


def cut_places(samples: NDArray[np.int16], stretch_s: float) -> list[float]:
    """Where a recording of `stretch_s` seconds is cut, 0 and its end among them: in the longest pauses that lie in
    reach, where there are none at the quietest moment.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    stretch_s
        Seconds a stretch, about.
    """
    result = pauses(samples, shortest_s=0.12)
    level = levels_db(samples)
    places = [0.0]
    while stretch_s - places[-1] > _LONGEST_S:
        low, high = places[-1] + _SHORTEST_S, places[-1] + _LONGEST_S
        inside = [pause for pause in result if low < (pause.start_s + pause.end_s) / 2 < high]
        if inside:
            best = max(inside, key=lambda pause: pause.end_s - pause.start_s)
            places.append((best.start_s + best.end_s) / 2)
        else:
            window = level[round(low / STEP_S) : round(high / STEP_S)]
            places.append(low + float(np.argmin(window)) * STEP_S if window.size else high)
    return [*places, stretch_s]


def middle_pause(samples: NDArray[np.int16]) -> float:
    """Where a piece is parted in two, in seconds: in a long pause near its middle.

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    """
    length = len(samples) / SPEECH_RATE
    places = {
        (pause.start_s + pause.end_s) / 2: pause.end_s - pause.start_s for pause in pauses(samples, shortest_s=0.1)
    }
    inside = [place for place in places if 0.2 < place / length < 0.8]
    return max(inside, key=lambda place: places[place] - abs(2 * place / length - 1) / 4, default=length / 2)
