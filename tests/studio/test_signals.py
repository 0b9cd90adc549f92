"""Signals over HTTP: curves, fitting, suggestions, beats, tables; and what is said to wrong questions."""

import json

import numpy as np
import pytest

from tests.audio import rhythms
from tests.conftest import RATE, sine, song, write_wav
from tests.deliver.test_marker_lists import with_cues
from tests.studio.conftest import MARK, wav
from velvetdrum.looks.role_signals import SIGNAL_ROLES
from velvetdrum.scene.document import new_patch
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.signals.views import axis_hz

SPAN = {"from_s": 0, "to_s": 4, "columns": 40}


@pytest.fixture(scope="module")
def drums(studio):
    samples = rhythms.played(rhythms.straight, rhythms.steady(120, 16))
    return studio.bring(wav(samples), "Drums.wav")["project"]


@pytest.fixture
def kick(studio, drums):
    """A kick pickup in the drums project, alone."""
    signal = new_signal("pickup", "Kick", low_hz=40.0, high_hz=110.0, detector="hits")
    studio.edit(drums, "/signals", [signal])
    return signal


def test_curves_by_columns_frames_and_with_a_draft(studio, drums, kick):
    found = studio.post(f"/projects/{drums}/curves", {"spans": [SPAN], "detail": kick["id"]}).json
    low, high = found["spans"][0]["curves"][kick["id"]]
    assert len(low) == len(high) == len(found["spans"][0]["unshaped"]) == 40
    assert max(high) > 300
    assert set(found["judged"]) == {"at_0", "at_1", "advice"}
    frames = studio.post(f"/projects/{drums}/curves", {"start": 0, "count": 90}).json["values"][kick["id"]]
    assert len(frames) == 90
    draft = [{"op": "replace", "path": "/signals/0/settings/invert", "value": True}]
    other = studio.post(f"/projects/{drums}/curves", {"start": 0, "count": 90, "draft": draft}).json["values"]
    assert np.allclose(np.array(frames) + other[kick["id"]], 1000, atol=2)
    assert studio.state(drums)["document"]["signals"][0]["settings"]["invert"] is False


@pytest.mark.parametrize(
    "question",
    [
        {},
        {"spans": []},
        {"spans": [{"from_s": 2, "to_s": 1, "columns": 9}]},
        {"spans": [{"from_s": "x", "to_s": 1, "columns": 9}]},
        {"spans": [SPAN | {"columns": 10**9}]},
        {"start": 0, "count": 10**9},
        {"signals": "kick", "spans": [SPAN]},
    ],
)
def test_wrong_questions_get_a_sentence(studio, drums, kick, question):
    answer = studio.post(f"/projects/{drums}/curves", question)
    assert answer.status_code == 400
    assert answer.json["error"].endswith(".")


def test_a_wrong_draft_says_where_it_is_wrong_and_keeps_the_project(studio, drums, kick):
    draft = [{"op": "replace", "path": "/signals/0/settings/high_hz", "value": 20}]
    answer = studio.post(f"/projects/{drums}/curves", {"spans": [SPAN], "draft": draft})
    assert answer.status_code == 422
    assert answer.json["problems"][0]["path"] == "/signals/0/settings/high_hz"
    assert studio.edit(drums, "/signals/0/settings/high_hz", 20).status_code == 422
    assert studio.state(drums)["document"]["signals"][0]["settings"]["high_hz"] == 110


def test_fit_reads_the_range_of_one_or_all(studio, drums, kick):
    both = [kick, new_signal("pickup", "Hats", low_hz=6000.0, high_hz=14000.0), new_signal("clock", "Beat")]
    studio.edit(drums, "/signals", both)
    found = studio.post(f"/projects/{drums}/fit-signals", {}).json
    assert set(found) == {both[0]["id"], both[1]["id"]}
    assert all(-119 <= ends["quiet_db"] < ends["loud_db"] <= 20 for ends in found.values())
    one = studio.post(f"/projects/{drums}/fit-signals", {"signals": [kick["id"]], "from_s": 1, "to_s": 5}).json
    assert list(one) == [kick["id"]]


def test_suggestions_are_named_for_what_they_are(studio, drums):
    found = studio.get(f"/projects/{drums}/suggestions").json
    assert 3 <= len(found) <= 4
    assert found[0]["name"] == "Kick"
    assert found[-1]["name"] == "Overall"
    assert len({item["name"] for item in found}) == len(found)
    signals = [new_signal("pickup", item["name"], **item["settings"]) for item in found]
    assert studio.edit(drums, "/signals", signals).status_code == 200


