"""Sound in: from the upload to the project, and everything that can be wrong with it."""

import subprocess
import sys

import numpy as np
import pytest

from tests.conftest import RATE, sine, song
from tests.studio import tasks_that_fail
from tests.studio.conftest import MARK, wav
from velvetdrum.studio.workers import tasks


def left_over(studio):
    folder = studio.services.folder
    return [path.name for path in (*folder.incoming.iterdir(), *folder.analyses.glob("*.part*"))]


def test_a_song_becomes_a_project_with_its_facts(studio, project):
    state = studio.state(project)
    track = state["document"]["tracks"][0]
    assert state["document"]["name"] == "Harbour song"
    assert track["out_s"] == pytest.approx(4.0)
    facts = studio.get(f"/sounds/{track['media']}").json
    assert (facts["channels"], facts["sample_rate"], facts["heard"]) == (2, RATE, 2)
    assert facts["samples"] == 4 * RATE
    assert facts["loudness_lufs"] < -5
    assert left_over(studio) == []


def test_samples_and_waveform_are_those_of_the_song(studio, project):
    key = studio.state(project)["document"]["tracks"][0]["media"]
    samples = song(4.0)
    pcm = np.frombuffer(studio.get(f"/sounds/{key}/pcm?start=24000&count=480").data, "<i2").reshape(-1, 2)
    assert np.abs(pcm / 32767 - samples[24_000:24_480]).max() < 1e-4
    wave = np.frombuffer(studio.get(f"/sounds/{key}/wave?from=0&to=4&columns=400").data, "<i2").reshape(-1, 3)
    assert wave[:, 1].max() / 32767 == pytest.approx(samples.max(), abs=1e-3)
    assert studio.get(f"/sounds/{key}/wave?from=0&to=4&columns=0").status_code == 400
    assert studio.get(f"/sounds/{key}/pcm?start=0&count=99999999").status_code == 400
    assert studio.get(f"/sounds/{'0' * 64}/pcm?start=0&count=10").status_code == 404


def test_the_same_song_again_is_not_analysed_again(studio, project):
    key = studio.state(project)["document"]["tracks"][0]["media"]
    stamp = (studio.services.folder.analysis(key) / "meta.json").stat().st_mtime_ns
    again = studio.bring(wav(song(4.0)), "Copy.wav")
    assert again["state"] == "done"
    assert again["project"] != project
    assert (studio.services.folder.analysis(key) / "meta.json").stat().st_mtime_ns == stamp
    assert len([p for p in studio.services.folder.originals.iterdir() if p.name.startswith(key)]) == 1


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"no sound at all " * 100, "not a sound"),
        (wav(np.zeros((RATE, 1))), "silent"),
        (wav(song(3.0))[:100_000], "ends early"),
    ],
)
def test_unusable_files_say_why_and_leave_nothing(studio, data, words):
    projects = len(studio.services.db.execute("SELECT id FROM project").fetchall())
    state = studio.bring(data, "‘odd’ name\n.wav")
    assert state["state"] == "failed"
    assert words in state["error"]
    assert len(studio.services.db.execute("SELECT id FROM project").fetchall()) == projects
    assert left_over(studio) == []


def test_a_crashing_decoder_does_not_take_the_studio_along(studio, monkeypatch):
    monkeypatch.setattr(tasks, "analyse_sound", tasks_that_fail.die)
    state = studio.bring(wav(sine(440, 1.0)), "bomb.wav")
    assert state["state"] == "failed"
    assert "damaged" in state["error"]
    assert left_over(studio) == []
    monkeypatch.undo()
    assert studio.bring(wav(sine(440, 1.0)), "fine.wav")["state"] == "done"


def test_an_import_can_be_cancelled(studio, monkeypatch):
    monkeypatch.setattr(tasks, "analyse_sound", tasks_that_fail.sleep)
    ident = studio.send(wav(sine(330, 1.0)), "long.wav").json["import"]
    studio.post(f"/imports/{ident}/cancel")
    assert studio.wait_import(ident)["state"] == "cancelled"
    assert left_over(studio) == []


def test_the_waveform_grows_while_a_recording_is_read(tmp_path):
    from velvetdrum.audio.analysis import growing_overview
    from velvetdrum.audio.analysis_writer import analyse

    path = tmp_path / "long.wav"
    path.write_bytes(wav(np.full((40 * RATE, 1), 0.5)))
    seen = []

    def look(share: float) -> None:
        seen.append((share, growing_overview(tmp_path / "analysis", 100)))

    assert not growing_overview(tmp_path / "analysis", 100).any()
    analyse(path, tmp_path / "analysis", progress=look)
    share, table = seen[3]
    assert 0.3 < share < 0.7
    assert (table[:, 1] > 0.49).sum() == pytest.approx(100 * share, abs=14)
    assert not table[90:].any()


def test_too_large_an_upload_is_refused_before_it_is_read(studio):
    answer = studio.client.post("/sounds", data=b"x" * 30_000_001, headers=MARK)
    assert answer.status_code == 413
    assert "larger" in answer.json["error"]
    assert left_over(studio) == []


