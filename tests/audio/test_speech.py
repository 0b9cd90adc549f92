"""Where a voice speaks, how loud its sentences are, where its syllables set in: against voices made of known pieces."""

import numpy as np
import pytest

from tests.conftest import RATE
from tests.mix.conftest import said
from velvetdrum.audio.speech import sentences, syllable_onsets


def syllables(seed, seconds=12.0):
    """Syllables of a voice with vowels and sharp consonants, legato and apart, in noise: begins, and samples."""
    rng = np.random.default_rng(seed)
    out = 2e-4 * rng.standard_normal(round(seconds * RATE))
    begins, at = [], 0.4
    while at < seconds - 0.6:
        length = rng.uniform(0.12, 0.3)
        level = 0.5 * 10 ** (-rng.uniform(0, 10) / 20)
        since = np.arange(round(length * RATE)) / RATE
        hz = rng.uniform(110, 240)
        tone = sum(np.sin(2 * np.pi * hz * n * since + n) / n for n in range(1, 14))
        shape = np.minimum(since / 0.015, 1) * np.minimum((length - since) / 0.05, 1)
        begin = round(at * RATE)
        out[begin : begin + len(since)] += level * 0.5 * tone * shape
        begins.append(at)
        at += length + rng.choice([0.05, 0.09, 0.16, 0.6], p=[0.4, 0.3, 0.2, 0.1])
    return np.array(begins), out


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_syllables_set_in_where_they_do(analysed, seed):
    begins, samples = syllables(seed)
    onsets = syllable_onsets(analysed(samples))
    away = np.abs(begins[:, None] - onsets[None]).min(axis=1)
    assert np.mean(away < 0.02) >= 0.95, away.max()
    assert len(onsets) <= 1.05 * len(begins)


def test_noise_and_a_held_tone_have_no_syllables_after_their_begin(analysed):
    samples = np.concatenate([np.zeros(RATE), said([(0.0, 4.0, -12)], 4.0)])
    samples += 2e-4 * np.random.default_rng(5).standard_normal(len(samples))
    assert syllable_onsets(analysed(samples)) == pytest.approx([1.0], abs=0.02)


def test_sentences_have_the_loudness_of_their_samples(analysed):
    """A tone of 997 Hz at a level reads that level less 3.01 dB, in one channel (ITU-R BS.1770)."""
    times = np.arange(RATE * 6) / RATE
    tone = np.sin(2 * np.pi * 997 * times)
    gain = np.where((times > 1) & (times < 2.5), 0.5, np.where((times > 4) & (times < 5), 0.125, 0.0))
    places, loudness = sentences(analysed(tone * gain))
    assert np.array(places) == pytest.approx(np.array([[1.0, 2.5], [4.0, 5.0]]), abs=0.06)
    assert loudness == pytest.approx([-9.03, -21.07], abs=0.4)
