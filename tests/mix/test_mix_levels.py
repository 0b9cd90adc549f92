"""What meters of tracks and their sum read, against closed forms and another library."""

import numpy as np
import pyloudnorm
import pytest
from scipy.signal import resample_poly

from tests.conftest import RATE
from velvetdrum.mix.mix_analysis import analyse_mix
from velvetdrum.mix.mix_levels import LEAST_DB, short_term, sum_levels, track_levels, true_peaks_db
from velvetdrum.mix.placed_track import Ducking, MixSpec, VoiceChain


def test_a_track_reads_what_it_adds_to_the_sum(shelf):
    bed = shelf.track("bed", gain_db=-6.0, at_s=1.0, ducking=Ducking(10.0, -20.0, 100.0, 200.0, 100.0, ("voice",)))
    spec = MixSpec((bed, shelf.track("voice")))
    recordings = {key: shelf.files.recording(key) for key in spec.media}
    read = track_levels(bed, spec, recordings, 0, 480).level
    own = 20 * np.log10(0.1) - 6.0
    assert (read[:58] == LEAST_DB).all()
    assert read[[240, 270]] == pytest.approx([own, own], abs=0.1)
    assert read[330] == pytest.approx(own - 10.0, abs=0.1)
    assert read[78] == pytest.approx(own - 10.0, abs=0.1), "under the voice that begins at 1 s"


def test_true_peaks_lie_between_the_samples(analysed):
    """The tone of EBU Tech 3341, case 15: a quarter of the sample rate, 45 degrees on, 3 dB more than its samples."""
    tone = 0.5 * np.sin(2 * np.pi * RATE / 4 * np.arange(RATE * 2) / RATE + np.pi / 4)
    tone[RATE:] *= 0.5
    peaks = true_peaks_db(analysed(tone), 0, 120)
    assert 20 * np.log10(np.abs(tone).max()) == pytest.approx(-9.03, abs=0.01)
    assert peaks[5:58] == pytest.approx(np.full(53, -6.02), abs=0.3)
    assert peaks[63:115] == pytest.approx(np.full(52, -12.04), abs=0.3)
    assert (true_peaks_db(analysed(tone), -200, 20) == LEAST_DB).all()


def test_the_peak_of_a_track_is_that_of_its_samples_oversampled_by_another_library(shelf):
    looped = shelf.track("song", in_s=1.0, out_s=2.2, length_s=3.6, gain_db=-4.0)
    spec = MixSpec((looped,))
    read = track_levels(looped, spec, {"song": shelf.files.recording("song")}, 0, 240).peak
    mixed = shelf.mixed(looped)
    fine = np.abs(resample_poly(mixed.astype(float), 8, 1, axis=1)).max(axis=0)
    for reading in (10, 50, 71, 100, 160, 200):
        expected = 20 * np.log10(fine[(reading * 800 - 400) * 8 : (reading * 800 + 400) * 8].max())
        assert read[reading] == pytest.approx(expected, abs=0.35), reading
    assert read[230] == LEAST_DB


def test_a_voice_that_is_made_even_reads_so(shelf):
    voice = shelf.track("uneven", voice=VoiceChain(level=1.0))
    spec = MixSpec((voice,))
    read = track_levels(voice, spec, {"uneven": shelf.files.recording("uneven")}, 0, 420).level
    loud, quiet, middle = (read[round(second * 60)] for second in (1.1, 3.3, 5.5))
    assert max(loud, quiet, middle) - min(loud, quiet, middle) < 1.0


def test_the_sum_reads_its_sides_and_how_alike_they_are(shelf, tmp_path):
    left = shelf.track("noise", pan=-1.0, id="a", in_s=0.0, out_s=1.0)
    right = shelf.track("noise", pan=1.0, id="b", in_s=1.0, out_s=2.0, at_s=0.0, gain_db=-6.0)
    apart = analyse_mix(MixSpec((left, right)), shelf.files, tmp_path / "apart")
    levels = sum_levels(apart, 10, 30)
    assert (levels.left - levels.right).mean() == pytest.approx(6.0, abs=0.6)
    assert np.abs(levels.correlation.mean()) < 0.15
    same = analyse_mix(MixSpec((shelf.track("song"),)), shelf.files, tmp_path / "same")
    samples = same.pcm[:].T / 32767
    for reading in (60, 75, 100):
        left_, right_ = samples[:, reading * 800 - 400 : reading * 800 + 400]
        alike = (left_ * right_).sum() / np.sqrt((left_**2).sum() * (right_**2).sum())
        assert sum_levels(same, reading, 1).correlation[0] == pytest.approx(alike, abs=0.01)
    assert (sum_levels(same, 100_000, 5).left == LEAST_DB).all()


def test_short_term_loudness_is_that_of_another_library(shelf, tmp_path):
    mix = analyse_mix(MixSpec((shelf.track("song", length_s=8.0),)), shelf.files, tmp_path / "long")
    second = 6.0
    heard = mix.pcm[round((second - 3) * RATE) : round(second * RATE)].astype(float) / 32767
    meter = pyloudnorm.Meter(RATE, block_size=2.9)
    assert short_term(mix, round(second * 60), 1)[0] == pytest.approx(meter.integrated_loudness(heard), abs=0.2)
