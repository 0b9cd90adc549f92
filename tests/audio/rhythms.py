"""Drum patterns made on the spot, with the times of their beats known exactly."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

RATE = 48_000


def _time(seconds: float) -> np.ndarray:
    return np.arange(round(seconds * RATE)) / RATE


def kick() -> np.ndarray:
    time = _time(0.28)
    return 0.9 * np.sin(2 * np.pi * (48 * time + 2.6 * (1 - np.exp(-time * 38)))) * np.exp(-time * 14)


def snare(noise: np.random.Generator) -> np.ndarray:
    time = _time(0.2)
    tone = 0.4 * np.sin(2 * np.pi * 190 * time) * np.exp(-time * 26)
    return tone + 0.35 * noise.standard_normal(len(time)) * np.exp(-time * 24)


def hat(noise: np.random.Generator, seconds: float = 0.06) -> np.ndarray:
    time = _time(seconds)
    bright = np.diff(noise.standard_normal(len(time) + 1))
    return 0.12 * bright * np.exp(-time * 70)


class Take:
    """A stereo-less recording to which strokes are added at beats of a tempo map."""

    def __init__(self, beat_times: np.ndarray, seed: int = 5) -> None:
        self.beats = beat_times
        self.noise = np.random.default_rng(seed)
        self.out = np.zeros(round((beat_times[-1] + 1.5) * RATE))

    def at(self, beat: float) -> float:
        return float(np.interp(beat, np.arange(len(self.beats)), self.beats))

    def add(self, part: np.ndarray, beat: float, gain: float = 1.0) -> None:
        first = round(self.at(beat) * RATE)
        room = self.out[first : first + len(part)]
        room += gain * part[: len(room)]

    def done(self) -> np.ndarray:
        floor = 10 ** (-60 / 20) * self.noise.standard_normal(len(self.out))
        mixed = self.out + floor
        return 0.7 * mixed / np.abs(mixed).max()


def steady(bpm: float, seconds: float = 24.0, start: float = 0.4) -> np.ndarray:
    count = int((seconds - start) * bpm / 60)
    return start + np.arange(count) * 60 / bpm


def straight(take: Take, beat: int) -> None:
    take.add(kick() if beat % 2 == 0 else snare(take.noise), beat)
    take.add(hat(take.noise), beat)
    take.add(hat(take.noise), beat + 0.5)


def offbeat_hats(take: Take, beat: int) -> None:
    take.add(kick(), beat)
    take.add(hat(take.noise, 0.12), beat + 0.5, 1.6)
    if beat % 2:
        take.add(snare(take.noise), beat, 0.6)


def half_time(take: Take, beat: int) -> None:
    if beat % 4 == 0:
        take.add(kick(), beat)
    if beat % 4 == 2:
        take.add(snare(take.noise), beat)
    take.add(hat(take.noise), beat)
    take.add(hat(take.noise), beat + 0.5)


def sparse(take: Take, beat: int) -> None:
    if beat % 4 == 0:
        take.add(kick(), beat)
    elif beat % 4 == 2:
        take.add(snare(take.noise), beat, 0.8)
    elif beat % 8 == 5:
        take.add(kick(), beat, 0.6)
    elif beat % 8 == 7:
        take.add(hat(take.noise), beat)


def syncopated(take: Take, beat: int) -> None:
    if beat % 4 == 0:
        for when in (0, 1.5, 2.75):
            take.add(kick(), beat + when)
        for when in (1, 3):
            take.add(snare(take.noise), beat + when)
    for when in (0, 0.5):
        take.add(hat(take.noise), beat + when)


def played(pattern: Callable[[Take, int], None], beat_times: np.ndarray, seed: int = 5) -> np.ndarray:
    """A pattern over all beats but the last, as samples at 48 kHz."""
    take = Take(beat_times, seed)
    for beat in range(len(beat_times) - 1):
        pattern(take, beat)
    return take.done()


def free_speech(seconds: float = 20.0, seed: int = 3) -> np.ndarray:
    """Syllables of changing length and pitch with pauses: voiced bursts that follow no beat."""
    noise = np.random.default_rng(seed)
    out = np.zeros(round(seconds * RATE))
    at = 0.2
    while at < seconds - 0.6:
        length = noise.uniform(0.09, 0.32)
        time = _time(length)
        pitch = noise.uniform(95, 150) * (1 + 0.1 * np.sin(2 * np.pi * noise.uniform(1, 4) * time))
        phase = 2 * np.pi * np.cumsum(pitch) / RATE
        voice = sum(np.sin(k * phase) / k**1.2 for k in range(1, 14))
        shape = np.sin(np.pi * np.arange(len(time)) / len(time)) ** 0.6
        part = 0.2 * voice * shape * noise.uniform(0.5, 1.0)
        first = round(at * RATE)
        out[first : first + len(part)] += part
        at += length + noise.uniform(0.0, 0.09) + (noise.uniform(0.2, 0.8) if noise.random() < 0.18 else 0)
    return out + 1e-3 * noise.standard_normal(len(out))
