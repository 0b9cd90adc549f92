"""What bars hear beside the level, in which range, and over which bands, against tones and noise that are known."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from tests.conftest import RATE
from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.picture.figures.marks.clusters import cluster_heights
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.band_text import parse_bands
from velvetdrum.signals.bar_levels import BarSettings, own_ranges, tilted_levels
from velvetdrum.signals.bars import bar_heights

EDGES = ((80.0, 160.0), (160.0, 640.0), (640.0, 2560.0), (2560.0, 10_000.0))
PLAIN = BarSettings(4, 40.0, 12_000.0, "log", "mix", -60.0, 0.0, 0.0, 0.0, 0.0, edges=EDGES)
HZ = (110.0, 320.0, 1280.0, 5000.0)
SECONDS = 4.0


@pytest.fixture(scope="module")
def tones(tmp_path_factory):
    """A held tone in the first band at -20 dB, strokes in the second each half second, a beating tone in the third, and
    a faint one in the fourth that swells by 24 dB."""
    from tests.conftest import write_wav
    from velvetdrum.audio.analysis_writer import analyse

    time = np.arange(round(SECONDS * RATE)) / RATE
    parts = [
        0.1 * np.sin(2 * np.pi * HZ[0] * time),
        0.3 * np.sin(2 * np.pi * HZ[1] * time) * np.exp(-(time % 0.5) * 14),
        0.2 * np.sin(2 * np.pi * HZ[2] * time) * (0.5 + 0.5 * np.cos(2 * np.pi * time)),
        0.002 * np.sin(2 * np.pi * HZ[3] * time) * 10 ** (24 / 20 * (0.5 - 0.5 * np.cos(2 * np.pi * time / 4))),
    ]
    sound = np.stack([sum(parts)] * 2, axis=1)
    folder = tmp_path_factory.mktemp("tones")
    return AudioRange(analyse(write_wav(folder / "tones.wav", sound), folder / "analysis", key="tones"), 0.0, SECONDS)


def levels(use, **changes):
    frames = round(SECONDS * FRAME_RATE)
    return tilted_levels(use, replace(PLAIN, **changes), 0, frames)


def test_typed_edges_are_the_bands(tones):
    assert PLAIN.bands.edges == EDGES
    middle = levels(tones)[round(0.6 * FRAME_RATE)]
    # The RMS of a sine of 0.1 is 3 dB below full scale's: AES17 reads its peak level.
    assert middle[0] == pytest.approx(-20, abs=0.7)


def test_attacks_hear_strokes_and_no_held_tone(tones):
    heard = levels(tones, hears="attacks")
    struck = heard[[round((0.5 * n + 0.02) * FRAME_RATE) for n in range(1, 7)], 1]
    assert struck.min() > -30
    between = heard[[round((0.5 * n + 0.3) * FRAME_RATE) for n in range(1, 7)], 1]
    assert between.max() < -70
    assert heard[round(0.5 * FRAME_RATE) :, 0].max() < -40, "the held tone of -20 dB"
    # In parts as in one: a chunk does not begin without what was before it.
    apart = np.concatenate(
        [tilted_levels(tones, replace(PLAIN, hears="attacks"), at, at + 60) for at in range(0, 240, 60)]
    )
    assert np.array_equal(apart, heard[:240])


def test_a_peak_is_the_highest_level_nearby(tones):
    plain, peak = levels(tones), levels(tones, hears="peak")
    reach = round(0.05 * FRAME_RATE)
    for index in (40, 90, 150):
        assert peak[index] == pytest.approx(plain[index - reach : index + reach + 1].max(axis=0), abs=1e-3)


def test_a_difference_is_about_the_mean_of_all_bands(tones):
    heard = levels(tones, hears="difference")
    means = heard.mean(axis=0)
    assert np.ptp(means) < 0.6, "every band stands about one level"
    assert means.mean() == pytest.approx(levels(tones).mean(axis=0).mean(), abs=1.5)
    assert np.ptp(heard[:, 3]) > 15 and np.ptp(heard[60:, 0]) < 2


def test_an_own_range_lets_every_band_use_its_whole_height(tones):
    settings = replace(PLAIN, own_range=True)
    heights = np.array([bar_heights(tones, settings, Fraction(n, 30)) for n in range(6, 114)])
    assert heights[:, 1:].max(axis=0) == pytest.approx(np.ones(3), abs=0.05)
    assert heights[:, 1:].min(axis=0).max() < 0.1
    shared = np.array([bar_heights(tones, PLAIN, Fraction(n, 30)) for n in range(6, 114)])
    assert shared[:, 3].max() < 0.6
    low, span = own_ranges(tones, settings)
    assert span.min() >= 12 and np.all(np.isfinite(low))


def test_time_and_neighbours_are_joined_by_their_highest_too(tones):
    mean, highest = (levels(tones, average_ms=500, average_by=by)[120] for by in ("mean", "highest"))
    assert np.all(highest >= mean - 1e-3) and highest[1] > mean[1] + 3
    rows = [
        bar_heights(tones, replace(PLAIN, smooth_bands=2.0, neighbours_by=by), Fraction(1))
        for by in ("mean", "highest")
    ]
    plain = bar_heights(tones, PLAIN, Fraction(1))
    assert rows[1] == pytest.approx([max(plain[max(n - 1, 0) : n + 2]) for n in range(4)], abs=1e-5)
    assert rows[0].sum() == pytest.approx(plain.sum(), rel=1e-3)


def test_silence_stays_at_rest_in_an_own_range(tmp_path):
    from tests.conftest import write_wav
    from velvetdrum.audio.analysis_writer import analyse

    tone = 0.1 * np.sin(2 * np.pi * 320 * np.arange(RATE) / RATE)
    sound = write_wav(tmp_path / "half.wav", np.stack([np.concatenate([tone, np.zeros(2 * RATE)])] * 2, axis=1))
    use = AudioRange(analyse(sound, tmp_path / "analysis", key="half"), 0.0, 3.0)
    for hears in ("level", "attacks", "difference", "peak"):
        settings = replace(PLAIN, own_range=True, hears=hears)
        assert not bar_heights(use, settings, Fraction(2)).any()


def test_a_cluster_slopes():
    flat = cluster_heights(np.array([1.0, 0.5]), 4, 0.0, 1, 0.0)
    assert flat == pytest.approx([1] * 4 + [0.5] * 4)
    falling = cluster_heights(np.array([1.0, 0.5]), 3, 0.0, 1, 0.0, 0.5)
    assert falling == pytest.approx([1, 0.75, 0.5, 0.5, 0.375, 0.25])
    assert cluster_heights(np.array([1.0]), 3, 0.0, 1, 0.0, -0.5) == pytest.approx([0.5, 0.75, 1])


@pytest.mark.parametrize(
    ("given", "sentence"),
    [("40-160, 100-400", "must not cross"), ("40-160, up", "is none"), ("160-40", "upward"), ("5-40", "10 Hz")],
)
def test_bands_that_cross_or_are_none_are_refused(given, sentence):
    with pytest.raises(ValueError, match=sentence):
        parse_bands(given, 512, apart=True)
    with pytest.raises(ValueError, match="up to 512"):
        parse_bands(", ".join(["40-160"] * 513), 512)
