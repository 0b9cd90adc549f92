"""Several tracks in a project: brought in beside each other, summed, listened to one by one, exported, refused."""

import io

import numpy as np
import pytest
import soundfile

from tests.conftest import RATE, sine, song
from tests.mix.conftest import said
from tests.studio.conftest import wav
from tests.waiting import until
from velvetdrum.scene.document import new_patch
from velvetdrum.scene.signal_part import new_signal
from velvetdrum.scene.track_roles import guessed_role
from velvetdrum.scene.tracks import MOST_TRACKS

VOICE = said([(0.5, 1.0, -12), (2.0, 3.0, -12)], 4.0)
BED = sine(300.0, 6.0, -20.0)


@pytest.fixture(scope="module")
def episode(studio):
    """A voice with a bed under it."""
    ident = studio.bring(wav(VOICE), "Host voice.wav")["project"]
    studio.bring(wav(BED, 44_100), "Music bed.wav", f"?project={ident}&track=beside")
    summed(studio, ident)
    return ident


def summed(studio, ident):
    """The state of a project's sum, once that is here."""
    return until(lambda: (state := studio.get(f"/projects/{ident}/sum").json)["ready"] and state, "the sum")


def document(studio, ident):
    return studio.state(ident)["document"]


def changed(studio, ident, path, value):
    answer = studio.edit(ident, path, value)
    assert answer.status_code == 200, answer.json
    return summed(studio, ident)


def heard(studio, ident, start=0, count=RATE * 4):
    key = studio.get(f"/projects/{ident}/sum").json["key"]
    data = studio.get(f"/sounds/{key}/pcm?start={start}&count={count}").data
    channels = studio.get(f"/sounds/{key}").json["heard"]
    return np.frombuffer(data, "<i2").reshape(-1, channels).mean(axis=1) / 32767


def test_a_second_track_lies_under_the_first_as_long_as_that_is_used(studio, episode):
    now = document(studio, episode)
    voice, bed = now["tracks"]
    assert [track.get("settings", {}).get("role") for track in (voice, bed)] == ["voice", "bed"]
    assert now["used"] == {"in_s": 0.0, "out_s": 4.0} and bed["out_s"] == 4.0
    state = summed(studio, episode)
    assert state["key"] not in (voice["media"], bed["media"]) and not state["sentence"]
    both = heard(studio, episode)
    # The bed came at 44.1 kHz.
    expected = VOICE + 0.1 * np.sin(2 * np.pi * 300.0 * 44_100 / RATE * np.arange(RATE * 4) / RATE)
    assert np.abs(both - expected)[100:-100].max() < 4 / 32767


def test_a_project_of_one_track_is_what_it_was(studio, project):
    before = document(studio, project)
    state = summed(studio, project)
    assert state["key"] == before["tracks"][0]["media"] and "used" not in before
    # A gain of its own makes it a sum of one.
    track = before["tracks"][0]
    louder = changed(studio, project, "/tracks", [track | {"settings": {"gain_db": -6.0}}])
    assert louder["key"] != state["key"]
    facts = [studio.get(f"/sounds/{key}").json for key in (state["key"], louder["key"])]
    assert facts[1]["loudness_lufs"] == pytest.approx(facts[0]["loudness_lufs"] - 6.0, abs=0.02)
    assert changed(studio, project, "/tracks", [track])["key"] == state["key"]


def test_a_bed_goes_down_and_the_page_sees_by_how_much(studio, episode):
    before = document(studio, episode)["tracks"]
    ducked = before[1]["settings"] | {"ducked": True, "depth_db": 18.0, "hold_ms": 200.0, "release_ms": 200.0}
    changed(studio, episode, "/tracks/1/settings", ducked)
    answer = studio.get(f"/projects/{episode}/track-gains?from=0&to=4&columns=401").json["gains"]
    gains = np.array(answer[before[1]["id"]])
    assert before[0]["id"] not in answer
    assert gains[[55, 250]] == pytest.approx([-18.0, -18.0]) and gains[[10, 165, 380]] == pytest.approx([0, 0, 0])
    changed(studio, episode, "/tracks", before)


