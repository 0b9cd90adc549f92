"""Semitones and pitch classes on scales of pure tones, on chords, and in any tuning."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from tests.conftest import RATE, write_wav
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.audio.bands import FRAME_RATE
from velvetdrum.signals.audio_range import AudioRange
from velvetdrum.signals.bars import BarSettings, bar_heights
from velvetdrum.signals.pitch_bands import (
    LOWEST_SEMITONE,
    PITCH_CLASSES,
    class_power,
    semitone_hz,
    semitone_power,
    semitones_between,
    tuning,
)

NOTE_S = 0.5
SCALE = (36, 45, 48, 52, 57, 60, 64, 69, 73, 76, 84, 91, 98, 105)
"""From C2 (65 Hz) to A7 (3,520 Hz), some of them neighbours in a chord."""
CHORDS = {"C": (60, 64, 67), "A minor": (57, 60, 64, 69), "F sharp": (54, 58, 61, 66)}


def sounding(folder, notes_hz, amplitude=0.2):
    """Groups of tones after each other, half a second each, with soft ends."""
    time = np.arange(round(NOTE_S * RATE)) / RATE
    soft = np.clip(np.minimum(time, NOTE_S - time) / 0.02, 0, 1)
    parts = [sum(amplitude * np.sin(2 * np.pi * hz * time) for hz in group) * soft for group in notes_hz]
    sound = np.stack([np.concatenate(parts)] * 2, axis=1)
    recording = analyse(write_wav(folder / "tones.wav", sound), folder / "analysis", key=str(folder))
    return AudioRange(recording, 0.0, recording.facts.duration_s)


def at_middles(power, count):
    """What is read in the middle of each of so many notes."""
    return power[[round((n + 0.5) * NOTE_S * FRAME_RATE) for n in range(count)]]


@pytest.fixture(scope="module")
def scale(tmp_path_factory):
    return sounding(tmp_path_factory.mktemp("scale"), [[float(semitone_hz(note))] for note in SCALE])


def test_every_tone_of_a_scale_stands_on_its_semitone_and_its_class(scale):
    frames = round(len(SCALE) * NOTE_S * FRAME_RATE)
    power = at_middles(semitone_power(scale, "mix", 0, frames), len(SCALE))
    assert [int(row.argmax()) + LOWEST_SEMITONE for row in power] == list(SCALE)
    # A sine of 0.2 reads -14 dB on its semitone, and its second neighbours lie far below.
    levels = 10 * np.log10(np.maximum(power, 1e-16))
    for note, row in zip(SCALE, levels, strict=True):
        here = note - LOWEST_SEMITONE
        assert row[here] == pytest.approx(-14, abs=1.0 if note > 44 else 2.0), note
        assert max(row[here - 2], row[here + 2]) < row[here] - 20, note
    classes = at_middles(class_power(scale, "mix", 0, frames, 30, 8000), len(SCALE))
    assert [int(row.argmax()) for row in classes] == [note % 12 for note in SCALE]


def test_the_notes_of_a_chord_are_its_loudest_classes(tmp_path):
    use = sounding(tmp_path, [[float(semitone_hz(note)) for note in notes] for notes in CHORDS.values()], 0.12)
    power = class_power(use, "mix", 0, round(len(CHORDS) * NOTE_S * FRAME_RATE), 30, 8000)
    for notes, row in zip(CHORDS.values(), at_middles(power, len(CHORDS)), strict=True):
        wanted = {note % 12 for note in notes}
        loudest = set(np.argsort(row)[::-1][: len(wanted)].tolist())
        assert loudest == wanted, [PITCH_CLASSES[place] for place in loudest]
        others = [row[place] for place in range(12) if place not in wanted]
        assert 10 * np.log10(min(row[place] for place in wanted) / max(others)) > 10


@pytest.mark.parametrize("cents", [-38, -15, 0, 22, 45])
def test_the_tuning_is_found_within_three_cents_and_followed(tmp_path, cents):
    use = sounding(tmp_path, [[float(semitone_hz(note + cents / 100))] for note in (57, 61, 64, 69)])
    assert tuning(use) * 100 == pytest.approx(cents, abs=3)
    power = at_middles(class_power(use, "mix", 0, 120, 30, 8000), 4)
    assert [int(row.argmax()) for row in power] == [9, 1, 4, 9]


def test_a_low_note_is_not_seen_long_before_it_is_heard(tmp_path):
    """A2 begins at 1 s: a tenth of a second before, it stands 20 dB below itself, in spite of its window."""
    hz = float(semitone_hz(45))
    time = np.arange(2 * RATE) / RATE
    tone = 0.3 * np.sin(2 * np.pi * hz * time) * (time >= 1)
    path = write_wav(tmp_path / "late.wav", np.stack([tone, tone], axis=1))
    use = AudioRange(analyse(path, tmp_path / "analysis", key="late"), 0.0, 2.0)
    row = semitone_power(use, "mix", 0, 120)[:, 45 - LOWEST_SEMITONE]
    assert row[90] > 0.05
    assert row[54] < row[90] * 0.01


def test_bars_read_semitones_and_classes(scale):
    settings = BarSettings(64, 200.0, 2000.0, "semitone", "mix", -60.0, -14.0, 0.0, 0.0, 0.0)
    notes = semitones_between(200.0, 2000.0)
    assert len(settings.bands.edges) == len(notes) == 40
    heights = bar_heights(scale, settings, Fraction(7 * 5 + 2, 10))
    assert notes[int(heights.argmax())] == SCALE[7]
    classes = replace(settings, spacing="class", low_hz=30.0, high_hz=8000.0)
    heights = bar_heights(scale, classes, Fraction(7 * 5 + 2, 10))
    assert len(heights) == 12 and int(heights.argmax()) == 9
    for hears in ("attacks", "difference", "peak"):
        assert np.isfinite(bar_heights(scale, replace(classes, hears=hears), Fraction(3))).all()
    struck = replace(classes, hears="attacks", quiet_db=-50.0)
    assert bar_heights(scale, struck, Fraction(378, 100)).max() == 0, "a held note"
    assert bar_heights(scale, struck, Fraction(354, 100)).max() > 0.2, "its beginning"