def test_limits_end_a_process_that_asks_for_too_much():
    code = (
        "from velvetdrum.limits.process import limit_process, limited_time\n"
        "import numpy, sys\n"
        "limit_process(memory=2 << 30)\n"
        "try: numpy.ones(1 << 29); sys.exit(1)\n"
        "except MemoryError: pass\n"
        "with limited_time(1): pass\n"
        "sum(range(60_000_000))\n"
        "print('lifted', flush=True)\n"
        "import hashlib\n"
        "from velvetdrum.limits.process import OverTime\n"
        "try:\n"
        "    with limited_time(1):\n"
        "        while True: pass\n"
        "except OverTime: print('told', flush=True)\n"
        # Nothing in Python comes to turn here: only the system can end it.
        "with limited_time(1): hashlib.pbkdf2_hmac('sha256', b'', b'', (1 << 31) - 1)\n"
    )
    done = subprocess.run([sys.executable, "-c", code], timeout=60, check=False, capture_output=True, text=True)
    assert done.stdout == "lifted\ntold\n"
    assert done.returncode < 0  # ended by SIGXCPU


def test_replacing_the_sound_keeps_the_design_and_can_be_undone(studio):
    first = studio.bring(wav(song(2.0)), "one.wav")["project"]
    studio.edit(first, "/layers/1/settings/bands", 17)
    state = studio.bring(wav(sine(500, 3.0, -10)), "two.wav", f"?project={first}")
    assert state["project"] == first
    now = studio.state(first)
    assert now["document"]["tracks"][0]["name"] == "two.wav"
    assert now["document"]["layers"][1]["settings"]["bands"] == 17
    back = studio.post(f"/projects/{first}/undo", {"revision": now["revision"]}).json
    assert back["patch"][0]["value"][0]["name"] == "one.wav"
    assert studio.state(first)["document"]["tracks"][0]["name"] == "one.wav"


def test_fit_reads_the_range_from_the_used_part(studio, project):
    settings = studio.state(project)["document"]["layers"][1]["settings"]
    found = studio.post(f"/projects/{project}/fit", {"kind": "spectrum", "settings": settings | {"quiet_db": -90}}).json
    assert 28 <= found["loud_db"] - found["quiet_db"] <= 42


def test_an_import_goes_on_after_a_restart(tmp_path):
    from tests.studio.conftest import Studio
    from velvetdrum.store import imports
    from velvetdrum.studio.app import create_app

    killed = create_app(tmp_path).extensions["services"]
    row, part = killed.folder.receive([wav(song(1.0))], "night.wav", 1 << 30)
    ident = imports.create(killed.db, row, part.name, {})
    killed.close()
    again = Studio(create_app(tmp_path))
    try:
        again.services.resume()
        state = again.wait_import(ident)
        assert again.state(state["project"])["document"]["name"] == "night"
        assert left_over(again) == []
    finally:
        again.services.close()


def test_an_analysis_that_is_gone_or_old_is_made_again(tmp_path):
    import shutil

    from tests.studio.conftest import Studio
    from velvetdrum.studio.app import create_app

    first = Studio(create_app(tmp_path))
    project = first.bring(wav(song(1.0)), "lamp.wav")["project"]
    key = first.state(project)["document"]["tracks"][0]["media"]
    first.services.close()
    shutil.rmtree(first.services.folder.analysis(key))
    again = Studio(create_app(tmp_path))
    try:
        assert again.get(f"/sounds/{key}").status_code == 404
        again.services.refresh_analyses()
        assert again.get(f"/sounds/{key}").status_code == 200
    finally:
        again.services.close()


def test_what_hears_a_replaced_sound_is_fitted_in_the_same_step(studio):
    first = studio.bring(wav(song(3.0)), "one.wav")["project"]
    before = studio.state(first)["document"]["layers"][1]["settings"]
    studio.edit(first, "/markers", [{"time_s": 2.5, "text": "Bell"}])
    state = studio.bring(wav(0.1 * song(2.0)), "quiet.wav", f"?project={first}")
    assert state["error"] == "1 marker lies after the end of the new sound."
    now = studio.state(first)
    after = now["document"]["layers"][1]["settings"]
    assert after["loud_db"] == pytest.approx(before["loud_db"] - 20, abs=1.5)
    studio.post(f"/projects/{first}/undo", {"revision": now["revision"]})
    assert studio.state(first)["document"]["layers"][1]["settings"] == before


def test_all_that_reads_levels_is_fitted_to_the_used_part(studio):
    quiet_then_loud = np.concatenate([0.05 * song(3.0), song(3.0)])
    project = studio.bring(wav(quiet_then_loud), "two.wav")["project"]
    before = studio.state(project)["document"]["layers"][1]["settings"]["loud_db"]
    studio.edit(project, "/tracks/0/out_s", 2.9)
    patch = studio.post(f"/projects/{project}/fit-all").json["patch"]
    loud = next(step["value"] for step in patch if step["path"] == "/layers/1/settings/loud_db")
    assert loud == pytest.approx(before - 24, abs=3)
    json = {"revision": studio.state(project)["revision"], "label": "Fit", "patch": patch}
    assert studio.post(f"/projects/{project}/edits", json).status_code == 200
    assert studio.post(f"/projects/{project}/fit-all").json["patch"] == []