def test_the_beat_grid_and_its_corrections(studio, drums):
    def beats(**settings):
        draft = [{"op": "add", "path": f"/beats/{name}", "value": value} for name, value in settings.items()]
        return studio.post(f"/projects/{drums}/beats", {"draft": draft} if draft else {}).json

    plain = beats()
    assert plain["tempo_bpm"] == pytest.approx(120, rel=0.002)
    assert plain["confidence"] > 0.3
    assert plain["beats"][0][0] == pytest.approx(0.4, abs=0.02)
    assert beats(factor="2")["tempo_bpm"] == pytest.approx(240, rel=0.01)
    assert beats(factor="1/2")["tempo_bpm"] == pytest.approx(60, rel=0.01)
    bars = [time for time, first, _ in beats(shift=1)["beats"] if first]
    assert np.allclose(np.diff(bars), 2.0, atol=0.02)
    assert beats(source="typed", tempo_bpm=90)["tempo_bpm"] == 90
    waltz = beats(source="map", tempos=[{"bar": 1, "tempo_bpm": 120, "meter": "3/4"}], moved=[[1.0, 1.1]])
    assert [first for _, first, _ in waltz["beats"][:4]] == [True, False, False, True]
    assert all(time == pytest.approx(was + 0.1, abs=1e-3) for time, _, was in waltz["beats"])
    refused = studio.post(f"/projects/{drums}/beats", {"draft": [{"op": "add", "path": "/beats/tempos", "value": []}]})
    assert refused.status_code == 422
    taps = {"taps_s": [1.0, 1.61, 2.2, 2.8, 3.41]}
    assert studio.post(f"/projects/{drums}/taps", taps).json["tempo_bpm"] == pytest.approx(100, rel=0.01)
    refused = studio.post(f"/projects/{drums}/taps", {"taps_s": [1.0]})
    assert (refused.status_code, "four times" in refused.json["error"]) == (422, True)


def test_speech_has_no_grid_and_a_clock_rests(studio):
    project = studio.bring(wav(rhythms.free_speech(6.0)), "Voice.wav")["project"]
    found = studio.post(f"/projects/{project}/beats", {}).json
    assert (found["tempo_bpm"], found["beats"]) == (None, [])
    clock = new_signal("clock", "Beat")
    studio.edit(project, "/signals", [clock])
    values = studio.post(f"/projects/{project}/curves", {"start": 0, "count": 60}).json["values"][clock["id"]]
    assert set(values) == {0}


def test_tables_out_and_in(studio, drums, kick):
    table = studio.get(f"/projects/{drums}/signals.csv")
    assert table.mimetype == "text/csv"
    assert table.text.splitlines()[0] == "time_s,Kick"
    one = json.loads(studio.get(f"/projects/{drums}/signals.json?signal={kick['id']}").text)
    assert one["signals"][0]["name"] == "Kick"
    assert len(one["signals"][0]["values"]) == len(table.text.splitlines()) - 1
    assert studio.get(f"/projects/{drums}/signals.csv?signal=nobody").status_code == 404

    def bring(data):
        return studio.client.post(f"/projects/{drums}/points", data=data, headers=MARK)

    points = bring(table.data).json["points"]
    assert studio.edit(drums, "/signals", [new_signal("drawn", "Back", curve=points)]).status_code == 200
    assert "goes back in time" in bring(b"0,0\n2,1\n1,1\n").json["error"]
    assert "not a text table" in bring(b"\xff\xfe\x00\x81").json["error"]


def test_replacing_the_sound_keeps_every_signal(studio, drums, kick):
    bars = next(i for i, layer in enumerate(studio.state(drums)["document"]["layers"]) if layer["kind"] != "backdrop")
    studio.edit(drums, f"/layers/{bars}/patches", [new_patch("reach", kick, 0.0, 20.0, "add")])
    before = studio.state(drums)["document"]
    studio.bring(wav(sine(100, 3.0, -12)), "Other.wav", f"?project={drums}")
    after = studio.state(drums)["document"]
    assert after["tracks"][0]["media"] != before["tracks"][0]["media"]
    # They are fitted to the other sound; all else of them stays.
    fitted = {"quiet_db", "loud_db"}
    for now, then in zip(after["signals"], before["signals"], strict=True):
        assert {k: v for k, v in now["settings"].items() if k not in fitted} == {
            k: v for k, v in then["settings"].items() if k not in fitted
        }
    for now, then in zip(after["layers"], before["layers"], strict=True):
        assert now["patches"] == then["patches"] and now["id"] == then["id"]
    studio.post(f"/projects/{drums}/undo", {"revision": studio.state(drums)["revision"]})


def test_the_spectrum_of_a_tone_stands_at_its_frequency(studio):
    project = studio.bring(wav(sine(1000, 3.0, -20)), "Tone.wav")["project"]
    key = studio.state(project)["document"]["tracks"][0]["media"]
    found = studio.get(f"/sounds/{key}/spectrum?from=0.5&to=2.5").json
    peak = int(np.argmax(found["average"]))
    assert found["hz"][peak] == pytest.approx(1000, rel=0.1)
    assert found["average"][peak] == pytest.approx(-20, abs=0.5)
    codes = np.frombuffer(studio.get(f"/sounds/{key}/spectra?start=60&count=4").data, "<i2").reshape(4, -1)
    assert codes.shape[1] == len(axis_hz())
    assert codes[0, peak] / 100 == pytest.approx(-20, abs=0.5)
    picture = studio.get(f"/sounds/{key}/spectrogram?from=0&to=3&width=60&height=40")
    assert picture.mimetype == "image/png"
    for wrong in (
        "spectrum?from=0",
        "spectra?start=0&count=0",
        "spectrogram?from=0&to=1&width=9&height=99999",
        "spectra?start=0&count=5&channel=up",
    ):
        assert studio.get(f"/sounds/{key}/{wrong}").status_code == 400


