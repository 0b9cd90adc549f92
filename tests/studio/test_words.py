"""Words at the server: files in and out, alignment that survives, checks, typefaces."""

from __future__ import annotations

import io
import struct

import numpy as np
import pytest
from fontTools.ttLib import TTFont

from tests.studio.conftest import wav
from tests.waiting import until
from tests.words.speech import speak
from velvetdrum.picture.typesetting.families import shipped_file
from velvetdrum.scene.document import new_layer
from velvetdrum.store import alignments
from velvetdrum.words.cue_files import read_cues

TEXT = "The night ferry leaves at ten past nine. Fog is expected after midnight."


@pytest.fixture
def spoken(studio):
    """A project with a voice in it."""
    samples = speak(TEXT, "en-us").pcm[0].astype(float) / 32768
    return studio.bring(wav(samples[:, None]), "voice.wav")["project"]


def aligned(studio, ident, seconds=60):
    def ended():
        state = studio.get(f"/alignments/{ident}").json
        return state if state["state"] != "running" else None

    return until(ended, "the end of the alignment", seconds)


def test_words_are_aligned_in_the_background_and_wait_for_a_page(studio, spoken):
    answer = studio.post(f"/projects/{spoken}/alignments", {"text": TEXT, "speaker": "Office"})
    assert answer.status_code == 202
    ident = answer.json["alignment"]
    state = aligned(studio, ident)
    assert state["state"] == "done" and state["found"]["lost"] == 0
    cues = list(state["found"]["cues"].values())
    assert cues[0]["speaker"] == "Office" and cues[0]["words"][0][2] == "The"
    assert studio.get(f"/projects/{spoken}/alignments/latest").json["alignment"] == ident
    studio.post(f"/alignments/{ident}/taken")
    assert studio.get(f"/projects/{spoken}/alignments/latest").json["alignment"] is None


def test_an_alignment_that_was_interrupted_is_gone_on_with(studio, spoken):
    track = studio.state(spoken)["document"]["tracks"][0]
    wanted = {"text": TEXT, "language": "en", "song": False, "by": "sentence", "chars": 32, "lines": 2}
    wanted |= {"pause_s": 0.6, "speaker": "", "start_s": 0.0, "end_s": track["out_s"], "media": track["media"]}
    ident = alignments.create(studio.services.db, spoken, wanted)
    studio.services.alignments.resume()
    assert aligned(studio, ident)["state"] == "done"


def test_an_alignment_is_cancelled(studio, spoken):
    text = " ".join([TEXT] * 40)
    ident = studio.post(f"/projects/{spoken}/alignments", {"text": text}).json["alignment"]
    studio.post(f"/alignments/{ident}/cancel")
    assert aligned(studio, ident)["state"] in ("cancelled", "failed", "done")


@pytest.mark.parametrize(
    ("given", "sentence"),
    [
        ({"text": "  "}, "no words to align"),
        ({"text": "committee funding announced newspapers libraries regional bicycles"}, "do not sound like"),
        ({"text": "x", "start_s": 1.0, "end_s": 1.1}, "too short"),
    ],
)
def test_what_can_not_be_aligned_is_said(studio, spoken, given, sentence):
    answer = studio.post(f"/projects/{spoken}/alignments", given)
    told = answer.json["error"] if answer.status_code == 422 else aligned(studio, answer.json["alignment"])["error"]
    assert sentence in told


def test_unknown_languages_and_projects_are_refused(studio, spoken):
    assert studio.post(f"/projects/{spoken}/alignments", {"text": "x", "language": "tlh"}).status_code == 400
    assert studio.get("/alignments/abcdefabcdef").status_code == 404
    assert studio.post("/projects/abcdefabcdef/alignments", {"text": "x"}).status_code == 404


def send(studio, path, data, name):
    return studio.client.post(path, data=data, headers={"X-Velvet-Drum": "1", "X-File-Name": name})


def test_files_of_cues_come_in_with_their_repairs_and_go_out(studio, spoken):
    text = "2\n00:00:01,000 --> 00:00:02,000\nlater\n\n1\n00:00:00,200 --> 00:00:00,900\nfirst\n"
    answer = send(studio, f"/projects/{spoken}/cues", text.encode(), "a.srt").json
    assert len(answer["cues"]) == 2 and "order" in answer["repairs"][0]
    track = {"name": "T", "language": "en", "cues": answer["cues"]}
    studio.edit(spoken, "/cue_tracks", {"t": track})
    for form in ("srt", "vtt", "lrc", "ass", "ttml", "json", "txt"):
        out = studio.get(f"/projects/{spoken}/cues/t.{form}")
        assert out.status_code == 200 and b"later" in out.data
        if form != "txt":
            assert [cue.text for cue in read_cues(out.data, f"x.{form}").found.cues] == ["first", "later"]
    assert studio.get(f"/projects/{spoken}/cues/t.exe").status_code == 404
    bad = send(studio, f"/projects/{spoken}/cues", b"\x89PNG\r\n\x1a\n" + bytes(9), "a.srt")
    assert bad.status_code == 422 and "no text file" in bad.json["error"]


