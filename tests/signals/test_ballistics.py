"""Meters against the figures of their standards: bursts, steps, falls and steady tones."""

from fractions import Fraction

import numpy as np
import pytest

from tests.conftest import RATE, sine, song
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.ballistics import BALLISTICS, FLOOR_DB, Meter, MeterInput, meter_reading

MIX = MeterInput("mix")


def course(use, meter, start, stop, source=MIX, step=240):
    """Readings from start to stop in seconds, in dB."""
    times = [Fraction(n, step) for n in range(round(start * step), round(stop * step))]
    return np.array([meter_reading(use, meter, source, time)[0] for time in times])


def bursts(lengths, level_db=0.0, hz=5000.0, apart=4.0):
    """Tone bursts of whole periods, `apart` seconds from each other, and a steady second of the tone before."""
    parts = [sine(hz, 1.0, level_db), np.zeros(round(apart * RATE))]
    for length in lengths:
        tone = sine(hz, length, level_db)
        parts += [tone, np.zeros(round(apart * RATE) - len(tone))]
    return np.concatenate(parts)


@pytest.mark.parametrize(
    ("ballistics", "figures"),
    [
        # IEC 60268-10, types I and II: length of the burst in s, reading in dB, tolerance in dB.
        ("quasi-1", [(0.010, -1, 0.5), (0.005, -2, 1.0), (0.003, -4, 1.0), (0.0004, -15, 4.0)]),
        ("quasi-2", [(0.100, 0, 0.5), (0.010, -2.5, 0.5), (0.005, -4, 0.5), (0.0015, -9, 1.0), (0.0005, -17, 2.0)]),
    ],
)
def test_a_quasi_peak_meter_reads_short_bursts_as_its_standard_says(analysed, ballistics, figures):
    use = AudioRange(
        analysed(bursts([length for length, _, _ in figures], apart=11.0)), 0.0, 12.0 + 11.0 * len(figures)
    )
    meter = Meter(ballistics)
    steady = course(use, meter, 0.9, 1.0).max()
    for number, (_, expected, tolerance) in enumerate(figures):
        begin = 12.0 + number * 11.0
        assert course(use, meter, begin - 0.01, begin + 0.2).max() - steady == pytest.approx(expected, abs=tolerance)


@pytest.mark.parametrize(("ballistics", "fall_db", "seconds"), [("quasi-1", 20.0, 1.7), ("quasi-2", 24.0, 2.8)])
def test_a_quasi_peak_meter_falls_as_its_standard_says(analysed, ballistics, fall_db, seconds):
    use = AudioRange(analysed(np.concatenate([sine(1000, 1.0, -3.0), np.zeros(4 * RATE)])), 0.0, 5.0)
    curve = course(use, Meter(ballistics), 1.0, 4.5)
    reached = np.argmax(curve <= curve[:4].max() - fall_db) / 240
    assert reached == pytest.approx(seconds, rel=0.02)


def test_a_vu_meter_rises_in_300_ms_and_goes_a_little_too_far(analysed):
    # IEC 60268-17: a tone that would read 0 takes 300 ms to 99 %, and swings 1 to 1.5 % beyond.
    use = AudioRange(analysed(np.concatenate([np.zeros(RATE), sine(1000, 2.0, -10.0), np.zeros(RATE)])), 0.0, 4.0)
    curve = 10 ** (course(use, Meter("vu"), 1.0, 3.0) / 20)
    steady = curve[-1]
    assert np.argmax(curve >= 0.99 * steady) / 240 == pytest.approx(0.3, abs=0.03)
    assert 1.0 < (curve.max() / steady - 1) * 100 < 1.5
    fall = 10 ** (course(use, Meter("vu"), 3.0, 3.6) / 20)
    assert np.argmax(fall <= 0.01 * steady) / 240 == pytest.approx(0.3, abs=0.03)


@pytest.mark.parametrize("ballistics", ["peak", "quasi-1", "quasi-2", "vu", "rms"])
@pytest.mark.parametrize("level", [0.0, -18.0, -40.0])
def test_a_steady_sine_reads_its_level_on_every_meter(analysed, ballistics, level):
    use = AudioRange(analysed(sine(1000, 3.0, level)), 0.0, 3.0)
    assert meter_reading(use, Meter(ballistics), MIX, Fraction(5, 2))[0] == pytest.approx(level, abs=0.06)


