"""Markers and cues as lists: there and back, typed by others, damaged; marks of recordings."""

import json
import struct
from contextlib import suppress
from fractions import Fraction

import av
import numpy as np
import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import RATE, sine, write_wav
from velvetdrum.audio.sound_marks import sound_marks
from velvetdrum.deliver.marker_lists import ListError, csv_of, entries_of, otio_of, read_list
from velvetdrum.scene.document import new_document, parse
from velvetdrum.scene.frames import FrameSize


@pytest.fixture(scope="module")
def project():
    document = new_document("Quay", frame=FrameSize(320, 180), rate=Fraction(30), layers=[]) | {"length_s": 60.0}
    document["markers"] = [
        {"time_s": 1.5, "text": 'Drums, and "all"'},
        {"time_s": 12.0, "text": "Second part", "chapter": True},
    ]
    cue = {"start_s": 3.0, "end_s": 5.0, "text": "Lamps on\nthe quay", "words": []}
    document["cue_tracks"] = {"c": {"name": "Words", "language": "en", "cues": {"a": cue}}}
    return parse(document)


@pytest.mark.parametrize("form", ["csv", "otio"])
def test_a_list_comes_back_as_it_was(project, form):
    entries = entries_of(project)
    text = csv_of(entries) if form == "csv" else otio_of(entries, project)
    back = read_list(text.encode())
    kept = [entry for entry in entries if form == "csv" or entry.kind not in ("in", "out")]
    assert [(e.kind, e.text) for e in back] == [(e.kind, e.text) for e in kept]
    assert [e.time_s for e in back] == pytest.approx([e.time_s for e in kept], abs=1 / 60)
    assert [e.end_s for e in back if e.kind == "cue"] == pytest.approx([5.0])


def test_another_library_reads_the_timeline(project):
    timeline = otio.adapters.read_from_string(otio_of(entries_of(project), project), "otio_json")
    (gap,) = timeline.tracks[0]
    assert gap.duration().to_seconds() == pytest.approx(60.0)
    assert [marker.name for marker in gap.markers][-1] == "Second part"


@pytest.mark.parametrize(
    ("text", "times"),
    [
        ("1.5,Drums\n12,All", [1.5, 12.0]),
        ("time;text\n0:01,5;Drums\n1:02:03;All", [1.5, 3723.0]),
        ("text\ttime_s\nDrums\t7", [7.0]),
        ("9,late\n2,early", [2.0, 9.0]),
    ],
)
def test_tables_are_read_as_people_write_them(text, times):
    assert [entry.time_s for entry in read_list(text.encode())] == pytest.approx(times)


def test_a_timeline_without_markers_gives_its_cuts():
    track = otio.schema.Track("V")
    for name, length in (("One", 48), ("Two", 24)):
        span = otio.opentime.TimeRange(otio.opentime.RationalTime(10, 24), otio.opentime.RationalTime(length, 24))
        track.append(otio.schema.Clip(name, source_range=span))
    text = otio.adapters.write_to_string(otio.schema.Timeline("T", tracks=[track]), "otio_json")
    assert [(entry.time_s, entry.text) for entry in read_list(text.encode())] == [(0.0, "One"), (2.0, "Two")]


def test_a_timeline_of_one_clip_says_which_part_is_used():
    """The clip shows its recording from second 2 to 5; its marker lies at second 3 of the recording."""
    span = otio.opentime.TimeRange(otio.opentime.RationalTime(48, 24), otio.opentime.RationalTime(72, 24))
    clip = otio.schema.Clip("Take", source_range=span)
    place = otio.opentime.TimeRange(otio.opentime.RationalTime(72, 24), otio.opentime.RationalTime(0, 24))
    clip.markers.append(otio.schema.Marker("Bell", place))
    track = otio.schema.Track("V", children=[clip])
    text = otio.adapters.write_to_string(otio.schema.Timeline("T", tracks=[track]), "otio_json")
    entries = [(entry.time_s, entry.kind) for entry in read_list(text.encode())]
    assert entries == [(2.0, "in"), (3.0, "marker"), (5.0, "out")]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "no line with a time"),
        (b"\xff\xfe\x00", "no text"),
        (b"time,text\nsoon,Drums", "Line 2 has no time"),
        (b"{", "no OpenTimelineIO file"),
        (b'{"a":' * 200 + b"1" + b"}" * 200, "nested deeper"),
        (b"1,x\n" * 2000, "up to 1,000 markers"),
        (b"1" * 5_000_000, "larger than 4 MB"),
    ],
)
def test_what_is_none_is_refused_with_a_sentence(data, words):
    with pytest.raises(ListError, match=words):
        read_list(data)


@given(st.one_of(st.binary(max_size=300), st.text(max_size=200).map(str.encode)))
def test_junk_is_read_or_refused(data):
    with suppress(ListError):
        assert read_list(data)


def with_cues(path, places):
    """A WAVE file with cue points and their labels."""
    body = path.read_bytes()
    cue = struct.pack("<I", len(places))
    labels = b"adtl"
    for number, (sample, text) in enumerate(places, 1):
        cue += struct.pack("<II4sIII", number, sample, b"data", 0, 0, sample)
        part = struct.pack("<I", number) + text.encode() + b"\0"
        labels += b"labl" + struct.pack("<I", len(part)) + part + b"\0" * (len(part) % 2)
    body += b"cue " + struct.pack("<I", len(cue)) + cue + b"LIST" + struct.pack("<I", len(labels)) + labels
    path.write_bytes(body[:4] + struct.pack("<I", len(body) - 8) + body[8:])
    return path


def test_cue_points_of_a_wave_file_are_read_to_the_sample(tmp_path):
    path = with_cues(
        write_wav(tmp_path / "a.wav", sine(440, 2.0, -12.0), 44_100), [(44_100, "Verse"), (22_050, "Start")]
    )
    assert sound_marks(path) == [(0.5, "Start"), (1.0, "Verse")]
    assert sound_marks(write_wav(tmp_path / "b.wav", sine(440, 1.0, -12.0))) == []


@given(st.binary(max_size=200))
def test_damaged_cue_chunks_never_fall_over(tmp_path_factory, junk):
    path = write_wav(tmp_path_factory.mktemp("w") / "a.wav", sine(440, 0.1, -12.0))
    path.write_bytes(path.read_bytes() + b"cue " + struct.pack("<I", len(junk)) + junk + b"LIST" + junk)
    assert len(sound_marks(path)) <= 1000


def test_chapters_of_a_recording_are_read(tmp_path):
    path = tmp_path / "a.mp3"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("mp3", rate=RATE, layout="mono")
        samples = sine(440, 4.0, -12.0).astype(np.float32)
        frame = av.AudioFrame.from_ndarray(samples[None], format="fltp", layout="mono")
        frame.sample_rate = RATE
        container.set_chapters(
            [
                {"id": 1, "start": 0, "end": 2000, "time_base": Fraction(1, 1000), "metadata": {"title": "Harbour"}},
                {"id": 2, "start": 2000, "end": 4000, "time_base": Fraction(1, 1000), "metadata": {"title": "Weather"}},
            ]
        )
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    assert sound_marks(path) == [(0.0, "Harbour"), (2.0, "Weather")]


def test_otio_is_json(project):
    assert json.loads(otio_of(entries_of(project), project))["OTIO_SCHEMA"].startswith("Timeline")
