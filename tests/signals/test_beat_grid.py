"""Beats by a tempo map, as clicked, and moved by hand: against closed forms, in each direction."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import RATE
from velvetdrum.declare.settings import SettingError
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.grid import BeatGrid, BeatSettings
from velvetdrum.signals.signal_set import NamedSignal, SignalSet
from velvetdrum.signals.sources.clock import Clock

PARSE = BeatSettings.settings["tempos"].parse


def row(bar, tempo, meter="4/4", note="1/4", **more):
    return {"bar": bar, "tempo_bpm": tempo, "meter": meter, "note": note, **more}


def grid(rows, **more):
    return BeatGrid.of(BeatSettings({"source": "map", "tempos": rows, **more}), None)


def begins(found, stop):
    return [time for time, first in found.between(0.0, stop) if first]


def test_bars_of_changing_meters_begin_where_their_beats_add_up():
    found = grid([row(1, 120), row(3, 90, "3/4"), row(5, 80, "6/8", "3/8"), row(6, 240, "5/8", "1/8")])
    # Two bars of four halves of a second, two of three thirds of two, one of two dotted quarters, then five eighths.
    expected = np.cumsum([0, 2, 2, 2, 2, 1.5, 1.25, 1.25])
    assert begins(found, 12.5) == pytest.approx(expected.tolist(), abs=1e-9)
    beats = found.between(0.0, 9.49)
    assert len(beats) == 4 + 4 + 3 + 3 + 2


def test_a_pick_up_comes_before_the_first_bar():
    found = grid([row(1, 120, "3/4")], pickup=1.0, anchor_s=0.25)
    assert found.between(0.0, 2.0)[:3] == [(0.25, False), (0.75, True), (1.25, False)]
    assert found.beat_at(np.array([0.25])) == pytest.approx([-1.0])


def test_a_tempo_that_goes_gradually_is_the_integral_of_its_beats():
    found = grid([row(1, 60, gradual=True), row(5, 180)])
    beats = np.arange(0, 17.0)
    steps = (np.arange(400_000) + 0.5) / 400_000 * 16
    exact = np.concatenate([[0], np.cumsum(60 / (60 + 120 * steps / 16)) * 16 / 400_000])
    assert found.time_of(beats) == pytest.approx(np.interp(beats, np.linspace(0, 16, 400_001), exact), abs=1e-6)
    after = found.time_of(np.array([16.0, 17.0, 40.0]))
    assert np.diff(after) == pytest.approx([1 / 3, 23 / 3])


METERS = [("4/4", "1/4"), ("3/4", "1/4"), ("6/8", "3/8"), ("7/8", "1/8"), ("2/2", "1/2")]
ROWS = st.lists(
    st.tuples(st.integers(1, 6), st.floats(30, 300), st.sampled_from(METERS), st.booleans()), min_size=1, max_size=6
)
MOVES = st.lists(st.tuples(st.floats(0.05, 3), st.floats(0.05, 3)), max_size=5)


@given(ROWS, MOVES, st.sampled_from([0, 0.5, 1, 3]))
def test_beats_and_times_lead_back_to_each_other_and_rise(drawn, moves, pickup):
    rows, bar = [], 1
    for step, tempo, (meter, note), gradual in drawn:
        rows.append(row(bar, tempo, meter, note, gradual=gradual))
        bar += step
    moved = np.cumsum(np.array(moves).reshape(-1, 2), axis=0).round(4).tolist()
    found = grid(rows, pickup=pickup, moved=moved)
    beats = np.linspace(-pickup, 60, 200)
    times = found.time_of(beats)
    assert (np.diff(times) > 0).all()
    assert found.beat_at(times) == pytest.approx(beats, abs=1e-5)
    bars = found.bars.bar_at(beats)
    assert (np.diff(bars) > 0).all() and found.bars.beat_of(bars) == pytest.approx(beats, abs=1e-6)


@pytest.mark.parametrize(
    ("rows", "said"),
    [
        ([], "1 to"),
        ([row(2, 120)], "bar 1"),
        ([row(1, 120), row(1, 90)], "not after"),
        ([row(1, 120), row(3, 90, beat=2, meter="3/4")], "within bar 3"),
        ([row(1, 120), row(3, 90, beat=5)], "has 4 beats"),
        ([row(1, 5)], "10 to 1000"),
        ([row(1, float("nan"))], "10 to 1000"),
        ([row(1, 120, "7/8")], "no whole number of quarter"),
        ([row(1, 120, "4/5")], "written like"),
        ([row(1, 120, note=4)], "written like"),
        ([{"bar": True, "tempo_bpm": 120}], "counted from 1"),
        ([[1, 120]], "no row"),
        ([row(1, 120)] * 5000, "1 to"),
    ],
)
def test_a_wrong_map_is_refused_with_a_sentence(rows, said):
    with pytest.raises(SettingError, match=said):
        PARSE(rows)


@pytest.mark.parametrize("moved", [[[1, 2], [2, 1.5]], [[2, 2], [1, 3]], [[0, 1, 2]], [["a", 1]], [[0, 1e9]], "x"])
def test_beats_that_would_pass_each_other_are_refused(moved):
    with pytest.raises(SettingError):
        BeatSettings.settings["moved"].parse(moved)


def test_a_moved_beat_takes_the_even_ones_beside_it_along():
    even = {"source": "typed", "tempo_bpm": 120, "moved": [[1.0, 1.0], [2.0, 2.2]]}
    found = BeatGrid.of(BeatSettings(even), None)
    assert found.time_of(np.arange(1, 7.0)) == pytest.approx([0.5, 1.0, 1.6, 2.2, 2.7, 3.2])
    assert found.unmoved(found.time_of(np.arange(7.0))) == pytest.approx(np.arange(7) / 2)


def test_a_clock_in_bars_follows_the_meters():
    settings = {"source": "map", "tempos": [row(1, 120), row(2, 120, "3/4")]}
    clock = NamedSignal("c", "Clock", "#ffffff", Clock({"unit": "bars", "shape": "saw"}))
    values = SignalSet((clock,), BeatSettings(settings), None, 10.0).values("c", np.array([0, 1, 2, 2.75, 3.5, 4.25]))
    assert values == pytest.approx([0, 0.5, 0, 0.5, 0, 0.5], abs=1e-4)


def clicked(times, accents, kind):
    """A click track: short decaying tones at times, the accented ones louder, higher or both."""
    out = np.zeros(round((times[-1] + 0.7) * RATE))
    since = np.arange(round(0.04 * RATE)) / RATE
    for number, time in enumerate(times):
        strong = number in accents
        hz = 1600 if strong and kind != "louder" else 1000
        level = 0.8 if strong and kind != "higher" else 0.4
        begin = round(time * RATE)
        out[begin : begin + len(since)] += level * np.sin(2 * np.pi * hz * since) * np.exp(-since / 0.008)
    return out + 1e-4 * np.random.default_rng(1).standard_normal(len(out))


@pytest.mark.parametrize("kind", ["louder", "higher", "both"])
def test_clicks_are_beats_and_accented_ones_begin_bars(analysed, kind):
    """Four bars of four, four of three, slowing down by and by."""
    times = 0.3 + np.cumsum(0.45 + 0.004 * np.arange(28))
    accents = [0, 4, 8, 12, 16, 19, 22, 25]
    use = AudioRange(analysed(clicked(times, accents, kind)), 0.0, 20.0)
    found = BeatGrid.of(BeatSettings({"source": "clicks"}), use)
    beats = found.between(0.3, times[-1] + 0.01)
    assert [time for time, _ in beats[-28:]] == pytest.approx(times.tolist(), abs=0.0005)
    assert [number for number, (_, first) in enumerate(beats[-28:]) if first] == accents


def test_beats_go_on_where_clicks_pause_and_bars_by_count_without_accents(analysed):
    times = np.delete(0.5 + np.arange(32) * 0.4, [9, 10, 11, 20])
    use = AudioRange(analysed(clicked(times, [], "both")), 0.5, 14.0)
    found = BeatGrid.of(BeatSettings({"source": "clicks", "bar": 3, "first_bar_s": 0.9}), use)
    assert found.time_of(np.arange(-1, 31.0)) == pytest.approx(np.arange(32) * 0.4, abs=0.0005)
    assert begins(found, 3.0) == pytest.approx([0.4, 1.6, 2.8], abs=0.0005)


@pytest.mark.parametrize("kind", ["noise", "few"])
def test_what_is_no_click_track_has_no_beats(analysed, kind):
    noise = np.random.default_rng(2).standard_normal(RATE * 6)
    sound = {"noise": noise * 0.1, "few": clicked(np.array([0.5, 1.0, 1.5]), [], "both")}[kind]
    assert BeatGrid.of(BeatSettings({"source": "clicks"}), AudioRange(analysed(sound), 0.0, 6.0)) is None
