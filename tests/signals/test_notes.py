"""Notes of MIDI files: read back as they were written, broken ones as far as they go, and as curves."""

import io

import mido
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from velvetdrum.signals.grid import BeatGrid, BeatSettings
from velvetdrum.signals.midi_files import MidiError, read_midi
from velvetdrum.signals.notes import NoteLists, note_list
from velvetdrum.signals.signal_set import NamedSignal, SignalSet
from velvetdrum.signals.sources.notes import Notes
from velvetdrum.signals.sources.stepper import Stepper

ROWS = [[0.5, 0.5, 60, 100, 1], [1.0, 0.25, 64, 50, 1], [1.0, 1.0, 67, 127, 2], [3.0, 0.5, 72, 90, 1]]


def written(rows, tempo_bpm=120.0, form=1, more=()):
    """A file with notes, by another library's writer: half a beat is 240 ticks."""
    file = mido.MidiFile(type=form, ticks_per_beat=480)
    tracks = [mido.MidiTrack(), mido.MidiTrack()] if form else [mido.MidiTrack()]
    file.tracks.extend(tracks)
    per_s = 480 * tempo_bpm / 60
    tracks[0].append(mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(tempo_bpm)))
    tracks[0].append(mido.MetaMessage("time_signature", numerator=3, denominator=4))
    events = [
        (round(row[0] * per_s), mido.Message("note_on", note=row[2], velocity=row[3], channel=row[4] - 1))
        for row in rows
    ]
    events += [
        (round((row[0] + row[1]) * per_s), mido.Message("note_on", note=row[2], velocity=0, channel=row[4] - 1))
        for row in rows
    ]
    events += list(more)
    now = 0
    for at, event in sorted(events, key=lambda item: item[0]):
        tracks[-1].append(event.copy(time=at - now))
        now = at
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


@pytest.mark.parametrize("form", [0, 1])
@pytest.mark.parametrize("tempo", [90.0, 120.0])
def test_notes_are_read_as_they_were_written(form, tempo):
    read = read_midi(written(ROWS, tempo, form))
    assert np.array(read.rows) == pytest.approx(np.array(sorted(ROWS)), abs=2e-3)
    assert read.tempo_bpm == pytest.approx(tempo, abs=0.01) and read.bar == 3 and not read.notes


def test_a_tempo_that_changes_moves_what_comes_after_it():
    """At 120 a beat is 480 ticks and half a second; from tick 960 on twice as slow."""
    slow = mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(60))
    rows = [[0.5, 0.5, 60, 100, 1], [2.0, 0.5, 62, 100, 1]]
    read = read_midi(written(rows, 120.0, 0, [(960, slow)]))
    assert [row[0] for row in read.rows] == pytest.approx([0.5, 1.0 + 2.0])
    assert "a map of 2 rows" in read.notes[0]


def test_a_map_of_tempos_and_meters_has_its_beats_where_the_file_has_them():
    """Three bars of 3/4, one of 6/8 in dotted quarters, the tempo changing at the second bar and within the third."""
    events = [
        (1440, mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(90))),
        (2880 + 240, mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(150))),
        (4320, mido.MetaMessage("time_signature", numerator=6, denominator=8)),
    ]
    rows = [[0.5, 0.5, 60, 100, 1], [14.0, 0.5, 62, 100, 1]]
    read = read_midi(written(rows, 120.0, 0, events))
    assert [(row["bar"], row["beat"], row["meter"], row["note"]) for row in read.map] == [
        (1, 1, "3/4", "1/4"),
        (2, 1, "3/4", "1/4"),
        (3, 1, "3/4", "1/4"),
        (3, 2, "3/4", "1/4"),
        (4, 1, "6/8", "3/8"),
    ]
    grid = BeatGrid.of(BeatSettings({"source": "map", "tempos": read.map}), None)
    third = 1.5 + 2.0
    beats = [0, 0.5, 1, 1.5, 1.5 + 2 / 3, 1.5 + 4 / 3, third]
    beats += [third + 1 / 3 + 0.2, third + 1 / 3 + 0.6, third + 1 / 3 + 1.0, third + 1 / 3 + 1.6]
    assert grid.time_of(np.arange(len(beats))) == pytest.approx(beats, abs=1e-5)


def test_a_file_in_one_even_count_needs_no_map():
    assert read_midi(written(ROWS)).map == []
    odd = mido.MetaMessage("time_signature", numerator=5, denominator=32)
    assert read_midi(written(ROWS, more=[(0, odd)])).map == []