def curve(studio, ident, signal):
    answer = studio.post(f"/projects/{ident}/curves", {"start": 0, "count": 120})
    return np.array(answer.json["values"][signal])


def test_a_gain_follows_a_signal_as_few_points(studio, episode):
    """A triangle of two seconds between -20 and 0 dB is a handful of points, and is heard."""
    before = document(studio, episode)
    wave = new_signal("lfo", "Slow", shape="triangle", rate_hz=0.5)
    assert studio.edit(episode, "/signals", [wave]).status_code == 200
    path = f"/projects/{episode}/signals/{wave['id']}/gain-points"
    points = studio.post(path, json={"low_db": -20, "high_db": 0}).json["points"]
    assert 4 <= len(points) <= 10
    times, gains = np.array([[point["time_s"], point["value"]] for point in points]).T
    at = np.array([0.25, 0.5, 1.0, 1.75, 3.1])
    swing = 1 - np.abs((at / 2) % 1 * 2 - 1)
    assert np.interp(at, times, gains) == pytest.approx(-20 + 20 * swing, abs=0.6)
    changed(studio, episode, "/tracks/1", before["tracks"][1] | {"gain": points})
    heard_db = studio.get(f"/projects/{episode}/track-gains?from=0&to=4&columns=401").json["gains"]
    assert np.interp(at, np.linspace(0, 4, 401), heard_db[before["tracks"][1]["id"]]) == pytest.approx(
        -20 + 20 * swing, abs=0.6
    )
    assert studio.post(f"/projects/{episode}/signals/gone/gain-points", json={}).status_code == 404
    assert studio.post(path, json={"low_db": -200}).status_code == 400
    changed(studio, episode, "/tracks/1", before["tracks"][1])
    assert studio.edit(episode, "/signals", before["signals"]).status_code == 200


def test_voices_are_heard_as_they_were_recorded_while_asked(studio, episode):
    """A high-pass far above the voice takes it away; before it, the voice is there."""
    before = document(studio, episode)["tracks"][0]["settings"]
    changed(studio, episode, "/tracks/0/settings", before | {"high_pass_hz": 300.0})

    def piece(more=""):
        data = studio.get(f"/projects/{episode}/pcm?start={RATE * 2}&count={RATE}{more}").data
        return np.frombuffer(data, "<i2").reshape(-1, 2).mean(axis=1) / 32767

    plain = VOICE[RATE * 2 : RATE * 3] + 0.1 * np.sin(
        2 * np.pi * 300.0 * 44_100 / RATE * np.arange(RATE * 2, RATE * 3) / RATE
    )
    assert np.std(piece()) < 0.9 * np.std(plain)
    assert piece("&sum=now") == pytest.approx(piece(), abs=3 / 32767), "mixed just now, it is the sum"
    assert np.std(piece("&sum=recorded")) == pytest.approx(np.std(plain), rel=0.05)
    assert studio.get(f"/projects/{episode}/pcm?start=0&count=10&sum=loud").status_code == 400
    changed(studio, episode, "/tracks/0/settings", before)


def test_a_pickup_hears_the_sum_a_track_or_a_part(studio, episode):
    tracks = document(studio, episode)["tracks"]

    def pickup(ident, listens):
        settings = {"low_hz": 250.0, "high_hz": 350.0, "quiet_db": -60.0, "loud_db": -10.0, "listens": listens}
        return {"id": ident, "name": ident, "colour": "#ff7a66", "kind": "pickup", "settings": settings}

    names = ["", tracks[0]["id"], tracks[1]["id"], "/percussive", f"{tracks[1]['id']}/harmonic", "nobody"]
    changed(studio, episode, "/signals", [pickup(f"s{number}", name) for number, name in enumerate(names)])
    sums = [curve(studio, episode, f"s{number}") for number in range(len(names))]
    # The bed sounds all the time, the voice from 0.5 s on; the bed is harmonic, and nobody is silent.
    assert sums[0][10:].min() > 300 and sums[2][10:].min() > 300 and sums[1][:10].max() < 100
    assert sums[4][10:-10] == pytest.approx(sums[2][10:-10], abs=40)
    assert sums[3][90:110].max() < sums[0][90:110].min() - 100
    assert not sums[5].any()
    changed(studio, episode, "/signals", [])


