"""Ways to cut the spectrum into bands, and what is done across and along them."""

from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import RATE, sine, song
from tests.signals.test_envelope import PLAIN
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import bar_heights, cap_heights, smoothing
from velvetdrum.signals.spectrum import BandSet, from_mel, iec_bands, nominal_hz, to_mel


def test_third_octave_bands_are_those_of_iec_61260():
    bands = iec_bands(20.0, 20_000.0, "third")
    names = [nominal_hz(centre) for centre, _, _ in bands]
    assert names[:6] == [25, 31.5, 40, 50, 63, 80] and names[-4:] == [10_000, 12_500, 16_000, 20_000]
    # Exact centres and edges of the base-ten system, IEC 61260-1:2014, annex E.
    centre, low, high = next(band for band in bands if nominal_hz(band[0]) == 125)
    assert (centre, low, high) == pytest.approx((125.893, 112.202, 141.254), abs=5e-3)
    assert all(a[2] == pytest.approx(b[1]) for a, b in pairwise(bands))


def test_octave_bands_are_those_of_iec_61260():
    bands = iec_bands(30.0, 17_000.0, "octave")
    assert [nominal_hz(centre) for centre, _, _ in bands] == [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16_000]
    assert bands[5] == pytest.approx((1000.0, 707.946, 1412.538), abs=5e-3)
    assert len(iec_bands(1100.0, 1200.0, "octave")) == 1


def test_mel_bands_are_evenly_wide_in_mel():
    assert to_mel(1000.0) == pytest.approx(999.99, abs=0.02)
    assert from_mel(np.array([to_mel(440.0)]))[0] == pytest.approx(440.0)
    edges = BandSet.spaced(50.0, 12_000.0, 20, "mel").edges
    assert np.allclose(np.diff([to_mel(low) for low, _ in edges]), to_mel(edges[1][0]) - to_mel(50.0))


@given(st.integers(4, 200), st.floats(0.1, 40), st.integers(0, 2**32 - 1))
def test_smoothing_across_bands_keeps_the_sum(count, width, seed):
    heights = np.random.default_rng(seed).random(count).astype(np.float32)
    smoothed = heights @ smoothing(count, width)
    assert smoothed.sum() == pytest.approx(heights.sum(), rel=1e-4)
    assert smoothed.max() <= heights.max() + 1e-5
    assert smoothed.min() >= heights.min() - 1e-5


def test_smoothing_is_as_wide_as_it_says():
    alone = np.zeros(81, np.float32)
    alone[40] = 1.0
    curve = alone @ smoothing(81, 10.0)
    assert (curve > curve.max() / 2).sum() == pytest.approx(10, abs=1)


def test_caps_are_the_largest_of_what_was_less_their_fall(analysed):
    use = AudioRange(analysed(song(6.0)), 0.0, 6.0)
    hold_ms, fall = 200.0, 0.5
    times = [Fraction(n, 60) for n in range(360)]
    bars = np.stack([bar_heights(use, PLAIN, time) for time in times])
    for index in (40, 151, 333):
        past = np.arange(index + 1)
        lost = fall / 60 * np.maximum(index - past - round(hold_ms * 0.06), 0)
        expected = (bars[: index + 1] - lost[:, None]).max(axis=0)
        assert cap_heights(use, PLAIN, hold_ms, fall, times[index]) == pytest.approx(np.maximum(expected, 0), abs=1e-5)


def test_the_average_over_time_is_the_mean_power_around_the_moment(analysed):
    use = AudioRange(analysed(np.concatenate([sine(1000, 2.0, -20.0), np.zeros(2 * RATE)])), 0.0, 4.0)
    settings = replace(PLAIN, attack_ms=0.0, release_ms=0.0, average_ms=1000.0, tilt_db=0.0)
    top = bar_heights(use, settings, Fraction(1)).max()
    edge = bar_heights(use, settings, Fraction(2)).max()
    # At the tone's end half of the stretch is silent: 3 dB of a range of 50.
    assert top - edge == pytest.approx(3.01 / 50, abs=0.004)