def test_a_file_that_is_cut_off_gives_what_came_before():
    whole = written(ROWS)
    read = read_midi(whole[:-20])
    assert 1 <= len(read.rows) <= 4 and "cut off" in read.notes[0]
    assert read.rows[0][0] == pytest.approx(0.5, abs=1e-3) and read.rows[0][2] == 60


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "not a Standard MIDI File"),
        (b"RIFF....", "not a Standard MIDI File"),
        (b"MThd" + bytes(10), "no track of it"),
        (b"MThd" + bytes(5_000_000), "larger than 4 MB"),
        (written([]), "no notes"),
    ],
)
def test_what_is_none_is_refused_with_a_sentence(data, words):
    with pytest.raises(MidiError, match=words):
        read_midi(data)


@given(st.binary(max_size=400), st.integers(0, 200), st.integers(0, 60))
def test_damage_is_read_or_refused_and_never_falls_over(junk, at, drop):
    whole = written(ROWS)
    for data in (b"MThd" + junk, whole[:at] + junk + whole[at + drop :]):
        try:
            read = read_midi(data)
        except MidiError:
            continue
        assert all(len(row) == 5 and row[1] > 0 for row in read.rows)


def curve(times, **settings):
    named = NamedSignal("n", "Notes", "#ffffff", Notes(Notes.defaults() | settings))
    lists = NoteLists((note_list("a", "A", ROWS),))
    signals = SignalSet((named,), BeatSettings({}), None, 5.0, notes=lists)
    return signals.values("n", np.array(times))


def test_a_gate_is_up_while_a_note_sounds():
    assert curve([0.4, 0.6, 1.1, 1.9, 2.1, 3.2], reads="gate").tolist() == [0, 1, 1, 1, 0, 1]
    assert curve([0.6, 1.1, 1.9], reads="gate", channel=2).tolist() == [0, 1, 1]
    assert curve([0.6, 1.1, 3.2], reads="gate", low=70).tolist() == [0, 0, 1]
    assert curve([1.1, 1.9], reads="gate", softest=120).tolist() == [1, 1]


def test_each_onset_is_a_hit_however_close_the_notes_are():
    """Sixteen held notes, 40 ms apart, with a chord among them: each takes a stepper one on."""
    begins = [1.0 + 0.04 * n for n in range(16)]
    rows = [[begin, 2.0, 60, 100, 1] for begin in begins] + [[begins[3], 2.0, 67, 100, 1]]
    lists = NoteLists((note_list("a", "A", sorted(rows)),))
    notes = NamedSignal("n", "Notes", "#ffffff", Notes({"reads": "onset", "decay_ms": 500.0}))
    steps = NamedSignal("s", "Steps", "#ffffff", Stepper({"of": ["n"], "steps": 32}))
    signals = SignalSet((notes, steps), BeatSettings({}), None, 5.0, notes=lists)
    values = signals.values("s", np.array([0.5, *(begin + 0.03 for begin in begins), 4.0]))
    assert (np.diff(values)[:16] > 0).all() and values[-1] == values[-2]
    assert signals.values("n", np.array([begins[5]]))[0] == 1.0


def test_how_many_sound_and_their_pitch():
    assert curve([0.6, 1.1, 1.5, 4.0], reads="count", full=2).tolist() == [0.5, 1.0, 0.5, 0.0]
    pitches = curve([0.6, 3.2], reads="pitch")
    assert pitches == pytest.approx([0.0, 1.0])
    glided = curve([3.05], reads="pitch", glide_ms=100.0)
    assert glided[0] == pytest.approx((7 / 12 + 1.0) / 2, abs=1e-6)


def test_an_envelope_is_that_of_its_stages():
    shape = {"attack_ms": 100.0, "decay_ms": 200.0, "sustain": 50.0, "release_ms": 400.0, "by_velocity": 0.0}
    values = curve([0.55, 0.6, 0.7, 0.85, 0.99], reads="envelope", high=60, **shape)
    assert values == pytest.approx([0.5, 1.0, 0.75, 0.5, 0.5], abs=1e-9)
    assert curve([1.2, 1.45], reads="envelope", high=60, **shape) == pytest.approx([0.25, 0.0], abs=1e-9)
    soft = curve([1.1], reads="envelope", low=64, high=64, **(shape | {"by_velocity": 100.0}))
    assert soft == pytest.approx([50 / 127], abs=1e-6)


def test_without_notes_there_is_silence():
    named = NamedSignal("n", "Notes", "#ffffff", Notes(Notes.defaults()))
    assert not SignalSet((named,), BeatSettings({}), None, 5.0).values("n", np.arange(5.0)).any()
