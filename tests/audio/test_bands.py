"""Band levels against closed forms: sines, clicks and bursts whose readings are known."""

import numpy as np
import pytest

from tests.conftest import RATE, sine
from velvetdrum.audio import bands
from velvetdrum.audio.bands import band_edges
from velvetdrum.signals.spectrum import BandSet, band_levels

# IEC 61260 base-ten third-octave centres from 25 Hz to 16 kHz.
THIRDS = [1000 * 10 ** (n / 10) for n in range(-16, 13)]


def third(centre: float) -> BandSet:
    return BandSet.from_edges([(centre * 10**-0.05, centre * 10**0.05)])


def middle(levels: np.ndarray) -> np.ndarray:
    return levels[len(levels) // 3 : -len(levels) // 3]


def test_bands_tile_the_spectrum_without_gap_or_overlap():
    edges = band_edges()
    assert np.all(np.diff(edges) > 0)
    assert edges[0] < 12
    assert edges[-1] > 20_000


@pytest.mark.parametrize("centre", THIRDS)
def test_a_sine_reads_its_level_and_an_octave_away_forty_decibels_less(analysed, centre):
    recording = analysed(sine(centre, 2.0, -12.0))
    levels = middle(band_levels(recording, third(centre), "mix", 0, recording.frames))
    assert np.abs(levels + 12.0).max() <= 0.5
    for other in (centre / 2, centre * 2):
        if 22 <= other <= 18_000:
            away = middle(band_levels(recording, third(other), "mix", 0, recording.frames))
            assert away.max() <= -52.0


@pytest.mark.parametrize("index", range(len(THIRDS) - 1))
def test_every_third_octave_band_has_a_reading_of_its_own(analysed, index):
    recording = analysed(sine(THIRDS[index], 2.0))
    readings = [
        middle(band_levels(recording, third(c), "mix", 0, recording.frames)).mean()
        for c in THIRDS[max(0, index - 1) : index + 2]
    ]
    own = readings.pop(min(index, 1))
    assert own > max(readings) + 3.0


@pytest.mark.parametrize("at", [1.0, 1.0049, 1.0083, 1.013])
def test_a_click_peaks_in_every_band_within_one_frame(analysed, at):
    samples = np.zeros(2 * RATE)
    samples[round(at * RATE)] = 1.0
    recording = analysed(samples)
    power = recording.power("mix", 0, recording.frames)
    above = band_edges()[:-1] >= 100
    peaks = power[:, above].argmax(axis=0) / 60
    assert np.abs(peaks - at).max() <= 1 / 60


def test_a_burst_shows_neither_early_nor_late(analysed):
    burst = np.concatenate([np.zeros(RATE), sine(50, 1.5, -6.0)])
    recording = analysed(burst)
    levels = band_levels(recording, third(50.1), "mix", 0, recording.frames)[:, 0]
    everything = band_levels(recording, BandSet.spaced(20, 16_000, 64), "mix", 0, recording.frames)
    start = 60
    before = everything[: start - 2]  # more than one frame at 30/s before it
    # A bar that spans 48 dB down from the burst stands below 5 % of its height.
    assert before.max() <= -6.0 - 48.0 * 0.95
    assert levels[start + 4] >= -6.0 - 24.0


@pytest.mark.parametrize("hz", [22, 31, 47, 80, 110, 150, 300])
def test_the_guard_leaves_steady_tones_alone(analysed, hz):
    recording = analysed(sine(hz, 2.0, -20.0))
    levels = middle(band_levels(recording, BandSet.from_edges([(hz - 8, hz + 8)]), "mix", 0, recording.frames))
    assert np.ptp(levels) < 0.3
    assert abs(levels.mean() + 20.0) < 0.5


def test_channels_and_their_sum_and_difference(analysed):
    tone = sine(1000, 1.0)
    recording = analysed(np.stack([tone * 0.5, -tone * 0.25], axis=1))
    expected = {"left": 0.5, "right": 0.25, "mid": 0.125, "side": 0.375, "mix": np.sqrt((0.25 + 0.0625) / 2)}
    for channel, amplitude in expected.items():
        level = middle(band_levels(recording, third(1000), channel, 0, recording.frames)).mean()
        assert level == pytest.approx(20 * np.log10(amplitude), abs=0.1), channel


def test_power_is_neither_lost_nor_doubled_over_all_bands(analysed):
    noise = np.random.default_rng(3).standard_normal(3 * RATE) * 0.1
    recording = analysed(noise)
    total = middle(recording.power("mix", 0, recording.frames).sum(axis=1)).mean()
    # White noise of variance v reads 2 v (AES17), less what lies outside the bands.
    share = (band_edges()[-1] - band_edges()[0]) / (RATE / 2)
    assert 10 * np.log10(total / (2 * noise.var() * share)) == pytest.approx(0.0, abs=0.15)


def test_readings_outside_the_recording_are_silent(analysed):
    recording = analysed(sine(440, 0.5))
    power = recording.power("mix", -30, recording.frames + 30)
    assert power.shape[0] == recording.frames + 60
    assert not power[:30].any()
    assert not power[-30:].any()


def test_centibels_survive_the_way_there_and_back():
    power = np.float32(10) ** np.linspace(-15.9, 0.9, 500, dtype=np.float32)
    back = bands.from_centibel(bands.to_centibel(power))
    assert np.abs(10 * np.log10(back / power)).max() <= 0.0051
    assert bands.from_centibel(bands.to_centibel(np.zeros(1, np.float32)))[0] == 0.0
