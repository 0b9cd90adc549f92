"""A curve by fewer points: within its tolerance, whatever the curve."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from velvetdrum.signals.polyline import simplified


def off(times, values, chosen):
    return np.abs(np.interp(times, times[chosen], values[chosen]) - values).max()


@given(st.lists(st.floats(-100, 100), min_size=2, max_size=200), st.floats(0.001, 20))
def test_it_stays_within_the_tolerance_and_keeps_its_ends(values, tolerance):
    values = np.array(values)
    times = np.arange(len(values)) / 30
    chosen = simplified(times, values, tolerance, 10_000)
    assert off(times, values, chosen) <= tolerance + 1e-9
    assert chosen[0] == 0 and chosen[-1] == len(values) - 1
    assert np.all(np.diff(chosen) > 0)


def test_straight_pieces_are_found_exactly():
    times = np.linspace(0, 8, 241)
    values = np.interp(times, [0, 2, 3, 8], [0, 10, -5, 1])
    assert times[simplified(times, values, 1e-6, 1000)] == pytest.approx([0, 2, 3, 8])


def test_no_more_points_than_asked_for_and_those_that_matter_most():
    times = np.linspace(0, 10, 1001)
    values = np.sin(times) + 0.05 * np.sin(40 * times)
    chosen = simplified(times, values, 0.0, 12)
    assert len(chosen) == 12
    assert off(times, values, chosen) < 0.3


@pytest.mark.parametrize("count", [0, 1, 2])
def test_few_points_stay_as_they_are(count):
    assert simplified(np.arange(count) / 2, np.zeros(count), 0.1, 100).tolist() == list(range(count))
