"""Signals made of others: totals, steps, envelopes, gates, echoes and comparisons, held against closed forms."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from velvetdrum.signals.grid import BeatGrid, BeatSettings
from velvetdrum.signals.kinds import SIGNAL_KINDS, SOLVED_RATE, SignalContext
from velvetdrum.signals.triggers import gates

LENGTH_S = 20.0
STEADY, RAMP, STROKES, SINE = "steady", "ramp", "strokes", "sine"
CURVES = {
    STEADY: lambda at: np.full(len(at), 0.5),
    RAMP: lambda at: at / LENGTH_S,
    # Up for 0.25 s at every whole second from 1 s on, with edges of 10 ms.
    STROKES: lambda at: np.clip((0.13 - np.abs(at - np.rint(at) - 0.125)) / 0.01, 0, 1) * (at > 0.5),
    SINE: lambda at: 0.5 + 0.5 * np.sin(2 * np.pi * at),
}


def context(markers=(), tempo=None):
    grid = tempo and BeatGrid.of(BeatSettings(BeatSettings.defaults() | {"source": "typed", "tempo_bpm": tempo}), None)
    return SignalContext(None, grid, LENGTH_S, lambda ident, at: CURVES[ident](np.asarray(at)), tuple(markers))


def signal(kind, **values):
    cls = SIGNAL_KINDS[kind]
    made, problems = cls.checked(values)
    assert made is not None, problems
    return made


def run(made, times, **around):
    return made.values(np.asarray(times, float), context(**around))


def test_a_total_is_the_integral_of_its_signal():
    times = np.array([0.0, 3.0, 10.0, 19.0])
    assert run(signal("total", of=[STEADY], full_s=5, at_full="free"), times) == pytest.approx(times * 0.5 / 5)
    ramp = run(signal("total", of=[RAMP], full_s=4, at_full="free"), times)
    assert ramp == pytest.approx(times**2 / (2 * LENGTH_S * 4), abs=1e-9)
    turn = run(signal("total", of=[SINE], full_s=1, at_full="free"), times)
    assert turn == pytest.approx(times / 2 + (1 - np.cos(2 * np.pi * times)) / (4 * np.pi), abs=1e-4)


def test_a_total_stays_or_begins_again_when_it_is_full():
    times = [1.0, 4.9, 5.1, 12.0]
    free = run(signal("total", of=[STEADY], full_s=2.5, at_full="free"), times)
    assert run(signal("total", of=[STEADY], full_s=2.5), times) == pytest.approx(free % 1)
    assert run(signal("total", of=[STEADY], full_s=2.5, at_full="held"), times) == pytest.approx(np.minimum(free, 1))


@pytest.mark.parametrize(
    ("settings", "around", "begins"),
    [
        ({"reset": "markers"}, {"markers": (2.0, 7.5)}, [0, 0, 2.0, 7.5]),
        ({"reset": "hits", "of": [STEADY, STROKES]}, {}, [0, 1, 2, 8]),
        ({"reset": "bars", "every": 1}, {"tempo": 120}, [0, 0, 2, 8]),
        ({"reset": "never"}, {}, [0, 0, 0, 0]),
    ],
)
def test_a_total_begins_anew_on_markers_hits_and_bars(settings, around, begins):
    times = np.array([0.4, 1.5, 2.5, 8.9])
    made = signal("total", **({"of": [STEADY], "full_s": 10, "at_full": "free"} | settings))
    assert run(made, times, **around) == pytest.approx((times - begins) * 0.05, abs=2e-3)


def test_steps_follow_each_hit_in_their_order():
    times = np.array([0.5, 1.5, 2.5, 3.5, 4.5, 5.5, 6.5])
    assert run(signal("stepper", of=[STROKES], steps=3), times) == pytest.approx([0, 0.5, 1, 0, 0.5, 1, 0])
    assert run(signal("stepper", of=[STROKES], steps=3, order_of="swing"), times) == pytest.approx(
        [0, 0.5, 1, 0.5, 0, 0.5, 1]
    )
    listed = signal("stepper", of=[STROKES], order_of="list", listed="0.2, 0.9")
    assert run(listed, times) == pytest.approx([0.2, 0.9, 0.2, 0.9, 0.2, 0.9, 0.2])
    chance = run(signal("stepper", of=[STROKES], order_of="chance", seed=4), times)
    assert len(set(chance)) == len(times) and chance.min() >= 0 and chance.max() <= 1
    assert np.array_equal(chance, run(signal("stepper", of=[STROKES], order_of="chance", seed=4), times))
    assert not np.array_equal(chance, run(signal("stepper", of=[STROKES], order_of="chance", seed=5), times))
    glide = run(signal("stepper", of=[STROKES], steps=2, glide_ms=400), [1.195, 1.5, 2.195])
    assert glide == pytest.approx([0.5, 1, 0.5], abs=0.05)


def test_an_envelope_has_its_stages_where_they_belong():
    """Strokes are up from 1.00 to 1.25 s; attack ends at 1.10, decay at 1.20, the release begins at 1.25."""
    made = signal("envelope", of=[STROKES], attack_ms=100, hold_ms=0, decay_ms=100, sustain=40, release_ms=200, bend=0)
    on = float(np.interp(0.5, [0, 1], [0.995, 1.005]))  # half of an edge of 10 ms about the whole second
    times = on + np.array([-0.01, 0.05, 0.1, 0.15, 0.2, 0.24, 0.36, 0.6])
    assert run(made, times) == pytest.approx([0, 0.5, 1, 0.7, 0.4, 0.4, 0.2, 0], abs=0.03)


def test_an_envelope_that_is_hit_again_rises_from_where_it_is():
    made = signal("envelope", of=[STROKES], attack_ms=300, decay_ms=3000, sustain=0, release_ms=9000, bend=0)
    values = run(made, np.arange(0, LENGTH_S, 1 / 480))
    assert np.abs(np.diff(values)).max() < 1 / (0.3 * 480) * 1.1, "no jump anywhere"
    bent = run(signal("envelope", of=[STROKES], attack_ms=300, decay_ms=300, bend=80), np.arange(0, LENGTH_S, 1 / 480))
    assert bent.max() == pytest.approx(1, abs=0.02) and bent.min() == 0


def test_a_gate_has_hysteresis_and_a_least_time():
    times = np.arange(0, 4, 0.001)
    plain = run(signal("gate", of=[SINE], on=75, off=25, least_ms=0), times)
    # 0.5 + 0.5 sin is over 0.75 from 1/12 of a turn on, and under 0.25 from 7/12 on.
    share = (times - 1 / 12) % 1
    assert np.mean(plain == ((share < 0.5) & (times > 1 / 12))) > 0.996
    long = run(signal("gate", of=[STROKES], on=50, off=50, least_ms=600), times)
    ups = np.flatnonzero(np.diff(long) > 0)
    downs = np.flatnonzero(np.diff(long) < 0)
    assert np.all(times[downs[: len(ups)]] - times[ups[: len(downs)]] >= 0.599)
    faded = run(signal("gate", of=[STROKES], on=50, off=50, least_ms=0, rise_ms=100, fall_ms=500), times)
    assert np.abs(np.diff(faded)).max() <= 0.011
    assert run(signal("gate", of=[STEADY], on=40, off=30, invert=True), [3.0]).tolist() == [0]


def test_an_echo_is_its_signal_later_and_weaker():
    times = np.array([0.1, 3.0, 8.25])
    late = run(signal("echo", of=[RAMP], delay=2), times)
    assert late == pytest.approx([0, 1 / LENGTH_S, 6.25 / LENGTH_S])
    summed = run(signal("echo", of=[RAMP], delay=1, repeats=2, feedback=50, dry=True, join="sum"), [8.0])
    assert summed == pytest.approx([(8 + 7 * 0.5 + 6 * 0.25) / LENGTH_S])
    beats = run(signal("echo", of=[RAMP], delay=2, unit="beats"), [8.0], tempo=120)
    assert beats == pytest.approx([7 / LENGTH_S])


def test_two_signals_are_compared():
    times = [5.0, 10.0, 15.0]
    assert run(signal("comparison", of=[RAMP, STEADY], softness=0), times).tolist() == [0, 0.5, 1]
    assert run(signal("comparison", of=[RAMP, STEADY], how="difference"), times) == pytest.approx([0.375, 0.5, 0.625])
    assert run(signal("comparison", of=[RAMP, STEADY], how="share"), times) == pytest.approx([1 / 3, 0.5, 0.6])
    assert run(signal("comparison", of=[RAMP]), times).tolist() == [0, 0, 0]


DERIVED = ["total", "stepper", "envelope", "gate", "echo", "comparison"]


@pytest.mark.parametrize("kind", DERIVED)
def test_each_is_the_same_in_any_order_and_rests_without_a_signal(kind):
    made = signal(kind, of=[STROKES] if kind != "comparison" else [STROKES, SINE])
    times = np.linspace(0, LENGTH_S, 101)
    forth = run(made, times)
    apart = np.array([run(made, [time])[0] for time in times[::-1]])[::-1]
    assert np.array_equal(forth, apart)
    assert not run(signal(kind), times).any()


@pytest.mark.parametrize(
    ("kind", "values", "name"),
    [
        ("stepper", {"order_of": "list", "listed": "0, high"}, "listed"),
        ("stepper", {"order_of": "list", "listed": ""}, "listed"),
        ("stepper", {"order_of": "list", "listed": "nan"}, "listed"),
        ("gate", {"on": 20, "off": 30}, "off"),
        ("echo", {"of": ["a", "b"]}, "of"),
    ],
)
def test_what_cannot_be_is_refused_beside_its_setting(kind, values, name):
    made, problems = SIGNAL_KINDS[kind].checked(values)
    assert made is None and [place for place, _ in problems] == [name]


@given(st.lists(st.floats(0, 1), min_size=2, max_size=60), st.floats(0, 0.1), st.floats(0.3, 0.6))
def test_gates_alternate_and_keep_their_least_time(values, least, on):
    result = gates(np.repeat(values, 4).astype(float), on, on * 0.8, least)
    edges = np.stack([result.ons, result.offs], axis=1).reshape(-1)
    assert np.all(np.diff(edges[np.isfinite(edges)]) >= least - 1e-9)
    assert np.all(np.isfinite(result.offs[:-1]))
    assert np.all(result.ons <= len(values) * 4 / SOLVED_RATE)
