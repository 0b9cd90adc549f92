"""Loudness and true peak against the signals of EBU Tech 3341 and 3342, and against pyloudnorm."""

import numpy as np
import pyloudnorm
import pytest

from tests.conftest import RATE, sine, song
from velvetdrum.audio.loudness import (
    LoudnessMeter,
    TruePeakMeter,
    integrated_lufs,
    loudness_range_lu,
    sliding,
    to_decibel,
    to_lufs,
)

STEREO = ("FL", "FR")


def tones(*parts: tuple[float, float], names=STEREO) -> np.ndarray:
    """1 kHz tones of (level in dBFS, seconds) one after the other, in every channel."""
    line = np.concatenate([sine(1000, seconds, level) for level, seconds in parts])
    return np.stack([line] * len(names)).astype(np.float32)


def energies(samples: np.ndarray, names=STEREO, block: int = 33_333) -> np.ndarray:
    meter = LoudnessMeter(names)
    for start in range(0, samples.shape[1], block):
        meter.feed(samples[:, start : start + block])
    return meter.energies


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ([(-23, 20)], -23.0),
        ([(-33, 20)], -33.0),
        ([(-36, 10), (-23, 60), (-36, 10)], -23.0),
        ([(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23.0),
        ([(-26, 20), (-20, 20.1), (-26, 20)], -23.0),
    ],
)
def test_integrated_loudness_of_the_prescribed_signals(parts, expected):
    assert integrated_lufs(energies(tones(*parts))) == pytest.approx(expected, abs=0.1)


def test_integrated_loudness_of_five_channels():
    names = ("FL", "FR", "FC", "LFE", "SL", "SR")
    levels = (-28, -28, -24, -10, -30, -30)
    samples = np.stack([sine(1000, 20, level) for level in levels]).astype(np.float32)
    assert integrated_lufs(energies(samples, names)) == pytest.approx(-23.0, abs=0.1)


def test_momentary_and_short_term_of_a_steady_tone():
    found = energies(tones((-23, 20)))
    for seconds in (0.4, 3.0):
        assert np.abs(to_lufs(sliding(found, seconds))[5:] + 23.0).max() <= 0.1


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ([(-20, 20), (-30, 20)], 10),
        ([(-20, 20), (-15, 20)], 5),
        ([(-40, 20), (-20, 20)], 20),
        ([(-50, 20), (-35, 20), (-20, 20), (-35, 20), (-50, 20)], 15),
    ],
)
def test_loudness_range_of_the_prescribed_signals(parts, expected):
    assert loudness_range_lu(energies(tones(*parts))) == pytest.approx(expected, abs=1.0)


def test_loudness_of_music_agrees_with_another_implementation():
    samples = song(12.0) * 0.7
    ours = integrated_lufs(energies(samples.T.astype(np.float32)))
    theirs = pyloudnorm.Meter(RATE).integrated_loudness(samples)
    assert ours == pytest.approx(theirs, abs=0.1)


def test_silence_has_no_loudness():
    assert integrated_lufs(energies(np.zeros((2, RATE), np.float32))) is None


@pytest.mark.parametrize(
    ("phase", "amplitude", "expected"), [(0, 0.5, -6), (45, 0.5, -6), (60, 0.5, -6), (67.5, 0.5, -6), (45, 1.41, 3)]
)
@pytest.mark.parametrize("block", [700, 48_000])
def test_true_peak_between_the_samples(phase, amplitude, expected, block):
    time = np.arange(RATE) / RATE
    line = amplitude * np.sin(2 * np.pi * RATE / 4 * time + np.radians(phase))
    fade = np.minimum(1, np.minimum(np.arange(RATE), np.arange(RATE)[::-1]) / 2000)
    meter = TruePeakMeter()
    samples = (line * fade)[None].astype(np.float32)
    for start in range(0, RATE, block):
        meter.feed(samples[:, start : start + block])
    assert -0.4 <= to_decibel(meter.true_peak) - expected <= 0.2


def test_true_peak_is_the_same_in_any_blocks():
    samples = song(2.0).T.astype(np.float32)
    results = []
    for block in (333, 4096, 96_000):
        meter = TruePeakMeter()
        for start in range(0, samples.shape[1], block):
            meter.feed(samples[:, start : start + block])
        results.append(meter.true_peak)
    assert results == pytest.approx([results[0]] * 3, rel=1e-6)
    assert results[0] >= np.abs(samples).max()
