"""What lasts and what strikes, parted: both together are the whole, and each is where it belongs."""

import numpy as np
import pytest

from tests.conftest import RATE
from velvetdrum.mix.separation import separated

TIMES = np.arange(RATE * 4) / RATE
TONE = (0.2 * np.sin(2 * np.pi * 440 * TIMES) + 0.1 * np.sin(2 * np.pi * 1320 * TIMES)).astype(np.float32)
CLICKS = (np.random.default_rng(2).standard_normal(len(TIMES)) * np.exp(-(TIMES % 0.5) * 300) * 0.5).astype(np.float32)


def part(samples, name, pieces=7):
    return np.concatenate(list(separated(iter(np.array_split(samples, pieces, axis=1)), name)), axis=1)


@pytest.mark.parametrize("length", [100, 3000, RATE, RATE * 4])
def test_both_parts_are_the_whole(length):
    whole = np.stack([TONE + CLICKS, TONE - CLICKS])[:, :length]
    both = part(whole, "percussive") + part(whole, "harmonic")
    assert both.shape == whole.shape and np.abs(both - whole).max() < 1e-5


def test_it_does_not_matter_how_the_sound_comes_in():
    whole = np.stack([TONE + CLICKS])
    assert np.abs(part(whole, "harmonic", 1) - part(whole, "harmonic", 23)).max() < 1e-6


def test_tones_are_harmonic_and_strokes_percussive():
    whole = np.stack([TONE + CLICKS])
    inner = slice(RATE // 2, -RATE // 2)

    def kept_db(result, of):
        """How much of a sound is in a result."""
        own = of[inner].astype(np.float64)
        share = float((result[0, inner] * own).sum() / (own**2).sum())
        return 20 * np.log10(max(abs(share), 1e-9))

    harmonic, percussive = part(whole, "harmonic"), part(whole, "percussive")
    assert kept_db(harmonic, TONE) > -0.5 and kept_db(percussive, TONE) < -15
    assert kept_db(percussive, CLICKS) > -2.0 and kept_db(harmonic, CLICKS) < -12
