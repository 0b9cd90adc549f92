"""Pickups against closed forms: levels, times, lags, strokes, and what stays silent."""

from __future__ import annotations

import numpy as np
import pytest

from tests.conftest import RATE, sine, song
from velvetdrum.signals.array_cache import KeptArrays
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.detect import READ_RATE
from velvetdrum.signals.kinds import SignalContext
from velvetdrum.signals.pickup_fit import fit_pickup, pinned
from velvetdrum.signals.sources.pickup import Pickup


def whole(recording):
    return AudioRange(recording, 0.0, recording.facts.duration_s)


def values(pickup, use, times):
    around = SignalContext(use, None, use.out_s - use.in_s, lambda ident, at: at)
    return pickup.values(np.asarray(times, float), around)


def gated(hz, start, stop, seconds, level_db=-6.0):
    out = np.zeros(round(seconds * RATE))
    first, last = round(start * RATE), round(stop * RATE)
    out[first:last] = sine(hz, seconds, level_db)[first:last]
    return out


def raw(**settings):
    return Pickup({"attack_ms": 0, "release_ms": 0} | settings)


@pytest.mark.parametrize("detector", ["level", "peak"])
@pytest.mark.parametrize(("band", "hz"), [((80, 160), 110), ((40, 80), 56), ((700, 1400), 1000), ((4000, 8000), 5600)])
def test_a_sine_reads_its_level_in_the_band_and_40_db_less_an_octave_away(analysed, band, hz, detector):
    for tone, expected in ((hz, -20.0), (hz * 2, None), (hz / 2, None)):
        use = whole(analysed(sine(tone, 2.0, -20.0)))
        level = raw(low_hz=band[0], high_hz=band[1], detector=detector).levels_at(np.array([1.0]), use, 2.0)[0]
        if expected is not None:
            assert level == pytest.approx(expected, abs=0.5)
        else:
            assert level < -60.0


@pytest.mark.parametrize(
    ("hz", "band"), [(60, (40, 80)), (60, (20, 20_000)), (200, (150, 300)), (1000, (500, 2000)), (5000, (3000, 8000))]
)
@pytest.mark.parametrize(("attack", "release"), [(50, 200), (150, 80), (300, 600)])
def test_attack_and_release_are_the_times_to_63_per_cent(analysed, hz, band, attack, release):
    start, stop = 1.0071, 3.5029
    use = whole(analysed(gated(hz, start, stop, 6.0)))
    pickup = Pickup(
        {
            "low_hz": band[0],
            "high_hz": band[1],
            "quiet_db": -60,
            "loud_db": -6,
            "attack_ms": attack,
            "release_ms": release,
        }
    )
    times = np.arange(0, 6, 1e-4)
    curve = values(pickup, use, times)
    top = curve[round((stop - 0.02) * 1e4)]
    rise = times[np.argmax(curve >= (1 - np.exp(-1)) * top)] - start
    fall = times[np.argmax((times > stop) & (curve <= np.exp(-1) * top))] - stop
    assert rise * 1000 == pytest.approx(attack, rel=0.05)
    assert fall * 1000 == pytest.approx(release, rel=0.05)


def test_a_lag_moves_the_curve_by_exactly_that(analysed):
    use = whole(analysed(gated(300, 1.0, 1.5, 3.0)))
    times = np.arange(0.2, 2.8, 0.001)
    plain = values(Pickup({"low_hz": 200, "high_hz": 500}), use, times)
    for lag in (-40, 125):
        moved = values(Pickup({"low_hz": 200, "high_hz": 500, "lag_ms": lag}), use, times + lag / 1000)
        assert np.abs(moved - plain).max() < 1e-9


def test_hold_keeps_a_peak_and_then_lets_go(analysed):
    use = whole(analysed(gated(1000, 1.0, 1.2, 3.0)))
    held = Pickup(
        {
            "low_hz": 500,
            "high_hz": 2000,
            "attack_ms": 0,
            "hold_ms": 400,
            "release_ms": 100,
            "quiet_db": -60,
            "loud_db": -6,
        }
    )
    top, before, after = values(held, use, [1.1, 1.57, 1.7])
    assert before == pytest.approx(top, abs=0.01)
    assert after == pytest.approx(top * np.exp(-1), abs=0.05)


