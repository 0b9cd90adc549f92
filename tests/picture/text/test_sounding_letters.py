"""Letters by the spectrum on an axis of their typeface, and words as large as they were said loudly."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from tests.conftest import RATE
from velvetdrum.picture.frame.render import render
from velvetdrum.picture.text.word_loudness import word_levels
from velvetdrum.scene.cue_tracks import stored_cue
from velvetdrum.scene.document import new_document, new_layer, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.words.cues import Cue, Word

SIZE = FrameSize(480, 270)
CUE = Cue(0.5, 2.5, "HIM HIM", "", (Word(0.5, 1.4, "HIM"), Word(1.5, 2.4, "HIM")))


@pytest.fixture(scope="module")
def use(tmp_path_factory):
    """A tone of 300 Hz, loud while the first word is said and 20 dB weaker during the second."""
    from tests.conftest import write_wav
    from velvetdrum.audio.analysis_writer import analyse

    time = np.arange(3 * RATE) / RATE
    gain = np.where((time > 0.5) & (time < 1.45), 0.5, 0.05) * (time > 0.4)
    tone = gain * np.sin(2 * np.pi * 300 * time)
    folder = tmp_path_factory.mktemp("said")
    path = write_wav(folder / "said.wav", np.stack([tone, tone], axis=1))
    return AudioRange(analyse(path, folder / "analysis", key="said"), 0.0, 3.0)


def project(layer, cues=()):
    document = new_document("Letters", frame=SIZE, rate=Fraction(30), layers=[layer])
    tracks = {"t": {"name": "T", "language": "en", "cues": {f"c{n}": stored_cue(cue) for n, cue in enumerate(cues)}}}
    return parse(document | {"length_s": 3.0, "cue_tracks": tracks if cues else {}})


def inked(found, use, time):
    return render(found, use, Fraction(time).limit_denominator(1000), SIZE)[..., 1].astype(float)


def letters(**more):
    base = {"text": "IIIIII", "family": "recursive", "weight": 300.0, "size": 30.0, "plain": "#ffffff", "paint": "one"}
    return project(new_layer("text", **(base | more)))


def test_a_letter_grows_heavier_by_its_own_band(use):
    """The tone lies in a low band: letters on the left grow, those on the right stay; all keep their places."""
    light, moved = inked(letters(), use, 1.0), inked(letters(axis="wght", axis_by=600), use, 1.0)
    gain = moved.sum(axis=0) - light.sum(axis=0)
    columns = np.flatnonzero(light.sum(axis=0) > 0)
    middle = (columns[0] + columns[-1]) // 2
    assert gain[:middle].sum() > 0.25 * light[:, :middle].sum()
    assert abs(gain[middle + 20 :].sum()) < 0.25 * gain[:middle].sum()
    heavy = inked(letters(weight=900.0), use, 1.0)
    assert moved.sum() < heavy.sum() + 1e-6
    places = np.arange(SIZE.width)

    def centres(pixels):
        """The middles of the letters, each a stretch of columns that are lit."""
        lit = pixels.sum(axis=0) > 200
        edges = np.flatnonzero(np.diff(np.concatenate([[False], lit, [False]]).astype(int)))
        sums = pixels.sum(axis=0)
        return [np.average(places[a:b], weights=sums[a:b]) for a, b in zip(edges[::2], edges[1::2], strict=True)]

    assert len(centres(moved)) == len(centres(light)) == 6
    assert centres(moved) == pytest.approx(centres(light), abs=1.0)


def test_letters_grow_wider_by_their_bands_and_make_room(use):
    """On the axis of width a line stays where its middle is, and no letter runs into the next."""
    base = {"family": "archivo", "text": "HHHHHH", "weight": 400.0, "tracking": 60.0, "size": 20.0}
    narrow, wide = inked(letters(**base), use, 1.0), inked(letters(**base, axis="wdth", axis_by=25), use, 1.0)

    def edges(pixels):
        lit = pixels.max(axis=0) > 100
        return np.flatnonzero(np.diff(np.concatenate([[False], lit, [False]]).astype(int)))

    first, second = edges(narrow), edges(wide)
    assert len(first) == len(second) == 12, "six letters, each apart from the next"
    widths = [np.diff(found)[::2] for found in (first, second)]
    assert (widths[1] - widths[0] >= -1).all() and (widths[1] - widths[0]).max() >= 3
    assert (second[0] + second[-1]) / 2 == pytest.approx((first[0] + first[-1]) / 2, abs=1.5)
    assert np.diff(second)[1::2] == pytest.approx(np.diff(first)[1::2], abs=4), "as far apart as they were"


def test_without_sound_or_movement_letters_are_as_they_were(use):
    assert np.array_equal(inked(letters(), use, 1.0), inked(letters(axis="wght", axis_by=0), use, 1.0))
    assert np.array_equal(inked(letters(), None, 1.0), inked(letters(axis="wght", axis_by=600), None, 1.0))
    # A typeface without the axis stays as it is.
    plain = {"family": "fraunces", "weight": 400.0}
    assert np.array_equal(inked(letters(**plain), use, 1.0), inked(letters(axis="CASL", axis_by=1, **plain), use, 1.0))


def test_how_loud_a_word_is_said_is_its_mean_level(use):
    first, second = word_levels(use, CUE, 3.0)
    # The peak level of a sine of 0.5, as AES17 reads it.
    assert first == pytest.approx(-6, abs=1)
    assert first - second == pytest.approx(20, abs=2)


@pytest.mark.parametrize("kind", ["lyrics", "captions"])
def test_words_swell_as_they_are_said_as_far_as_they_are_loud(use, kind):
    settings = {"enter": "none", "leave": "none", "size": 20.0, "loud_words": 50}
    if kind == "captions":
        settings |= {"plate": "none", "size": 12.0}
    found = project(new_layer(kind, **settings), [CUE])

    def heights(time):
        """How tall the letters of the two words are, in pixels."""
        lit = inked(found, use, time) > 100
        columns = np.flatnonzero(lit.any(axis=0))
        gap = int(np.argmax(np.diff(columns)))
        parts = lit[:, : columns[gap] + 1], lit[:, columns[gap] + 1 :]
        return [np.ptp(np.flatnonzero(part.any(axis=1))) + 1 for part in parts]

    before, during, after = heights(0.55), heights(1.4), heights(2.4)
    assert before[0] == pytest.approx(before[1], abs=2)
    assert during[0] > 1.6 * before[0] and during[1] == pytest.approx(before[1], abs=1)
    assert after[0] == pytest.approx(during[0], abs=1) and after[1] < 0.75 * after[0]
    plain = project(new_layer(kind, **(settings | {"loud_words": 0})), [CUE])
    silent = render(plain, None, Fraction(1), SIZE)
    assert np.array_equal(silent, render(found, None, Fraction(1), SIZE)), "nothing is heard: all as large as set"
