"""Paper Lighthouse: about 40 seconds of music, synthesised from sines, noise and a seed.

118.6 beats a minute, twenty bars: an intro, a first part, three quiet bars, a louder second part, a last chord.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import scipy
from numpy.typing import NDArray

RATE = 48_000
BEAT = 60 / 118.6
BARS = 20
SECONDS = BARS * 4 * BEAT

Mono = NDArray[np.float64]

# One chord a bar, as semitones from A below middle C (220 Hz): D minor 9, B flat major 7, F add 9, C 6/9.
_CHORDS = ((-7, -4, 0, 3, 9), (-11, -7, -4, 0, 5), (-4, 0, 3, 10, 15), (-9, -5, -2, 0, 5))
_ROOTS = (-19, -23, -16, -21)
_MELODY = (
    (0, 5),
    (1, 8),
    (1.5, 9),
    (2.5, 5),
    (3, 12),
    (4, 10),
    (5.5, 8),
    (6, 5),
    (7, 3),
    (8, 5),
    (9, 8),
    (9.5, 12),
    (10.5, 15),
    (11, 12),
    (12, 10),
    (13, 8),
    (14, 5),
    (15, 3),
)
_QUIET = range(10, 13)
_FULL = (*range(2, 10), *range(13, 19))


def paper_lighthouse() -> NDArray[np.float32]:
    """The song, shape (samples, 2), 48 kHz, peaks a little under full scale."""
    noise = np.random.default_rng(1186)
    return _master(np.sum(list(_played(noise).values()), axis=0), noise)


def stems() -> dict[str, NDArray[np.float32]]:
    """The song as it comes from a mixing desk, before the room and the ceiling: four stems by name, each of shape
    (samples, 2), of one length; their sum peaks a little under full scale."""
    played = _played(np.random.default_rng(1186))
    lead_in = np.zeros((round(0.15 * RATE), 2))
    whole = {name: np.concatenate([lead_in, part]) for name, part in played.items()}
    peak = float(np.abs(np.sum(list(whole.values()), axis=0)).max())
    return {name: (part * (0.84 / peak)).astype(np.float32) for name, part in whole.items()}


def harbour_bed() -> NDArray[np.float32]:
    """A calm bed for a voice, about half a minute: slow chords and far bells, shape (samples, 2)."""
    seconds = 30.0
    count = round(seconds * RATE)
    out = np.zeros((count, 2))
    for bar in range(8):
        start = bar * 3.6
        for index, note in enumerate(_CHORDS[bar % 4]):
            tone = _pad(_hz(note - 12), 4.4)[: count - round(start * RATE)]
            pan = (index - 2) * 0.4
            sides = np.sqrt(np.array([(1 - pan) / 2, (1 + pan) / 2]))
            out[round(start * RATE) :][: len(tone)] += tone[:, None] * sides * 0.05
        for step in (0.0, 0.9, 1.8, 2.7):
            bell = _bell(_hz(_CHORDS[bar % 4][int(step * 3) % 5] + 24), 0.6)
            first = round((start + step) * RATE)
            out[first:][: len(bell)] += bell[: max(count - first, 0), None] * 0.035
    edge = np.clip(np.arange(count) / (1.2 * RATE), 0, 1) * np.clip((count - np.arange(count)) / (2.0 * RATE), 0, 1)
    return np.asarray(out * edge[:, None], np.float32)


def _played(noise: np.random.Generator) -> dict[str, NDArray[np.float64]]:
    """What each part of the song plays, shape (samples, 2)."""
    count = round((SECONDS + 1.2) * RATE)
    buses = {name: np.zeros((count, 2)) for name in ("Drums", "Bass", "Keys", "Lead")}

    def add(bus: str, part: Mono, at_s: float, pan: float = 0.0, gain: float = 1.0) -> None:
        first = round(at_s * RATE)
        part = part[: max(0, count - first)] * gain
        buses[bus][first : first + len(part), 0] += part * np.sqrt((1 - pan) / 2)
        buses[bus][first : first + len(part), 1] += part * np.sqrt((1 + pan) / 2)

    for bar in range(BARS):
        start = bar * 4 * BEAT
        chord, root = _CHORDS[bar % 4], _ROOTS[bar % 4]
        quiet = bar in _QUIET
        for index, note in enumerate(chord):
            length = 4 * BEAT if bar < BARS - 1 else 5.5 * BEAT
            add("Keys", _pad(_hz(note), length), start, (index - 2) * 0.35, 0.055 if quiet else 0.075)
        if bar in _FULL:
            for beat in range(4):
                add("Drums", _kick(), start + beat * BEAT, 0, 0.95)
                add("Drums", _hat(noise, 0.05), start + (beat + 0.5) * BEAT, 0.3, 0.2)
                add("Drums", _hat(noise, 0.025), start + (beat + 0.25) * BEAT, -0.4, 0.07)
                add("Drums", _hat(noise, 0.025), start + (beat + 0.75) * BEAT, -0.4, 0.09)
            for beat in (1, 3):
                add("Drums", _snare(noise), start + beat * BEAT, 0.05, 0.34)
            for when in (0.0, 0.75, 1.5, 2.5, 3.25):
                add("Bass", _bass(_hz(root), 0.62 * BEAT), start + when * BEAT, 0, 0.5)
        if bar >= 13 and bar < 19:
            for step in range(16):
                note = chord[(step * 3) % 5] + 24
                add("Keys", _bell(_hz(note), 0.35), start + step * BEAT / 4, 0.7 * (-1) ** step, 0.05)
    for first_bar in (2, 6, 10, 13, 17):
        for when, note in _MELODY:
            if first_bar + when / 4 < 19 and (first_bar != 10 or when < 12):
                level = 0.13 if first_bar == 10 else 0.2
                add("Lead", _lead(_hz(note), 0.9 * BEAT), first_bar * 4 * BEAT + when * BEAT, 0.12, level)
    return buses


def _hz(semitones: float) -> float:
    return 220.0 * 2 ** (semitones / 12)


def _time(seconds: float) -> Mono:
    return np.arange(round(seconds * RATE)) / RATE


def _harmonics(hz: float, time: Mono, levels: Iterable[float], spread: float = 0.0) -> Mono:
    out = np.zeros_like(time)
    for number, level in enumerate(levels, start=1):
        if hz * number < 15_000:
            out += level * np.sin(2 * np.pi * hz * number * (1 + spread * number) * time + number * 1.7)
    return out


def _kick() -> Mono:
    time = _time(0.38)
    phase = 48 * time + 4.2 * (1 - np.exp(-time * 34))
    click = np.exp(-time * 900) * 0.35
    return np.sin(2 * np.pi * phase) * np.exp(-time * 9) + click * np.sin(2 * np.pi * 2300 * time)


def _snare(noise: np.random.Generator) -> Mono:
    time = _time(0.22)
    body = np.sin(2 * np.pi * 188 * time) * np.exp(-time * 26)
    return body * 0.7 + noise.standard_normal(len(time)) * np.exp(-time * 22) * 0.55


def _hat(noise: np.random.Generator, decay: float) -> Mono:
    time = _time(decay * 6)
    above = scipy.signal.butter(4, 6500, "high", fs=RATE, output="sos")
    high = scipy.signal.sosfilt(above, noise.standard_normal(len(time)))
    return np.asarray(high * np.exp(-time / decay))


def _bass(hz: float, seconds: float) -> Mono:
    time = _time(seconds)
    tone = _harmonics(hz, time, (1.0, 0.45, 0.2, 0.1, 0.05))
    return tone * _gate(time, seconds, 0.006, 0.05) * np.exp(-time * 2.2)


def _pad(hz: float, seconds: float) -> Mono:
    time = _time(seconds)
    slow = 1 + 0.12 * np.sin(2 * np.pi * 0.31 * time)
    tone = _harmonics(hz, time, (1.0, 0.4, 0.28, 0.12, 0.09, 0.05))
    tone += _harmonics(hz * 1.004, time, (0.7, 0.3, 0.2, 0.1))
    return tone * slow * _gate(time, seconds, 0.12, 0.3)


def _lead(hz: float, seconds: float) -> Mono:
    time = _time(seconds + 0.25)
    bend = hz * (1 + 0.004 * np.sin(2 * np.pi * 5.3 * time) * np.clip(time * 4, 0, 1))
    phase = 2 * np.pi * np.cumsum(bend) / RATE
    tone = np.sin(phase) + 0.35 * np.sin(2 * phase) + 0.16 * np.sin(3 * phase) + 0.08 * np.sin(5 * phase)
    return tone * _gate(time, seconds + 0.25, 0.008, 0.25) * np.exp(-time * 1.6)


def _bell(hz: float, seconds: float) -> Mono:
    time = _time(seconds)
    return (np.sin(2 * np.pi * hz * time) + 0.5 * np.sin(2 * np.pi * hz * 2.76 * time)) * np.exp(-time * 11)


def _gate(time: Mono, seconds: float, attack: float, release: float) -> Mono:
    return np.clip(time / attack, 0, 1) * np.clip((seconds - time) / release, 0, 1)


def _master(mix: Mono, noise: np.random.Generator) -> NDArray[np.float32]:
    """A small room around it, a gentle ceiling, silence at both ends."""
    tail = _time(1.1)
    decay = np.exp(-tail * 5.5)[:, None]
    room = noise.standard_normal((len(tail), 2)) * decay
    room[: round(0.012 * RATE)] = 0
    wet = np.stack([scipy.signal.fftconvolve(mix[:, c], room[:, c])[: len(mix)] for c in (0, 1)], axis=1)
    mix = mix + wet * (0.16 / np.sqrt((room**2).sum() / 2))
    mix = np.tanh(mix * 1.05)
    fade = np.clip((len(mix) - np.arange(len(mix))) / (0.8 * RATE), 0, 1)[:, None]
    mix = mix * fade
    lead_in = np.zeros((round(0.15 * RATE), 2))
    out = np.concatenate([lead_in, mix * (0.89 / np.abs(mix).max())])
    return out.astype(np.float32)