def test_hits_fire_on_clicks_and_rest_on_a_held_tone(analysed):
    rng = np.random.default_rng(1)
    clicks = np.arange(12) * 0.5 + 0.7 + rng.uniform(-0.02, 0.02, 12)
    samples = sine(440, 8, -12)
    for click in clicks:
        samples[round(click * RATE) : round(click * RATE) + 48] += 0.8 * rng.standard_normal(48).clip(-1, 1)
    samples *= np.clip((8 - np.arange(len(samples)) / RATE) / 0.4, 0, 1)  # no stroke at the end of the file
    use = whole(analysed(samples))
    for band in ((20, 20_000), (2000, 9000)):
        pickup = raw(low_hz=band[0], high_hz=band[1], detector="hits", quiet_db=-50, loud_db=-15)
        frames = np.arange(20, 460)
        curve = values(pickup, use, frames / 60)
        fired = frames[1:][(curve[1:] > 0.4) & (curve[:-1] <= 0.4)] / 60
        assert len(fired) == len(clicks)
        assert np.abs(fired - clicks).max() <= 1 / 60 + 1e-6
        near = np.abs(frames[:, None] / 60 - clicks[None, :]).min(axis=1) < 0.07
        assert curve[~near].max() < 0.05


def test_a_low_burst_out_of_silence_comes_when_it_sounds(analysed):
    use = whole(analysed(gated(50, 1.0, 2.0, 3.0)))
    for detector in ("level", "peak"):
        pickup = raw(low_hz=40, high_hz=80, quiet_db=-50, loud_db=-6, detector=detector)
        final = values(pickup, use, [1.6])[0]
        assert values(pickup, use, np.arange(0, 1 - 1 / 30, 0.002)).max() < 0.05
        assert values(pickup, use, [1 + 2 / 30])[0] > final / 2


def test_channels_are_told_apart(analysed):
    left, right = sine(500, 1.5, -10), sine(3000, 1.5, -10)
    use = whole(analysed(np.stack([left, right], axis=1)))
    at = np.array([0.75])

    def level(channel, low, high, detector="level"):
        return raw(low_hz=low, high_hz=high, channel=channel, detector=detector).levels_at(at, use, 1.5)[0]

    for detector in ("level", "peak"):
        assert level("left", 300, 800, detector) == pytest.approx(-10, abs=0.5)
        assert level("left", 2000, 5000, detector) < -50
        assert level("right", 2000, 5000, detector) == pytest.approx(-10, abs=0.5)
        assert level("mid", 300, 800, detector) == pytest.approx(-16, abs=0.5)
        assert level("side", 300, 800, detector) == pytest.approx(-16, abs=0.5)


def test_response_steps_and_inversion(analysed):
    use = whole(analysed(sine(1000, 1.0, -26.0)))
    band = {"low_hz": 500, "high_hz": 2000, "quiet_db": -46, "loud_db": -6}
    at = [0.5]
    assert values(raw(**band), use, at)[0] == pytest.approx(0.5, abs=0.01)
    assert values(raw(**band, response=2), use, at)[0] == pytest.approx(0.25, abs=0.01)
    assert values(raw(**band, invert=True, response=2), use, at)[0] == pytest.approx(0.75, abs=0.01)
    assert values(raw(**band, steps=4), use, at)[0] in (pytest.approx(1 / 3), pytest.approx(2 / 3))


def test_beyond_the_range_a_curve_is_held_or_goes_on(analysed):
    use = whole(analysed(sine(1000, 1.0, -6.0)))
    band = {"low_hz": 500, "high_hz": 2000, "quiet_db": -36, "loud_db": -16}
    assert values(raw(**band), use, [0.5])[0] == 1.0
    assert values(raw(**band, beyond="above"), use, [0.5])[0] == pytest.approx(1.5, abs=0.02)
    low = {**band, "quiet_db": 0, "loud_db": 12}
    assert values(raw(**low, beyond="above"), use, [0.5])[0] == 0.0
    assert values(raw(**low, beyond="both"), use, [0.5])[0] == pytest.approx(-0.5, abs=0.05)


