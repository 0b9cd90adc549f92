"""The waveform for drawing: triggers that hold a tone still, exact values between samples, true peaks."""

import numpy as np
import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from tests.conftest import RATE, sine, song
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.waves import MARGIN, at_places, columns, rising_crossing, samples, sounding, stereo, thinned


@pytest.mark.parametrize(("hz", "most"), [(100, 1e-4), (1000, 1e-4), (7000, 2e-3), (15_000, 0.01)])
def test_between_samples_the_wave_is_the_sine_that_was_sampled(hz, most):
    wave = np.sin(2 * np.pi * hz * np.arange(2000) / RATE).astype(np.float32)
    places = np.random.default_rng(1).uniform(MARGIN, 2000 - MARGIN - 1, 400)
    assert np.abs(at_places(wave, places) - np.sin(2 * np.pi * hz * places / RATE)).max() < most


def period(harmonics):
    """One period of a tone with harmonics, in 8,192 samples."""
    phase = 2 * np.pi * np.arange(8192) / 8192
    return np.sin(phase) + sum(0.4 * level * np.sin((n + 2) * phase + n) for n, level in enumerate(harmonics))


def valleys(wave):
    """How deep the valleys of a period are, the deepest first: the areas below zero of its stretches."""
    # From where a stretch above zero begins, so that none is cut.
    begin = int(np.flatnonzero((wave < 0) & (np.roll(wave, -1) >= 0))[0]) + 1
    wave = np.roll(wave, -begin)
    below = np.concatenate([[0.0], np.cumsum(np.minimum(wave, 0.0))])
    edges = np.flatnonzero(np.diff(np.concatenate([[False], wave < 0, [False]]).astype(int)))
    return sorted((below[a] - below[b] for a, b in zip(edges[::2], edges[1::2], strict=True)), reverse=True)


def least_turn(wave):
    """How near to zero the wave turns back at the least."""
    slope = np.diff(wave, append=wave[:1])
    return np.abs(wave[(slope > 0) != (np.roll(slope, 1) > 0)]).min()


@settings(max_examples=40)
@given(st.floats(45, 2000), st.lists(st.floats(-1, 1), min_size=3, max_size=3), st.integers(0, 10**6))
@example(784.0, [-0.5, -0.8, -0.4], 0)
def test_a_steady_tone_with_any_harmonics_is_caught_in_one_phase(hz, harmonics, start):
    deepest, *others = valleys(period(harmonics))
    # Of two valleys that are as deep as each other either may be caught, and samples may miss a touch of zero.
    assume(not others or others[0] < 0.95 * deepest)
    assume(least_turn(period(harmonics)) > 0.12)

    def caught(first):
        phase = 2 * np.pi * hz * (first + np.arange(2600)) / RATE
        wave = np.sin(phase) + sum(0.4 * level * np.sin((n + 2) * phase + n) for n, level in enumerate(harmonics))
        found = rising_crossing((wave * 0.3).astype(np.float32), 1200)
        return (first + found) * hz / RATE % 1.0

    phases = np.array([caught(start + step * 800) for step in range(6)])
    # On the circle of phases, a thousandth of a period at the most.
    spread = np.abs(np.angle(np.exp(2j * np.pi * (phases - phases[0])))) / (2 * np.pi)
    assert spread.max() < 2e-3


def test_silence_and_one_sided_waves_have_a_beginning_too():
    assert rising_crossing(np.zeros(100, np.float32), 60) == 60
    assert rising_crossing(np.full(100, 0.4, np.float32), 60) == 60


def test_columns_keep_every_peak_and_the_mean_power(analysed):
    rng = np.random.default_rng(3)
    sound = np.clip(rng.standard_normal((3 * RATE, 2)) * 0.05, -1, 1)
    sound[50_001, 1] = 0.9
    use = AudioRange(analysed(sound), 0.0, 3.0)
    stored = np.abs(np.rint(sound * 32767) / 32767)
    for count in (7, 60, 333, 2000):
        found = columns(use, "mix", 0.0, 3 * RATE / count, count)
        assert found[:, 0].max() == pytest.approx(0.9, abs=1e-4)
        assert found[:, 0].argmax() == 50_001 * count // (3 * RATE)
        if 3 * RATE % count == 0:
            parts = stored.reshape(count, -1)
            near = np.abs(found[:, 0] - parts.max(axis=1)) < 0.02
            assert near.mean() > 0.9
            assert np.allclose(found[:, 1], np.sqrt((parts**2).mean(axis=1)), rtol=0.1, atol=2e-3)
    # The shape is the same at any width: fewer columns are the highest of more.
    fine, coarse = (columns(use, "mix", 0.0, 3 * RATE / count, count)[:, 0] for count in (1920, 60))
    assert np.allclose(fine.reshape(60, -1).max(axis=1), coarse, atol=0.03)


def test_columns_of_a_channel_and_beyond_the_used_stretch(analysed):
    left, right = sine(300, 2.0, -6.0), sine(300, 2.0, -20.0)
    use = AudioRange(analysed(np.stack([left, right], axis=1)), 0.5, 1.5)
    for channel, peak in (("left", 0.501), ("right", 0.1), ("mix", 0.501)):
        found = columns(use, channel, 0.0, RATE / 10, 20)
        assert found[5:15, 0] == pytest.approx(np.full(10, peak), abs=2e-3)
        assert not found[:5].any() and not found[15:].any()


def test_samples_are_those_of_the_recording_and_silent_outside(analysed):
    sound = song(1.0)
    use = AudioRange(analysed(sound), 0.25, 0.75)
    pair = stereo(use, 11_000, 2000)
    assert not pair[:1000].any()
    assert np.allclose(pair[1000:], sound[12_000:13_000], atol=1e-4)
    assert np.allclose(samples(use, "side", 12_000, 50), (pair[1000:1050, 0] - pair[1000:1050, 1]) / 2, atol=1e-6)


def test_a_thinned_wave_has_every_extreme_in_its_order():
    wave = np.random.default_rng(5).standard_normal(4800).astype(np.float32)
    places, values = thinned(wave, 48)
    assert len(places) == 96 and (np.diff(places) > 0).all()
    pairs = np.sort(values.reshape(48, 2), axis=1)
    assert np.allclose(pairs, np.stack([wave.reshape(48, 100).min(axis=1), wave.reshape(48, 100).max(axis=1)], axis=1))


def test_the_sounding_stretch_is_that_of_the_project(analysed):
    sound = np.concatenate([np.zeros(RATE), sine(400, 1.0, -12.0), np.zeros(RATE)])
    recording = analysed(sound)
    assert sounding(AudioRange(recording, 0.5, 3.0)) == pytest.approx((0.5, 1.5), abs=0.02)
    assert sounding(AudioRange(recording, 0.0, 0.5)) == (0.0, 0.5)
