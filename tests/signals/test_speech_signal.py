"""A voice as a signal: by sentences, while it speaks, by its syllables."""

import numpy as np
import pytest

from tests.mix.conftest import said
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.signal_set import NamedSignal, SignalSet
from velvetdrum.signals.sources.speech import Speech


@pytest.fixture
def curve(analysed):
    voice = said([(1.0, 1.4, -12), (1.5, 2.0, -12), (3.0, 4.0, -24), (5.0, 5.5, -12)], 7.0)
    use = AudioRange(analysed(voice + 1e-5 * np.random.default_rng(1).standard_normal(len(voice))), 0.5, 7.0)

    def values(times, **settings):
        signal = NamedSignal("s", "Voice", "#ffffff", Speech(settings))
        return SignalSet((signal,), BeatSettings({}), use, 6.5).values("s", np.array(times, float) - 0.5)

    return values


def test_each_sentence_stands_at_its_loudness(curve):
    values = curve([0.6, 1.2, 1.45, 3.5, 5.2, 6.5], quiet_lufs=-50, loud_lufs=-10)
    assert values[0] == values[5] == 0
    assert values[1] == values[2] == pytest.approx(values[4], abs=0.03)
    assert values[1] - values[3] == pytest.approx(12 / 40, abs=0.03)


def test_it_rises_before_a_syllable_and_falls_after_the_last(curve):
    values = curve([0.85, 0.95, 1.2, 2.1, 2.3], gives="speaking", rise_ms=100, fall_ms=200)
    assert values[0] == 0 and 0 < values[1] < 1 and values[2] == 1 and 0 < values[3] < 1 and values[4] == 0


def test_syllables_pulse_and_decay(curve):
    times = np.arange(0.5, 7.0, 0.005)
    values = curve(times, gives="onsets", decay_ms=100)
    peaks = times[1:][(np.diff(values) > 0.5)]
    assert peaks == pytest.approx([1.0, 1.5, 3.0, 5.0], abs=0.02)
    assert curve([peaks[2] + 0.1], gives="onsets", decay_ms=100) == pytest.approx([np.exp(-1)], abs=0.06)


def test_equal_values_in_any_order_and_one_by_one(curve):
    times = np.linspace(0.5, 7.0, 90)
    whole = curve(times)
    assert np.array([curve([time])[0] for time in times[::7]]) == pytest.approx(whole[::7])


def test_loud_must_lie_above_quiet():
    assert Speech.check(Speech.defaults() | {"quiet_lufs": -10.0, "loud_lufs": -20.0})