def test_smoothing_evens_out_without_delay(analysed):
    use = whole(analysed(gated(1000, 1.4, 1.6, 3.0)))
    pickup = raw(low_hz=500, high_hz=2000, smooth_ms=200, quiet_db=-60, loud_db=-6)
    times = np.arange(0.5, 2.5, 0.001)
    curve = values(pickup, use, times)
    assert times[curve.argmax()] == pytest.approx(1.5, abs=0.01)
    assert np.abs(curve - curve[::-1]).max() < 0.03


def test_only_the_used_part_is_heard(analysed):
    recording = analysed(sine(1000, 4.0, -10))
    pickup = raw(low_hz=500, high_hz=2000, quiet_db=-40, loud_db=-10)
    use = AudioRange(recording, 1.0, 2.0)
    curve = pickup.curve(use, 3.0)
    assert curve[: READ_RATE - 2].min() > 0.95
    assert curve[READ_RATE + 2 :].max() == 0.0


def test_fitting_leaves_nothing_pinned(analysed):
    time = np.arange(8 * RATE) / RATE
    swell = 10 ** ((-34 + 22 * np.sin(2 * np.pi * time / 3)) / 20) * np.sin(2 * np.pi * 900 * time)
    use = whole(analysed(swell))
    quiet, loud = fit_pickup(raw(low_hz=600, high_hz=1300), use, 8.0, 0.0, 8.0)
    assert loud == pytest.approx(-12, abs=1)
    assert -49 <= quiet <= loud - 9
    curve = values(raw(low_hz=600, high_hz=1300, quiet_db=quiet, loud_db=loud), use, np.arange(0, 8, 1 / 60))
    assert pinned(curve, Pickup({})).at_1 < 0.02
    deaf = values(raw(low_hz=5000, high_hz=9000, quiet_db=-40, loud_db=-10), use, np.arange(0, 8, 1 / 60))
    assert "lower Quiet" in pinned(deaf, Pickup({})).advice
    stuck = values(raw(low_hz=600, high_hz=1300, quiet_db=-90, loud_db=-60), use, np.arange(0, 8, 1 / 60))
    assert "raise Loud" in pinned(stuck, Pickup({})).advice


@pytest.mark.parametrize("seconds", [0.06, 0.15])
@pytest.mark.parametrize("detector", ["level", "peak", "hits"])
def test_a_track_shorter_than_a_window_works(analysed, seconds, detector):
    use = whole(analysed(sine(100, seconds, -10)))
    curve = Pickup({"detector": detector}).curve(use, use.out_s)
    assert np.all(np.isfinite(curve))
    assert 0 <= curve.min() <= curve.max() <= 1


def test_values_do_not_depend_on_what_was_asked_before(analysed):
    use = whole(analysed(gated(200, 0.3, 0.8, 2.0)))
    pickup = Pickup({"low_hz": 100, "high_hz": 400})
    together = values(pickup, use, np.arange(60) / 30)
    apart = [values(pickup, use, [frame / 30])[0] for frame in reversed(range(60))]
    assert np.array_equal(together, apart[::-1])


@pytest.mark.parametrize("detector", ["level", "hits"])
def test_a_long_recording_is_read_piece_by_piece_to_the_same_values(analysed, monkeypatch, detector):
    use = whole(analysed(song(4.0)))
    times = np.linspace(0, 4, 481)
    at_once = values(raw(detector=detector, low_hz=40, high_hz=4000), use, times)
    monkeypatch.setattr("velvetdrum.signals.detect._KEPT_READINGS", 20)
    monkeypatch.setattr("velvetdrum.signals.detect._PIECE", 37)
    for cache in ("_kept", "_power", "_fresh"):
        monkeypatch.setattr(f"velvetdrum.signals.detect.{cache}", KeptArrays(f"test{cache}{detector}"))
    monkeypatch.setattr("velvetdrum.signals.sources.pickup._curves", KeptArrays(f"test.curves{detector}"))
    assert np.array_equal(values(raw(detector=detector, low_hz=40, high_hz=4000), use, times), at_once)
    assert at_once.std() > 0.05