def test_a_figure_listens_to_its_track_alone(studio, episode):
    tracks = document(studio, episode)["tracks"]
    layers = document(studio, episode)["layers"]
    figure = next(layer for layer in layers if "listens" in layer["settings"])
    index = layers.index(figure)

    def frame():
        answer = studio.post(f"/projects/{episode}/frames", {"frames": [6], "width": 160, "form": "png"})
        assert answer.status_code == 200
        return answer.data

    all_of_it = frame()
    changed(studio, episode, f"/layers/{index}/settings/listens", tracks[0]["id"])
    assert frame() != all_of_it
    changed(studio, episode, f"/layers/{index}/settings/listens", "")
    assert frame() == all_of_it


def test_the_export_is_the_sum(studio, episode):
    tracks = document(studio, episode)["tracks"]
    moved = [tracks[0], tracks[1] | {"at_s": 1.0, "out_s": 2.0, "length_s": 2.0, "settings": {"gain_db": -6.0}}]
    changed(studio, episode, "/tracks", moved)
    answer = studio.post(f"/projects/{episode}/exports", {"format": "sound-wav", "loudness": None})
    assert answer.status_code in (200, 201, 202), answer.json
    assert studio.wait_export(answer.json["id"])["state"] == "done"
    data, rate = soundfile.read(io.BytesIO(studio.get(f"/exports/{answer.json['id']}/video").data))
    assert rate == RATE and len(data) == RATE * 4
    mono = data if data.ndim == 1 else data.mean(axis=1)
    bed = 0.1 * np.sin(2 * np.pi * 300.0 * 44_100 / RATE * np.arange(RATE * 2) / RATE) * 10 ** (-6 / 20)
    expected = VOICE.copy()
    expected[RATE : RATE * 3] += bed
    inside = np.r_[0 : RATE - 200, RATE + 200 : RATE * 3 - 200, RATE * 3 + 200 : RATE * 4 - 100]
    assert np.abs(mono - expected)[inside].max() < 3 / 32767, "all but the rounding of files of 16 bit"
    changed(studio, episode, "/tracks", tracks)


def test_words_are_found_in_the_voice(studio, episode):
    key = studio.services.sums.voice_key(document(studio, episode))
    studio.services.sums.finish(key)
    voice = studio.services.recording(key)
    assert voice.facts.first_sound_s == pytest.approx(0.5, abs=0.01)
    assert np.abs(voice.pcm[:, 0] / 32767 - VOICE).max() < 2 / 32767


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"at_s": -1}, "begins within 3 hours"),
        ({"length_s": 0}, "lasts at least 0.05 s"),
        ({"settings": {"gain_db": 900}}, "Gain"),
        ({"settings": {"nothing": 1}}, "nothing"),
        ({"gain": [{"time_s": 2, "value": 0}, {"time_s": 1, "value": 0}]}, "in order of time"),
        ({"colour": "red"}, "#rrggbb"),
        ({"media": "gone"}, "content hash"),
        ({"id": "a/b"}, "without a slash"),
    ],
)
def test_what_a_track_can_not_be_is_said_in_a_sentence(studio, episode, change, words):
    tracks = document(studio, episode)["tracks"]
    answer = studio.edit(episode, "/tracks", [tracks[0], tracks[1] | change])
    assert answer.status_code == 422 and words in answer.json["error"], answer.json
    assert document(studio, episode)["tracks"] == tracks


