"""Attack and release against their definition, and bars against the sound they read."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import RATE, sine, song
from velvetdrum.signals import bars as bars_module
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import BarSettings, bar_heights, fit_range, tilted_levels
from velvetdrum.signals.envelope import CHUNK, chunk_of, coefficient, follow

PLAIN = BarSettings(32, 40.0, 12_000.0, "log", "mix", -60.0, -10.0, 0.0, 10.0, 150.0)


@pytest.mark.parametrize("time_ms", [60.0, 200.0, 900.0])
def test_attack_and_release_are_the_time_to_63_per_cent(time_ms):
    step = np.concatenate([np.ones(600), np.zeros(600)])[:, None].astype(np.float32)
    rise = follow(step, time_ms, 0.0)[:, 0]
    fall = follow(step, 0.0, time_ms)[600:, 0]
    share = 1 - np.exp(-1)
    # Reading n of a step that begins at reading 0 has seen n + 1 intervals of it.
    for curve in (rise[:600], 1 - fall):
        reached = np.interp(share, curve, np.arange(1, len(curve) + 1)) / 60 * 1000
        assert reached == pytest.approx(time_ms, rel=0.05)


@settings(max_examples=30, deadline=None)
@given(st.floats(0, 800), st.floats(0, 800), st.integers(0, 2**32))
def test_the_follower_is_the_textbook_recursion(attack, release, seed):
    values = np.random.default_rng(seed).random((50, 3)).astype(np.float32)
    expected, state = [], np.zeros(3)
    for row in values:
        step = np.where(row > state, coefficient(attack), coefficient(release))
        state = state + step * (row - state)
        expected.append(state)
    assert np.abs(follow(values, attack, release) - np.array(expected)).max() < 1e-5


def test_chunks_meet_as_if_they_were_one():
    values = np.random.default_rng(9).random((4 * CHUNK, 4)).astype(np.float32)

    def read(start: int, stop: int) -> np.ndarray:
        padded = np.zeros((stop - start, 4), np.float32)
        low, high = max(start, 0), min(stop, len(values))
        padded[low - start : high - start] = values[low:high]
        return padded

    whole = follow(values, 20.0, 700.0)
    parts = np.concatenate([chunk_of(read, n, 20.0, 700.0) for n in range(4)])
    assert np.abs(parts - whole).max() < 2e-6


def test_a_bar_stands_as_high_as_its_level_says(analysed):
    tone = float(PLAIN.bands.centres_hz[18])
    recording = analysed(sine(tone, 3.0, -35.0))
    heights = bar_heights(AudioRange(recording, 0.0, 3.0), PLAIN, Fraction(2))
    assert heights.max() == pytest.approx(0.5, abs=0.015)
    assert heights.argmax() == 18


def test_silence_is_flat_and_full_scale_does_not_pass_the_top(analysed):
    recording = analysed(np.concatenate([sine(100, 1.0), np.zeros(2 * RATE)]))
    use = AudioRange(recording, 0.0, 3.0)
    assert bar_heights(use, PLAIN, Fraction(1, 2)).max() == 1.0
    assert bar_heights(use, replace(PLAIN, tilt_db=12.0), Fraction(29, 10)).max() < 1e-3


def test_nothing_moves_before_its_sound_and_the_bass_is_there_in_time(analysed):
    burst = np.concatenate([np.zeros(RATE), sine(50, 1.5, -6.0)])
    use = AudioRange(analysed(burst), 0.0, 2.5)
    settings_ = replace(PLAIN, quiet_db=-54.0, loud_db=-6.0, attack_ms=12.0)
    for early in (Fraction(29, 30) - Fraction(1, 1000), Fraction(1, 2)):
        assert bar_heights(use, settings_, early).max() <= 0.05
    bass = int(np.argmin(np.abs(settings_.bands.centres_hz - 50)))
    final = bar_heights(use, settings_, Fraction(2))[bass]
    assert bar_heights(use, settings_, 1 + Fraction(2, 30))[bass] >= final / 2


def test_times_between_readings_lie_between_them(analysed):
    use = AudioRange(analysed(song(2.0)), 0.0, 2.0)
    low, high = bar_heights(use, PLAIN, Fraction(60, 60)), bar_heights(use, PLAIN, Fraction(61, 60))
    between = bar_heights(use, PLAIN, Fraction(121, 120))
    assert np.allclose(between, (low + high) / 2, atol=1e-6)


def test_any_order_gives_the_same_heights(analysed):
    use = AudioRange(analysed(song(20.0)), 0.0, 20.0)
    times = [Fraction(n * 1001, 30_000) for n in (0, 500, 30, 299, 300, 11)]
    bars_module._chunks.clear()
    forward = {time: bar_heights(use, PLAIN, time).tobytes() for time in times}
    bars_module._chunks.clear()
    backward = {time: bar_heights(use, PLAIN, time).tobytes() for time in reversed(times)}
    assert forward == backward


def test_outside_the_used_part_there_is_silence(analysed):
    use = AudioRange(analysed(sine(300, 3.0, -10)), 0.5, 1.5)
    assert bar_heights(use, PLAIN, Fraction(1, 2)).max() > 0.9
    assert bar_heights(use, PLAIN, Fraction(5, 2)).max() < 0.01


@pytest.mark.parametrize("gain", [1.0, 0.03])
def test_the_fitted_range_fills_the_height_without_sticking(analysed, gain):
    recording = analysed(song(8.0) * gain)
    use = AudioRange(recording, 0.0, 8.0)
    tilted = replace(PLAIN, tilt_db=3.0)
    quiet, loud = fit_range(use, tilted)
    assert 28 <= loud - quiet <= 42
    fitted = replace(tilted, quiet_db=quiet, loud_db=loud)
    heights = np.stack([bar_heights(use, fitted, Fraction(n, 30)) for n in range(30, 230)])
    assert heights.max() > 0.9
    assert (heights >= 1.0).mean() < 0.02
    levels = tilted_levels(use, tilted, 0, 480)
    assert (levels.max(axis=1) > loud).mean() < 0.03