@pytest.mark.parametrize("ballistics", ["peak", "rms", "vu"])
def test_a_square_wave_reads_3_db_above_a_sine_of_its_height_where_power_counts(analysed, ballistics):
    use = AudioRange(analysed(np.where(np.arange(3 * RATE) // 24 % 2, 1.0, -1.0)), 0.0, 3.0)
    expected = {"peak": 0.0, "rms": 3.01, "vu": 20 * np.log10(np.pi / 2)}[ballistics]
    assert meter_reading(use, Meter(ballistics), MIX, Fraction(5, 2))[0] == pytest.approx(expected, abs=0.05)


@pytest.mark.parametrize("window_ms", [50.0, 300.0, 1000.0])
def test_rms_takes_in_as_much_of_the_sound_as_it_is_told(analysed, window_ms):
    use = AudioRange(analysed(np.concatenate([np.zeros(2 * RATE), sine(1000, 2.0, -6.0)])), 0.0, 4.0)
    power = 10 ** (course(use, Meter("rms", rms_ms=window_ms), 2.0, 3.2) / 10)
    # A window that fills with the tone: its power rises in a straight line, all of it after its length.
    half = np.argmax(power >= power[-1] / 2) / 240 * 1000
    full = np.argmax(power >= power[-1] * 0.999) / 240 * 1000
    assert half == pytest.approx(window_ms / 2, abs=6)
    assert full == pytest.approx(window_ms, abs=6)


def segments(*parts):
    """Stereo 1 kHz at levels in dBFS for so many seconds each."""
    mono = np.concatenate([sine(1000, seconds, level) for level, seconds in parts])
    return np.stack([mono, mono], axis=1)


@pytest.mark.parametrize(
    ("sound", "ballistics", "from_s"),
    [
        # EBU Tech 3341, minimum requirements: a steady tone (1), and alternations that must read steadily (9, 12).
        (segments((-23, 8)), "momentary", 0.5),
        (segments((-23, 8)), "short", 3.2),
        (segments(*[(-20, 1.34), (-30, 1.66)] * 5), "short", 3.2),
        (segments(*[(-20, 0.18), (-30, 0.22)] * 25), "momentary", 1.0),
    ],
)
def test_loudness_meters_meet_the_ebus_signals(analysed, sound, ballistics, from_s):
    length = len(sound) / RATE
    use = AudioRange(analysed(sound), 0.0, length)
    curve = course(use, Meter(ballistics), from_s, length - 0.2, step=50)
    assert curve == pytest.approx(np.full(len(curve), -23.0), abs=0.1)


@pytest.mark.parametrize(("number", "ballistics"), [(0, "momentary"), (3, "momentary"), (0, "short")])
def test_loudness_meters_reach_the_ebus_tops(analysed, number, ballistics):
    # Cases 10 and 13: 3 s (or 0.4 s) of -23 after silence, begun at some offset, read -23 at the most.
    length = 3.0 if ballistics == "short" else 0.4
    sound = segments((-200, 1 + 0.02 * number), (-23, length), (-200, 1))
    use = AudioRange(analysed(sound), 0.0, len(sound) / RATE)
    assert course(use, Meter(ballistics), 0.0, len(sound) / RATE - 0.1, step=60).max() == pytest.approx(-23.0, abs=0.1)


def test_the_mark_holds_then_falls(analysed):
    use = AudioRange(analysed(np.concatenate([sine(1000, 0.5, -6.0), np.zeros(5 * RATE)])), 0.0, 5.5)
    meter = Meter("peak", fall_db_s=60.0, hold_ms=1500.0, hold_fall_db_s=12.0)
    held = [meter_reading(use, meter, MIX, Fraction(n, 20))[1] for n in range(10, 90)]
    assert held[5:29] == pytest.approx([-6.0] * 24, abs=0.1)
    # After half a second of tone and one and a half of hold: 12 dB a second.
    assert held[50] - held[70] == pytest.approx(12.0, abs=0.2)


@pytest.mark.parametrize("ballistics", list(BALLISTICS))
def test_every_meter_reads_bands_and_channels_and_silence(analysed, ballistics):
    left = sine(100, 3.0, -10.0)
    sound = np.stack([left, np.zeros_like(left)], axis=1)
    use = AudioRange(analysed(sound), 0.0, 3.0)

    def at(source):
        return meter_reading(use, Meter(ballistics), source, Fraction(5, 2))[0]

    assert at(MeterInput("mix", (60.0, 200.0))) > at(MeterInput("mix", (2000.0, 6000.0))) + 30
    if ballistics not in ("momentary", "short"):
        assert at(MeterInput("left")) == pytest.approx(-10.0, abs=0.3)
        assert at(MeterInput("right")) == FLOOR_DB
    nothing = AudioRange(analysed(np.concatenate([np.zeros(20 * RATE), left])), 0.0, 20.0)
    assert meter_reading(nothing, Meter(ballistics), MIX, Fraction(15)) == (FLOOR_DB, FLOOR_DB)


@pytest.mark.parametrize("ballistics", list(BALLISTICS))
def test_readings_do_not_depend_on_what_was_read_before(analysed, ballistics):
    from velvetdrum.signals import ballistics as module

    use = AudioRange(analysed(song(12.0)), 0.0, 12.0)
    times = [Fraction(n, 3) for n in (1, 29, 25, 7, 24, 35)]
    ahead = [meter_reading(use, Meter(ballistics), MIX, time) for time in times]
    module._kept.clear()
    assert [meter_reading(use, Meter(ballistics), MIX, time) for time in reversed(times)] == ahead[::-1]
