"""Batches in the page: what a table lacks, rows that fail and stop no other, a restart, a report."""

from __future__ import annotations

import csv
import io

import cv2
import numpy as np
import pytest

from tests.conftest import sine
from tests.studio.conftest import wav
from tests.waiting import until

SRT = b"1\n00:00:00,100 --> 00:00:00,700\nGood evening\n"
TABLE = """sound,title,speaker,captions,cover
one.wav,"The quay, at night",Harbour office,one.srt,cover.png
two.wav,=Second,,,
bad.wav,Third,,,
gone.wav,Fourth,,,
"""


@pytest.fixture
def begun(studio, project):
    found = studio.post_file(f"/projects/{project}/batches", TABLE.encode(), "episodes.csv")
    assert found.status_code == 201, found.json
    return found.json


def bring(studio, begun):
    done, picture = cv2.imencode(".png", np.full((20, 20, 3), 200, np.uint8))
    assert done
    files = {
        "one.wav": wav(sine(300, 1.0, -20.0)),
        "two.wav": wav(sine(500, 1.2, -20.0)),
        "bad.wav": b"no sound" * 50,
        "one.srt": SRT,
        "cover.png": picture.tobytes(),
    }
    for name, data in files.items():
        answer = studio.post_file(f"/batches/{begun['id']}/files", data, name)
        assert answer.status_code == 200, answer.json
    return answer.json


def ended(studio, ident, seconds=120):
    def all_ended():
        state = studio.get(f"/batches/{ident}").json
        done = state["state"] == "done" and all(row["state"] in ("done", "failed") for row in state["rows"])
        return state if done else None

    return until(all_ended, "the end of the batch", seconds)


def test_what_is_missing_is_listed_before_anything_starts(studio, begun):
    assert set(begun["needs"]) == {"one.wav", "two.wav", "bad.wav", "gone.wav", "one.srt", "cover.png"}
    state = bring(studio, begun)
    assert state["needs"] == {"gone.wav": "sound"}
    assert [row["state"] for row in state["rows"]] == ["ready", "ready", "ready", "lacks"]
    other = studio.post_file(f"/batches/{begun['id']}/files", b"x", "../other.wav")
    assert other.status_code == 422 and "names no file" in other.json["error"]


def test_rows_become_videos_and_one_that_fails_stops_no_other(studio, begun):
    bring(studio, begun)
    wanted = {"frames": ["128x96", "96x128"], "speed": "quick", "name": "{project} {frame}"}
    assert studio.post(f"/batches/{begun['id']}/start", wanted).status_code == 202
    state = ended(studio, begun["id"])
    assert [row["state"] for row in state["rows"]] == ["done", "done", "failed", "failed"], state
    assert state["rows"][0]["made"] == ["The quay, at night wide.mp4", "The quay, at night tall.mp4"]
    assert "gone.wav" in state["rows"][3]["message"] and state["rows"][2]["message"]
    rows = list(csv.reader(io.StringIO(studio.client.get(f"/batches/{begun['id']}/report.csv").text)))
    assert rows[0][:3] == ["line", "title", "state"] and len(rows) == 5
    # Nothing that a spreadsheet would take for a formula.
    assert rows[2][1] == "'=Second"
    assert studio.post(f"/batches/{begun['id']}/start", wanted).status_code == 409


def test_a_row_is_made_in_its_own_look(studio, project):
    table = (
        b"sound,title,speaker,captions,look\none.wav,Talk,Harbour office,one.srt,Evening talk\none.wav,Odd,,,nothing\n"
    )
    begun = studio.post_file(f"/projects/{project}/batches", table, "episodes.csv").json
    for name, data in (("one.wav", wav(sine(300, 1.0, -20.0))), ("one.srt", SRT)):
        studio.post_file(f"/batches/{begun['id']}/files", data, name)
    wanted = {"frames": ["96x96"], "speed": "quick", "name": "{project}"}
    assert studio.post(f"/batches/{begun['id']}/start", wanted).status_code == 202
    rows = ended(studio, begun["id"])["rows"]
    assert [row["state"] for row in rows] == ["done", "failed"]
    assert rows[1]["message"] == "There is no look nothing."
    document = next(row.document for row in studio.services.exports.listed() if row.name == "Talk.mp4")
    assert document["look"]["family"] == "Speech" and document["tags"]["speaker"] == "Harbour office"
    assert [cue["text"] for track in document["cue_tracks"].values() for cue in track["cues"].values()] == [
        "Good evening"
    ]


def test_a_batch_goes_on_where_a_stopped_server_left_it(studio, begun):
    from velvetdrum.store import batches

    bring(studio, begun)
    here = studio.services
    wanted = studio.post(f"/batches/{begun['id']}/start", {"frames": ["128x96"], "speed": "quick"})
    assert wanted.status_code == 202
    ended(studio, begun["id"])
    row = batches.find(here.db, begun["id"])
    kept = {line: said for line, said in row.report.items() if line == "2"}
    batches.set_report(here.db, row.id, kept)
    batches.set_state(here.db, row.id, "running")
    here.batches.resume()
    state = ended(studio, begun["id"])
    # The first row is not made again; the files of the others are gone with the folder by now, and that is said.
    assert state["rows"][0]["state"] == "done" and all(row["message"] for row in state["rows"][1:])


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"title,speaker\na,b\n", "sound at least"),
        (b"sound,colour\na,b\n", "It has colour"),
        (b"sound\n", "1 to 2,000"),
        (b"\xff\xfe", "not UTF-8"),
    ],
)
def test_a_wrong_table_is_refused_with_a_sentence(studio, project, data, words):
    answer = studio.post_file(f"/projects/{project}/batches", data, "wrong.csv")
    assert answer.status_code == 422 and words in answer.json["error"]