def test_more_tracks_than_there_may_be_and_a_recording_that_is_gone(studio, episode):
    tracks = document(studio, episode)["tracks"]
    many = [tracks[0] | {"id": f"t{number}"} for number in range(64)]
    answer = studio.edit(episode, "/tracks", many)
    assert answer.status_code == 422 and f"up to {MOST_TRACKS} tracks, not 64" in answer.json["error"]
    gone = tracks[1] | {"media": "0" * 64, "id": "gone"}
    assert studio.edit(episode, "/tracks", [tracks[0], gone]).status_code == 200
    state = until(lambda: (s := studio.get(f"/projects/{episode}/sum").json)["sentence"] and s, "what is wrong")
    assert "recordings of this sum are not here" in state["sentence"] and not state["ready"]
    answer = studio.post(f"/projects/{episode}/exports", {"format": "sound-wav"})
    if answer.status_code < 300:
        ended = studio.wait_export(answer.json["id"])
        assert ended["state"] == "failed"
    changed(studio, episode, "/tracks", tracks)


def test_mono_and_surround_and_other_lengths_are_summed(studio):
    ident = studio.bring(wav(song(2.0)), "Song.wav")["project"]
    six = np.zeros((RATE, 6))
    six[:, 2] = sine(500.0, 1.0, -12.0)
    studio.bring(wav(six), "Centre.wav", f"?project={ident}&track=beside")
    studio.bring(wav(sine(700.0, 5.0, -30.0)), "Long.wav", f"?project={ident}&track=beside")
    summed(studio, ident)
    key = studio.get(f"/projects/{ident}/sum").json["key"]
    facts = studio.get(f"/sounds/{key}").json
    assert facts["channels"] == 2 and facts["duration_s"] == pytest.approx(2.0)


@pytest.mark.parametrize(
    ("name", "role"),
    [
        ("01 Kick.wav", "kick"),
        ("snare_top.flac", "snare"),
        ("HH-closed.wav", "hats"),
        ("Lead Vocal 2.wav", "voice"),
        ("Bass DI.wav", "bass"),
        ("Keys.aiff", "keys"),
        ("Paper Lighthouse.wav", ""),
        ("Keystone harbour.wav", ""),
    ],
)
def test_roles_are_guessed_from_names(name, role):
    assert guessed_role(name) == role


def test_patches_of_a_track_that_follows_another_still_work(studio, episode):
    """A figure by one track and a patch by another in the same picture."""
    tracks = document(studio, episode)["tracks"]
    signal = {"id": "v", "name": "V", "colour": "#ff7a66", "kind": "pickup", "settings": {"listens": tracks[0]["id"]}}
    changed(studio, episode, "/signals", [signal])
    layers = document(studio, episode)["layers"]
    layers[-1]["patches"] = [new_patch("layer_opacity", signal, 10.0, 100.0)]
    changed(studio, episode, "/layers", layers)
    pictures = [
        studio.post(f"/projects/{episode}/frames", {"frames": [number], "width": 160, "form": "png"}).data[8:]
        for number in (3, 20)
    ]
    assert pictures[0] != pictures[1]
    layers[-1]["patches"] = []
    changed(studio, episode, "/layers", layers)
    changed(studio, episode, "/signals", [])


def test_a_project_file_brings_all_tracks_and_a_new_sound_is_listened_to_as_a_whole(studio, episode):
    tracks = document(studio, episode)["tracks"]
    layers = document(studio, episode)["layers"]
    index = next(number for number, layer in enumerate(layers) if "listens" in layer["settings"])
    changed(studio, episode, f"/layers/{index}/settings/listens", f"{tracks[0]['id']}/harmonic")
    file = studio.get(f"/projects/{episode}/file").data
    opened = studio.bring(file, "Episode.vdrum")
    assert opened["state"] == "done", opened
    again = document(studio, opened["project"])
    assert again["tracks"] == tracks and again["used"] == document(studio, episode)["used"]
    assert summed(studio, opened["project"])["key"] == summed(studio, episode)["key"]
    # Another recording in place of all: what listened to a track hears the whole, and its part of it.
    studio.bring(wav(song(2.0)), "Song.wav", f"?project={opened['project']}")
    now = document(studio, opened["project"])
    assert len(now["tracks"]) == 1 and "used" not in now
    assert now["layers"][index]["settings"]["listens"] == "/harmonic"
    changed(studio, episode, f"/layers/{index}/settings/listens", "")
