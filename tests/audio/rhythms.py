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


def shuffle(take: Take, beat: int) -> None:
    """Hats on the first and the third of each triplet."""
    take.add(kick() if beat % 2 == 0 else snare(take.noise), beat)
    for when in (0, 2 / 3):
        take.add(hat(take.noise), beat + when)
    if beat % 4 == 3:
        take.add(kick(), beat + 2 / 3, 0.7)


def triplets(take: Take, beat: int) -> None:
    """Three hats a beat over a slow kick and snare."""
    if beat % 2 == 0:
        take.add(kick(), beat)
    if beat % 4 == 2:
        take.add(snare(take.noise), beat)
    for part in range(3):
        take.add(hat(take.noise), beat + part / 3, 1.2 if part == 0 else 0.8)
    if beat % 4 == 1:
        take.add(kick(), beat + 2 / 3, 0.8)


def six_rows(take: Take, beat: int) -> None:
    """Six rows a beat, as trackers and step sequencers have them, with notes on odd rows."""
    take.add(kick() if beat % 2 == 0 else snare(take.noise), beat)
    for row in (0, 2, 3, 5):
        take.add(hat(take.noise), beat + row / 6, 0.9)
    if beat % 4 >= 2:
        take.add(kick(), beat + (3 + beat % 2) / 6, 0.8)


def fills(take: Take, beat: int) -> None:
    """A plain pattern with two beats of snare before every fourth bar."""
    if beat % 16 >= 14:
        for part in range(4):
            take.add(snare(take.noise), beat + part / 4, 0.7 + 0.1 * part)
    else:
        straight(take, beat)


def twelve_eight(take: Take, beat: int) -> None:
    """Kicks two triplet thirds apart: three of them fill two beats, so that their tempo is one and a half times."""
    for when in {0: (0, 2 / 3), 1: (1 / 3,), 2: (), 3: (1 / 3, 2 / 3)}[beat % 4]:
        take.add(kick(), beat + when, 0.7 if when else 1.0)
    if beat % 4 == 2:
        take.add(snare(take.noise), beat)
    for part in range(3):
        take.add(hat(take.noise), beat + part / 3)


def waltz(take: Take, beat: int) -> None:
    if beat % 3 == 0:
        take.add(kick(), beat)
        take.add(hat(take.noise), beat)
    else:
        take.add(hat(take.noise, 0.12), beat, 2.0)


def soft_notes(bpm: float, seconds: float = 40.0, gain: float = 0.05) -> np.ndarray:
    """Notes that swell in 50 ms and ring, one a beat: nothing of it is a stroke."""
    time, period = _time(seconds), 60 / bpm
    out = np.zeros(len(time))
    for number in range(int(seconds / period)):
        since = np.maximum(time - number * period, 0)
        shape = (1 - np.exp(-since * 18)) * np.exp(-since * 1.8)
        hz = (220, 261.6, 329.6, 246.9)[number % 4]
        out += shape * sum(np.sin(2 * np.pi * hz * part * time) / part**2 for part in (1, 2, 3))
    return gain * out / np.abs(out).max()


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