def test_a_band_beyond_the_recording_is_said_to_be_empty(studio):
    project = studio.bring(wav(sine(1000, 1.0, -20, 16_000), 16_000), "Phone.wav")["project"]
    signal = new_signal("pickup", "Air", low_hz=9000.0, high_hz=14_000.0)
    studio.edit(project, "/signals", [signal])
    found = studio.post(f"/projects/{project}/curves", {"spans": [SPAN], "detail": signal["id"]}).json
    assert "nothing above 8000 Hz" in found["judged"]["advice"]


def test_a_very_short_track_has_curves(studio):
    project = studio.bring(wav(sine(100, 0.08, -10), RATE), "Tick.wav")["project"]
    studio.edit(project, "/signals", [new_signal("pickup", "All", low_hz=20.0, high_hz=20_000.0)])
    assert studio.post(f"/projects/{project}/curves", {"start": 0, "count": 3}).status_code == 200


def test_the_likeliest_tempos_can_be_chosen(studio):
    project = studio.bring(wav(rhythms.played(rhythms.twelve_eight, rhythms.steady(113))), "triplets.wav")["project"]
    found = studio.post(f"/projects/{project}/beats", {}).json
    assert [item["reading"] for item in found["readings"]] == ["1", "2", "3"]
    assert found["tempo_bpm"] == pytest.approx(found["readings"][0]["tempo_bpm"], rel=0.01)
    draft = [{"op": "add", "path": "/beats/reading", "value": "2"}]
    other = studio.post(f"/projects/{project}/beats", {"draft": draft}).json
    assert other["tempo_bpm"] == pytest.approx(found["readings"][1]["tempo_bpm"], rel=0.02)
    assert other["beats"] != found["beats"]


@pytest.mark.parametrize("role", list(SIGNAL_ROLES))
def test_a_signal_in_a_role_moves_with_the_sound(studio, drums, role):
    before = studio.state(drums)
    signal = studio.post(f"/projects/{drums}/role-signals", {"role": role}).json["signal"]
    assert signal["name"] == SIGNAL_ROLES[role] and studio.state(drums)["revision"] == before["revision"]
    draft = [{"op": "add", "path": "/signals/-", "value": signal}]
    values = studio.post(f"/projects/{drums}/curves", {"start": 0, "count": 240, "draft": draft}).json["values"]
    curve = np.array(values[signal["id"]]) / 1000
    assert curve.max() - curve.min() > (0.25 if role == "track" else 0.5), (role, curve.min(), curve.max())


def test_no_signal_in_a_role_that_nobody_has(studio, drums):
    assert studio.post(f"/projects/{drums}/role-signals", {"role": "tuba"}).status_code == 400


def test_a_role_without_a_sound_is_a_signal_all_the_same(studio):
    empty = studio.post("/projects", {"name": "Silent"}).json["id"]
    for role in ("kick", "beat", "wander"):
        assert studio.post(f"/projects/{empty}/role-signals", {"role": role}).json["signal"]["kind"]


def test_what_moves_a_setting_is_given_as_few_keyframes(studio, project):
    layer = studio.state(project)["document"]["layers"][0]["id"]
    draft = [
        {
            "op": "add",
            "path": "/signals/-",
            "value": new_signal("lfo", "Sway", shape="triangle", rate_hz=0.5) | {"id": "s"},
        },
        {"op": "add", "path": "/layers/0/patches", "value": [new_patch("move_x", {"id": "s"}, -20.0, 20.0)]},
    ]
    address = f"/projects/{project}/layers/{layer}/keyframes"
    keys = studio.post(address, {"setting": "move_x", "draft": draft}).json["keyframes"]
    values = [key["value"] for key in keys]
    assert (
        4 <= len(keys) <= 60
        and min(values) == pytest.approx(-20, abs=1.5)
        and max(values) == pytest.approx(20, abs=1.5)
    )
    fewer = studio.post(address, {"setting": "move_x", "tolerance": 0.2, "draft": draft}).json["keyframes"]
    assert len(fewer) <= len(keys)
    assert studio.post(address, {"setting": "blend"}).status_code == 404
    assert studio.post(f"/projects/{project}/layers/none/keyframes", {"setting": "move_x"}).status_code == 404


def test_marks_of_a_recording_come_as_markers_and_as_its_in_and_out_points(studio, tmp_path):
    path = write_wav(tmp_path / "a.wav", song(3.0), subtype="PCM_16")
    places = [(RATE // 2, "In"), (RATE, "Verse"), (RATE * 2, "out point")]
    project = studio.bring(with_cues(path, places).read_bytes(), "Marked.wav")["project"]
    entries = studio.get(f"/projects/{project}/recording-marks").json["entries"]
    assert [(entry["time_s"], entry["kind"]) for entry in entries] == [(0.5, "in"), (1.0, "marker"), (2.0, "out")]
