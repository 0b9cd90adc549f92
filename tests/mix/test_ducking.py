"""Beds that go down under voices, and voices made even, measured on what comes out."""

import numpy as np
import pytest

from tests.conftest import RATE, write_wav
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.mix.ducking import voiced
from velvetdrum.mix.mixdown import Mixdown, SourceFiles
from velvetdrum.mix.placed_track import Ducking, MixSpec, PlacedTrack, VoiceChain

DUCKING = Ducking(14.0, -20.0, 120.0, 400.0, 500.0, ("voice",))


def level_db(samples, begin, end):
    part = samples[..., round(begin * RATE) : round(end * RATE)].astype(np.float64)
    return float(10 * np.log10((part**2).mean() + 1e-20))


def ducked(shelf, **more):
    """The bed alone, as the voice moves it."""
    bed = shelf.track("bed", ducking=DUCKING)
    return shelf.mixed(bed, shelf.track("voice", heard=False, **more))


def test_a_bed_is_down_under_speech_and_up_in_pauses(shelf):
    result, own = ducked(shelf), shelf.samples["bed"]
    for begin, end, wanted in (
        (0.0, 0.8, 0.0),
        (1.0, 1.4, -14.0),
        (2.2, 2.8, -14.0),
        (4.0, 4.8, 0.0),
        (5.0, 6.0, -14.0),
        (7.2, 8.0, 0.0),
    ):
        assert level_db(result, begin, end) - level_db(own, begin, end) == pytest.approx(wanted, abs=0.5)


def test_no_syllable_drowns_and_words_closer_than_the_hold_do_not_lift_it(shelf):
    gains = [level_db(ducked(shelf), at, at + 0.01) + 23.0 for at in np.arange(0.95, 3.1, 0.01)]
    gains = np.array(gains)
    # Down when the first syllable begins, and from there on until the hold after the last has passed.
    assert np.abs(gains[5:] - gains[5:].mean()).max() < 0.5
    assert gains[5:].mean() == pytest.approx(-14.0, abs=0.6)


def test_a_moved_and_looped_voice_moves_the_bed_where_it_is_heard(shelf):
    voice = shelf.track("voice", at_s=2.0, in_s=0.5, out_s=3.5, length_s=5.0)
    places = voiced([shelf.track("bed"), voice], DUCKING, {"voice": shelf.files.recording("voice")})
    assert len(places) == 2
    assert places[0] == pytest.approx((2.5, 4.3 + 0.4), abs=0.06)
    assert places[1] == pytest.approx((5.5, 7.0 + 0.4), abs=0.06)


def test_sentences_come_to_one_loudness(shelf):
    even = shelf.mixed(shelf.track("uneven", voice=VoiceChain(level=1.0)))
    stretches = ((0.7, 1.5), (2.9, 3.7), (5.1, 5.9))
    before = [level_db(shelf.samples["uneven"], *stretch) for stretch in stretches]
    after = [level_db(even, *stretch) for stretch in stretches]
    assert np.ptp(before) == pytest.approx(12.0, abs=0.5)
    assert np.ptp(after) < 0.6
    half = shelf.mixed(shelf.track("uneven", voice=VoiceChain(level=0.5)))
    assert np.ptp([level_db(half, *stretch) for stretch in stretches]) == pytest.approx(6.0, abs=0.5)


def test_pauses_grow_quiet_and_words_stay(shelf):
    gated = shelf.mixed(shelf.track("uneven", voice=VoiceChain(gate=1.0)))
    own = shelf.samples["uneven"]
    assert level_db(gated, 2.1, 2.5) - level_db(own, 2.1, 2.5) == pytest.approx(-30.0, abs=0.5)
    for begin, end in ((0.5, 1.7), (2.7, 3.9), (4.9, 6.1)):
        assert level_db(gated, begin, end) == pytest.approx(level_db(own, begin, end), abs=0.2)


def test_rumble_goes_and_the_voice_stays(shelf):
    """A second-order Butterworth: 3 dB down at its corner, 12 dB an octave below, against the closed form."""
    for corner, hz in ((400.0, 400.0), (800.0, 400.0), (100.0, 400.0)):
        result = shelf.mixed(shelf.track("bed", voice=VoiceChain(high_pass_hz=corner)))
        expected = -10 * np.log10(1 + (corner / hz) ** 4)
        assert level_db(result, 1, 7) - level_db(shelf.samples["bed"], 1, 7) == pytest.approx(expected, abs=0.05)


def test_sharp_sounds_are_held_down_and_others_are_not(tmp_path):
    times = np.arange(RATE * 4) / RATE
    vowel = 0.2 * np.sin(2 * np.pi * 200 * times) + 0.1 * np.sin(2 * np.pi * 900 * times)
    hiss = 0.15 * np.sin(2 * np.pi * 7500 * times)
    sharp = (times % 1.0 > 0.6) & (times % 1.0 < 0.8)
    path = write_wav(tmp_path / "s.wav", np.where(sharp, hiss, vowel))
    analyse(path, tmp_path / "s", key="s")
    files = SourceFiles({"s": str(path)}, {"s": str(tmp_path / "s")})
    track = PlacedTrack("s", "s", 0.0, 0.0, 4.0, 4.0, voice=VoiceChain(deess=1.0))
    result = np.concatenate(list(Mixdown(MixSpec((track,)), files).blocks()), axis=1)[0]
    own = np.where(sharp, hiss, vowel)
    assert level_db(result, 1.65, 1.75) - level_db(own, 1.65, 1.75) < -8.0
    assert level_db(result, 1.1, 1.5) == pytest.approx(level_db(own, 1.1, 1.5), abs=0.3)
