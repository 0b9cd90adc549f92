"""Births against the integral of their rate."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from velvetdrum.signals.births import STEP_S, Emission, chances, rises


def grid(seconds, begin=0.0):
    return begin + np.arange(int(seconds / STEP_S) + 2) * STEP_S


def test_a_steady_rate_has_even_births():
    emission = Emission.of(1.0, np.full(len(grid(10)), 50.0))
    numbers, times, total = emission.between(0.0, 3.0, 10_000)
    assert total == 100 and numbers.tolist() == list(range(1, 101))
    assert np.allclose(times, 1.0 + numbers / 50)


def test_a_rising_rate_is_counted_by_its_integral():
    # The rate 40 t has the integral 20 t^2: birth n lies at the root of n / 20.
    emission = Emission.of(0.0, 40 * grid(10))
    numbers, times, total = emission.between(0.0, 5.0, 10_000)
    assert total == 500
    assert np.abs(times - np.sqrt(numbers / 20)).max() < 0.01


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.floats(0, 300), min_size=3, max_size=40),
    st.lists(st.floats(0, 6), min_size=2, max_size=8),
)
def test_stretches_together_have_all_births_and_none_twice(rates, cuts):
    rates = np.interp(grid(5), np.linspace(0, 5, len(rates)), rates)
    emission = Emission.of(0.0, rates)
    edges = sorted({0.0, 5.0, *cuts})
    parts = [emission.between(low, high, 100_000) for low, high in pairwise(edges)]
    whole = emission.between(0.0, edges[-1], 100_000)
    assert np.array_equal(np.concatenate([part[0] for part in parts]), whole[0])
    assert np.allclose(np.concatenate([part[1] for part in parts]), whole[1])
    assert whole[2] == int(np.floor(emission.count_at(edges[-1]) + 1e-9))
    assert np.all(np.diff(whole[1]) >= -1e-12)


def test_only_the_latest_are_given_where_there_are_too_many():
    emission = Emission.of(0.0, np.full(len(grid(10)), 1000.0))
    numbers, _, total = emission.between(0.0, 5.0, 30)
    assert total == 5000 and numbers.tolist() == list(range(4971, 5001))


def test_nothing_comes_of_nothing():
    emission = Emission.of(0.0, np.zeros(len(grid(2))))
    assert emission.between(0.0, 2.0, 10)[2] == 0
    assert emission.between(-5.0, -1.0, 10)[2] == 0


def test_a_rise_is_found_between_the_points_of_the_grid():
    times = grid(2)
    found = rises(0.0, 100 * np.sin(2 * np.pi * times) ** 2, 50.0)
    assert found == pytest.approx([0.125, 0.625, 1.125, 1.625], abs=1e-3)
    assert rises(0.0, np.full(10, 80.0), 50.0).tolist() == [0.0]


def test_chances_are_even_and_without_pattern():
    numbers = np.arange(200_000)
    one, other = chances(3, numbers, 0), chances(3, numbers, 1)
    counts = np.histogram(one, 20, (0, 1))[0]
    assert np.abs(counts - 10_000).max() < 450
    assert abs(np.corrcoef(one, other)[0, 1]) < 0.01 and abs(np.corrcoef(one[1:], one[:-1])[0, 1]) < 0.01
    assert chances(3, np.array([7]), 0)[0] == one[7]
