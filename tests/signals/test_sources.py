"""The signal kinds that need no sound, mixes, the beat grid, easing and tables."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from velvetdrum.declare.settings import EASINGS, SettingError
from velvetdrum.signals.easing import cubic_bezier, ease
from velvetdrum.signals.grid import BeatGrid, BeatSettings, tapped
from velvetdrum.signals.kinds import SIGNAL_KINDS, SignalContext
from velvetdrum.signals.signal_set import NamedSignal, SignalSet, loop_in
from velvetdrum.signals.tables import TableError, curves_csv, curves_json, points_from_csv

TYPED = BeatSettings({"source": "typed", "tempo_bpm": 120, "anchor_s": 0.5})


def signal(kind, **values):
    return SIGNAL_KINDS[kind](SIGNAL_KINDS[kind].defaults() | values)


def run(made, times, grid=None, length=10.0, others=None):
    around = SignalContext(None, grid, length, lambda ident, at: np.full(len(at), (others or {})[ident]))
    return made.values(np.asarray(times, float), around)


def test_a_clock_turns_on_the_beats():
    grid = BeatGrid.of(TYPED, None)
    pulse = signal("clock", decay_ms=100)
    assert run(pulse, [0.5, 1.0, 1.1, 1.499], grid) == pytest.approx([1, 1, np.exp(-1), np.exp(-4.99)], abs=1e-4)
    saw = signal("clock", every=1, unit="bars", shape="saw")
    assert run(saw, [0.0, 0.5, 1.5, 1.9999], grid) == pytest.approx([0, 0.25, 0.75, 1.0], abs=1e-3)
    late = signal("clock", shape="square", width=25, phase=50)
    assert run(late, [0.5, 0.76, 0.874, 0.876], grid).tolist() == [0, 1, 1, 0]
    assert run(pulse, [1.0, 2.0], None).tolist() == [0, 0]


@pytest.mark.parametrize("shape", ["pulse", "saw", "triangle", "sine", "square"])
def test_an_lfo_repeats_and_stays_between_0_and_1(shape):
    made = signal("lfo", rate_hz=2, shape=shape)
    times = np.linspace(0.003, 0.497, 200)
    first = run(made, times)
    assert np.allclose(first, run(made, times + 3.5), atol=1e-4)
    assert first.min() >= 0 and first.max() <= 1 and np.ptp(first) > 0.85


def test_wander_is_smooth_seeded_and_repeats():
    times = np.arange(0, 60, 0.002)
    made = run(signal("wander", rate_hz=1, roughness=0, seed=3), times)
    assert np.array_equal(made, run(signal("wander", rate_hz=1, roughness=0, seed=3), times))
    assert not np.allclose(made, run(signal("wander", rate_hz=1, roughness=0, seed=4), times))
    assert np.abs(np.diff(made)).max() < 0.006
    assert made.min() < 0.15 and made.max() > 0.85
    rough = run(signal("wander", rate_hz=1, roughness=80, seed=3), times)
    assert np.abs(np.diff(rough)).mean() > 2 * np.abs(np.diff(made)).mean()


def test_progress_over_a_stretch():
    made = signal("progress", over="stretch", from_s=2, to_s=6)
    assert run(made, [0, 2, 3, 6, 9]).tolist() == [0, 0, 0.25, 1, 1]
    assert SIGNAL_KINDS["progress"].problems({"over": "stretch", "from_s": 5, "to_s": 5})


def test_a_drawn_curve_goes_through_its_points():
    points = [
        {"time_s": 1, "value": 0.2, "ease": "linear"},
        {"time_s": 2, "value": 0.8, "ease": "hold"},
        {"time_s": 3, "value": 0.1, "ease": "ease-in"},
        {"time_s": 5, "value": 1.0},
    ]
    made = signal("drawn", curve=points)
    found = run(made, [0, 1, 1.5, 2, 2.9, 3, 5, 9])
    assert found == pytest.approx([0.2, 0.2, 0.5, 0.8, 0.8, 0.1, 1.0, 1.0], abs=1e-6)
    assert run(made, [4])[0] == pytest.approx(0.1 + 0.9 * ease("ease-in", np.array([0.5]))[0])
    with pytest.raises(SettingError, match="after the one before"):
        signal("drawn", curve=[points[1], points[0]])


@pytest.mark.parametrize(
    ("how", "expected"), [("sum", 1.0), ("product", 0.3), ("largest", 0.6), ("smallest", 0.5), ("difference", 0.1)]
)
def test_mixes(how, expected):
    made = signal("mix", of=["a", "b"], how=how)
    assert run(made, [1.0], others={"a": 0.6, "b": 0.5})[0] == pytest.approx(expected)


def test_a_mix_reads_other_signals_at_the_same_time():
    saw = NamedSignal("s", "Saw", "#ff7a66", signal("lfo", shape="saw", rate_hz=0.1))
    mix = NamedSignal("m", "Mix", "#e0ac55", signal("mix", of=["s", "s"], how="product"))
    both = SignalSet((saw, mix), BeatSettings({}), None, 10.0)
    assert both.value("m", 5.0) == pytest.approx(0.25, abs=1e-3)


def test_loops_are_found():
    assert loop_in({"a": ("b",), "b": ("c",), "c": ()}) is None
    assert loop_in({"a": ("b",), "b": ("c",), "c": ("a",)}) == ["a", "b", "c", "a"]
    assert loop_in({"a": ("a",)}) == ["a", "a"]


@given(st.floats(0, 1))
def test_easings_are_those_of_css(part):
    for name in EASINGS:
        assert ease(name, np.array([0.0, 1.0])).tolist() == [0.0, 1.0]
    # A Bezier whose handles lie on the diagonal is linear; ease-out is ease-in turned round.
    assert cubic_bezier(1 / 3, 1 / 3, 2 / 3, 2 / 3, np.array([part]))[0] == pytest.approx(part, abs=1e-6)
    turned = 1 - ease("ease-out", np.array([1 - part]))[0]
    assert ease("ease-in", np.array([part]))[0] == pytest.approx(turned, abs=1e-6)


def test_the_grid_counts_bars_and_goes_on_beyond_its_ends():
    grid = BeatGrid.of(TYPED, None)
    listed = grid.between(0.0, 3.0)
    assert [time for time, _ in listed] == pytest.approx([0.0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0])
    assert [first for _, first in listed] == [True, False, False, False, True, False, False]
    moved = BeatGrid.of(BeatSettings({"source": "typed", "tempo_bpm": 120, "anchor_s": 0.5, "first_bar_s": 1.1}), None)
    assert [time for time, first in moved.between(0, 3.2) if first] == pytest.approx([1.0, 3.0])
    beats = np.array([0.0, 3.3, 7.77])
    assert grid.beat_at(grid.time_of(beats)) == pytest.approx(beats)


@given(st.floats(60, 200), st.floats(0, 5), st.integers(0, 1000))
@settings(max_examples=40)
def test_taps_make_the_tempo(tempo, start, seed):
    jitter = np.random.default_rng(seed).uniform(-0.015, 0.015, 16)
    found = tapped((start + np.arange(16) * 60 / tempo + jitter).tolist())
    assert found["tempo_bpm"] == pytest.approx(tempo, rel=0.015)


def test_too_few_taps_are_refused():
    with pytest.raises(ValueError, match="at least four"):
        tapped([1.0, 1.5, 2.0])


def three():
    saw = NamedSignal("s", "Saw, slow", "#ff7a66", signal("lfo", shape="saw", rate_hz=0.1))
    return SignalSet((saw,), BeatSettings({}), None, 2.0)


def test_curves_go_out_at_the_frame_rate_and_come_back():
    text = curves_csv(three(), ["s"], Fraction(30000, 1001))
    lines = text.splitlines()
    assert lines[0] == 'time_s,"Saw, slow"'
    assert len(lines) == 1 + 60
    assert float(lines[2].split(",")[0]) == pytest.approx(1001 / 30000, abs=1e-6)
    points = points_from_csv(text)
    assert [point["value"] for point in points] == pytest.approx([float(line.split(",")[1]) for line in lines[1:]])
    assert '"rate": "30000/1001"' in curves_json(three(), ["s"], Fraction(30000, 1001))


@pytest.mark.parametrize(
    ("table", "words"),
    [
        ("time,value\n0,0\n1,abc\n", "Line 3 has “abc”"),
        ("0,0\n1,\n", "Line 2 has a gap"),
        ("0,0\n2,1\n1,0.5\n", "Line 3 goes back in time"),
        ("0,0\n1,1\n1,0.5\n", "Line 3 repeats the time 1 s"),
        ("0,0\n1,nan\n", "Line 2 has “nan”"),
        ("0,0\n-1,1\n", "between 0 s and a day"),
        ("time,value\n", "no line"),
    ],
)
def test_tables_that_can_not_be_used_say_where(table, words):
    with pytest.raises(TableError, match=words):
        points_from_csv(table)


@given(
    st.lists(st.tuples(st.integers(0, 10**6), st.floats(-10, 10)), min_size=1, max_size=50, unique_by=lambda p: p[0]),
    st.sampled_from([",", ";", "\t"]),
)
def test_every_sorted_table_is_read(rows, mark):
    rows.sort()
    text = "\n".join(f"{time / 1000}{mark}{value!r}" for time, value in rows)
    assert [(p["time_s"], p["value"]) for p in points_from_csv(text)] == [(t / 1000, v) for t, v in rows]


@given(st.text(max_size=200))
def test_any_text_gives_points_or_a_sentence(text):
    try:
        points = points_from_csv(text)
    except TableError:
        return
    times = [point["time_s"] for point in points]
    assert times == sorted(set(times))