def test_cues_in_a_file_count_from_where_the_video_begins(studio, spoken):
    cues = {"a": {"start_s": 1.0, "end_s": 1.5, "text": "early"}, "b": {"start_s": 2.0, "end_s": 3.0, "text": "kept"}}
    studio.edit(spoken, "/cue_tracks", {"t": {"name": "T", "language": "", "cues": cues}})
    studio.edit(spoken, "/tracks/0/in_s", 1.75)
    (cue,) = read_cues(studio.get(f"/projects/{spoken}/cues/t.srt").data, "x.srt").found.cues
    assert (cue.text, cue.start_s) == ("kept", pytest.approx(0.25))


def test_lines_pauses_taps_and_the_delay_of_a_hand(studio, spoken):
    lines = studio.post(f"/projects/{spoken}/lines").json["cues"]
    assert 2 <= len(lines) <= 4 and all(cue["text"] == "" for cue in lines.values())
    pauses = studio.get(f"/projects/{spoken}/pauses").json["pauses"]
    assert any(high - low > 0.2 for low, high in pauses)
    tapped = studio.post(
        f"/projects/{spoken}/tapped", {"text": "one line\nanother", "taps_s": [0.5, 2.0], "delay_s": 0.1}
    ).json["cues"]
    assert sorted(cue["start_s"] for cue in tapped.values()) == [0.4, 1.9]
    clicks = [float(n) for n in range(6)]
    late = studio.post("/tap-delay", {"clicks_s": clicks, "taps_s": [at + 0.12 for at in clicks]}).json
    assert late["delay_s"] == pytest.approx(0.12)
    assert studio.post("/tap-delay", {"clicks_s": clicks, "taps_s": []}).status_code == 422


def test_checks_find_what_to_mend_and_measure_contrast(studio, spoken):
    cues = {"a": {"start_s": 0.2, "end_s": 0.7, "text": "x" * 60}, "b": {"start_s": 0.72, "end_s": 3.0, "text": "fine"}}
    studio.edit(spoken, "/cue_tracks", {"t": {"name": "T", "language": "", "cues": cues}})
    found = studio.get(f"/projects/{spoken}/checks").json["findings"]
    assert {"reading speed", "line length", "gap"} == {item["check"] for item in found}
    ground = new_layer("shape", form="rectangle", width=300.0, height=300.0, plain="#f0e6da")
    studio.edit(spoken, "/layers", [ground, new_layer("lyrics", enter="none")])
    found = studio.get(f"/projects/{spoken}/checks?contrast=1").json["findings"]
    low = [item for item in found if item["check"] == "contrast"]
    assert {item["cue"] for item in low} == {"a", "b"} and low[0]["mending"] == "plate"


def test_typefaces_are_listed_brought_in_used_and_carried(studio, spoken):
    families = studio.get("/typefaces").json["families"]
    assert len(families) >= 11 and all(item["path"].startswith("M") for item in families)
    font = TTFont(shipped_file("caveat-400"))
    font.flavor = "woff2"
    for record in font["name"].names:
        if record.nameID in (1, 16):
            record.string = "Quay Hand"
    packed = io.BytesIO()
    font.save(packed)
    taken = send(studio, "/typefaces", packed.getvalue(), "quay.woff2").json
    assert taken["family"] == "Quay Hand" and len(taken["key"]) == 64
    assert any(item["name"] == "Quay Hand" for item in studio.get("/typefaces").json["families"])
    studio.edit(spoken, "/layers", [new_layer("text", family=taken["key"], text="hello", size=30.0)])
    frame = studio.post(f"/projects/{spoken}/frames", {"frames": [0], "width": 320})
    assert frame.status_code == 200 and len(frame.data) > 500
    # The project file carries it, and another studio takes it from there.
    bundle = studio.get(f"/projects/{spoken}/file").data
    assert taken["key"].encode() in bundle
    assert studio.bring(bundle, "project.vdrum")["state"] == "done"


def font_bytes() -> bytes:
    return shipped_file("caveat-400").read_bytes()


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (b"no font at all", "no typeface"),
        (b"", "no typeface"),
        (font_bytes()[:900], "damaged"),
        (b"OTTO" + bytes(600), "damaged"),
        (b"wOF2" + bytes(12) + struct.pack(">I", 1 << 31) + bytes(64), "unpacks to more"),
        (b"\x00\x01\x00\x00" + np.random.default_rng(3).bytes(4000), "damaged"),
    ],
)
def test_files_that_are_no_typefaces_are_refused_with_a_sentence(studio, data, sentence):
    answer = send(studio, "/typefaces", data, "x.ttf")
    assert answer.status_code in (400, 422) and answer.json["error"].endswith(".")
    assert sentence in answer.json["error"] or answer.status_code == 400


def test_taps_and_points_beyond_what_a_project_holds_are_refused(studio, project):
    body = {"text": "one\ntwo", "taps_s": [1.0, 86_401.0]}
    answer = studio.post(f"/projects/{project}/tapped", body)
    assert answer.status_code == 400 and "taps_s/1" in answer.json["error"]
    for second in ("86401", "1e300", "-1"):
        answer = studio.post_file(f"/projects/{project}/points", f"0,0.5\n{second},1\n".encode(), "t.csv")
        assert answer.status_code == 422 and "Line 2" in answer.json["error"], answer.json
    late = {"text": "words", "start_s": 5_000.0, "end_s": 5_010.0}
    answer = studio.post(f"/projects/{project}/alignments", late)
    assert answer.status_code == 422 and "after the recording ends" in answer.json["error"]
