"""The sum of tracks against the sum of their samples in float64: places, loops, fades, gains and pans."""

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import RATE
from velvetdrum.mix.mix_analysis import analyse_mix
from velvetdrum.mix.mixdown import Mixdown, faded
from velvetdrum.mix.placed_track import FADES, Ducking, MixSpec, VoiceChain, mix_of

LEAST_DB = -120.0


def far_apart_db(one, other):
    return 20 * np.log10(max(np.abs(one.astype(np.float64) - other).max(), 1e-12))


def test_the_sum_is_the_sum_of_the_samples(shelf):
    """Tracks at 44.1 and 48 kHz, one mono, each in its place to the sample."""
    placed = [
        shelf.track("song"),
        shelf.track("slow", at_s=0.5 + 1 / RATE, gain_db=-6.0),
        shelf.track("noise", at_s=1.0, in_s=0.25, out_s=1.75, gain_db=3.0),
    ]
    expected = np.zeros((2, round(4.0 * RATE)))
    expected += shelf.samples["song"]
    slow, noise = shelf.samples["slow"].astype(np.float64), shelf.samples["noise"].astype(np.float64)
    expected[:, RATE // 2 + 1 :][:, : slow.shape[1]] += slow * 10 ** (-6 / 20)
    expected[:, RATE : RATE + RATE * 3 // 2] += noise[:, RATE // 4 : RATE * 7 // 4] * 10 ** (3 / 20)
    result = shelf.mixed(*placed)
    assert result.shape == expected.shape
    assert far_apart_db(result, expected) < LEAST_DB


@settings(max_examples=25)
@given(first=st.integers(0, 6 * RATE), count=st.integers(1, RATE), block=st.integers(1000, 60_000))
def test_a_stretch_is_that_of_the_whole_wherever_it_begins(shelf, first, count, block):
    placed = (
        shelf.track("song", fade_in_s=0.7, fade_out_s=0.4),
        shelf.track("noise", at_s=0.3, length_s=5.5, gain_db=-3.0, points=((0.5, 0.0), (3.0, -20.0), (4.0, 6.0))),
        shelf.track("bed", ducking=Ducking(12.0, -20.0, 100.0, 300.0, 400.0, ("voice",))),
        shelf.track("voice", voice=VoiceChain(0.0, 1.0, 1.0, 1.0)),
    )
    whole = shelf.mixed(*placed)
    part = shelf.mixed(*placed, first=first, count=count, block=block)
    assert part.shape == (2, count)
    inside = whole[:, first : first + count]
    assert far_apart_db(part[:, : inside.shape[1]], inside) < LEAST_DB
    assert not part[:, inside.shape[1] :].any()


def test_a_loop_goes_on_without_a_gap(shelf):
    result = shelf.mixed(shelf.track("noise", in_s=0.5, out_s=1.5, length_s=3.25))
    turn = shelf.samples["noise"][:, RATE // 2 : RATE * 3 // 2]
    assert np.array_equal(result, np.concatenate([turn, turn, turn, turn[:, : RATE // 4]], axis=1))


@pytest.mark.parametrize("fade", list(FADES))
def test_fades_begin_and_end_in_silence_and_rise_all_the_way(fade):
    places = np.linspace(0, 1, 500)
    gains = faded(places, fade)
    assert gains[0] == pytest.approx(0.0, abs=1e-3) and gains[-1] == pytest.approx(1.0)
    assert (np.diff(gains) >= 0).all()


def test_two_fades_of_equal_power_keep_it(shelf):
    """Noise over other noise: the sum's power stays while one goes and the other comes."""
    other = shelf.track("noise", at_s=0.0, in_s=0.0, out_s=1.0, fade_out_s=1.0, id="a")
    one = shelf.track("noise", at_s=0.0, in_s=1.0, out_s=2.0, fade_in_s=1.0, id="b")
    result = shelf.mixed(other, one)[0].astype(np.float64)
    powers = (result.reshape(10, -1) ** 2).mean(axis=1)
    assert 10 * np.log10(powers / powers.mean()) == pytest.approx(np.zeros(10), abs=0.5)


@pytest.mark.parametrize("pan", [-1.0, -0.5, 0.0, 0.3, 1.0])
def test_a_mono_track_keeps_its_power_wherever_it_stands(shelf, pan):
    result = shelf.mixed(shelf.track("noise", pan=pan), shelf.track("song", gain_db=-200.0))
    own = shelf.samples["noise"].astype(np.float64)
    assert (result[:, : own.shape[1]] ** 2).sum() == pytest.approx(2 * (own**2).sum(), rel=1e-3)
    left, right = (result.astype(np.float64) ** 2).sum(axis=1)
    assert np.sign(round(float(right - left), 3)) == np.sign(pan)


def test_gains_go_straight_in_db_between_their_points(shelf):
    result = shelf.mixed(shelf.track("bed", points=((1.0, 0.0), (3.0, -24.0))))[0]
    own = shelf.samples["bed"][0]
    for second, expected in ((0.5, 0.0), (1.5, -6.0), (2.0, -12.0), (5.0, -24.0)):
        there = slice(round(second * RATE), round(second * RATE) + 120)
        gain = 10 * np.log10((result[there] ** 2).sum() / (own[there] ** 2).sum())
        assert gain == pytest.approx(expected, abs=0.05)


def test_a_mix_is_named_by_what_it_sounds_like_and_travels_as_json(shelf):
    bed = shelf.track("bed", ducking=Ducking(12.0, -20.0, 100.0, 300.0, 400.0, ("v",)))
    spec = MixSpec((bed, shelf.track("voice", id="v")))
    same = MixSpec(
        (
            shelf.track("bed", id="x", ducking=Ducking(12.0, -20.0, 100.0, 300.0, 400.0, ("y",))),
            shelf.track("voice", id="y"),
        )
    )
    assert spec.key == same.key and len(spec.key) == 64
    assert mix_of(json.loads(json.dumps(spec.plain()))) == spec
    others = {MixSpec(spec.tracks, "percussive").key, MixSpec(spec.tracks[:1]).key, spec.key}
    assert len(others) == 3


def test_the_analysis_of_a_sum_is_that_of_any_recording(shelf, tmp_path):
    spec = MixSpec((shelf.track("song"), shelf.track("bed", gain_db=-10.0)))
    made = analyse_mix(spec, shelf.files, tmp_path / "sum")
    assert made.key == spec.key and made.facts.duration_s == pytest.approx(8.0)
    assert made.facts.tempo_bpm == pytest.approx(120, abs=1)
    heard = shelf.mixed(*spec.tracks)
    assert np.abs(made.pcm[:].T / 32767 - np.clip(heard, -1, 1)).max() < 1 / 32767


def test_silence_may_be_a_sum(shelf, tmp_path):
    """All muted but one that others go down under: nothing sounds, and nothing fails."""
    silent = MixSpec((shelf.track("voice", heard=False),))
    made = analyse_mix(silent, shelf.files, tmp_path / "silent")
    assert made.facts.loudness_lufs is None and made.facts.duration_s == pytest.approx(8.0)
    assert Mixdown(silent, shelf.files).samples == 0
