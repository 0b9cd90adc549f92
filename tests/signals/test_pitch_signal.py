"""The pitch signal: a glide of an octave is a straight line, and pauses hold or fall."""

import numpy as np
import pytest

from tests.conftest import RATE
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatSettings
from velvetdrum.signals.signal_set import NamedSignal, SignalSet
from velvetdrum.signals.sources.pitch import Pitch


@pytest.fixture
def use(analysed):
    times = np.arange(RATE * 4) / RATE
    hz = 150 * 2 ** np.clip((times - 0.5) / 2, 0, 1)
    tone = sum(np.sin(2 * np.pi * n * np.cumsum(hz) / RATE) / n for n in range(1, 6)) * 0.2
    return AudioRange(analysed(np.where(times < 3.0, tone, 0.0)), 0.0, 4.0)


def curve(use, times, **settings):
    named = NamedSignal(
        "p", "Pitch", "#ffffff", Pitch(Pitch.defaults() | {"low_hz": 150.0, "high_hz": 300.0} | settings)
    )
    return SignalSet((named,), BeatSettings({}), use, 4.0).values("p", np.array(times))


def test_an_octave_is_gone_through_evenly(use):
    times = np.array([0.3, 1.0, 1.5, 2.0, 2.8])
    assert curve(use, times, glide_ms=0.0) == pytest.approx(np.clip((times - 0.5) / 2, 0, 1), abs=20 / 1200)


def test_pauses_hold_the_last_pitch_or_stand_at_0(use):
    assert curve(use, [3.8])[0] == pytest.approx(1.0, abs=0.03)
    assert curve(use, [3.8], pauses="zero")[0] == 0.0


def test_a_glide_evens_it_and_nothing_is_nothing(use):
    assert curve(use, [3.0], pauses="zero", glide_ms=400.0)[0] == pytest.approx(0.5, abs=0.1)
    assert not curve(None, [1.0]).any()


def test_a_range_that_is_none_is_refused():
    assert "above the lowest" in Pitch.check(Pitch.defaults() | {"low_hz": 500.0, "high_hz": 200.0})[0][1]
