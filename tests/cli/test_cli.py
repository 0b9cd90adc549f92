"""The command line as people run it: results, sentences and exit codes."""

import json
import os
import signal
import subprocess
import sys
import zipfile

import av
import cv2
import jsonschema
import numpy as np
import psutil
import pytest

import velvetdrum.picture.layers  # noqa: F401  (makes the layer and mask kinds known)
from tests.audio import rhythms
from tests.conftest import sine, song, write_wav
from tests.waiting import until
from velvetdrum.scene.document import schema


def run(*words, cwd=None):
    return subprocess.run(
        [sys.executable, "-m", "velvetdrum", *map(str, words)], capture_output=True, text=True, cwd=cwd, check=False
    )


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = tmp_path_factory.mktemp("cli")
    write_wav(made / "song.wav", song(3.0), subtype="PCM_16")
    done = run("new", made / "song.wav", "-o", made / "song.vdrum", "--frame", "320x180", "--rate", "30000/1001")
    assert done.returncode == 0, done.stderr
    return made


def test_analyse_writes_what_was_measured(folder):
    done = run("analyse", folder / "song.wav")
    facts = json.loads(done.stdout)
    wanted = {
        "duration_s",
        "sample_rate",
        "channels",
        "loudness_lufs",
        "loudness_range_lu",
        "true_peak_dbtp",
        "first_sound_s",
        "last_sound_s",
    }
    assert wanted <= set(facts)
    assert facts["duration_s"] == 3.0
    assert run("analyse", folder / "song.wav", "-o", folder / "facts.json").returncode == 0
    assert json.loads((folder / "facts.json").read_text()) == facts


def test_new_makes_a_valid_project_with_its_sound(folder):
    with zipfile.ZipFile(folder / "song.vdrum") as bundle:
        document = json.loads(bundle.read("project.json"))
        media = [name for name in bundle.namelist() if name.startswith("media/")]
        assert bundle.read(media[0]) == (folder / "song.wav").read_bytes()
    jsonschema.validate(document, schema())
    assert document["frame"] == {"width": 320, "height": 180}
    assert document["rate"] == "30000/1001"


def test_render_and_frame(folder):
    done = run("render", folder / "song.vdrum", "-o", folder / "part.mp4", "--from", 1, "--to", 2, "--frame", "128x72")
    assert done.returncode == 0, done.stderr
    with av.open(str(folder / "part.mp4")) as container:
        stream = container.streams.video[0]
        assert (stream.width, stream.height) == (128, 72)
        assert stream.average_rate.numerator / stream.average_rate.denominator == pytest.approx(29.97, abs=0.001)
        assert len(list(container.decode(video=0))) == 30
    assert run("frame", folder / "song.vdrum", "--at", 1.5, "-o", folder / "still.png").returncode == 0
    still = cv2.imread(str(folder / "still.png"))
    assert still.shape == (180, 320, 3)
    assert np.ptp(still) > 100


def test_the_studio_and_the_command_line_draw_the_same(folder, tmp_path):
    from tests.studio.conftest import Studio, unpack
    from velvetdrum.studio.app import create_app

    run("frame", folder / "song.vdrum", "--at", 2.002, "-o", tmp_path / "cli.png")
    studio = Studio(create_app(tmp_path / "data"))
    try:
        project = studio.bring((folder / "song.vdrum").read_bytes(), "song.vdrum")["project"]
        answer = studio.post(f"/projects/{project}/frames", {"frames": [60], "width": 320, "form": "png"})
        theirs = cv2.imdecode(np.frombuffer(unpack(answer.data)[0][1], np.uint8), cv2.IMREAD_COLOR)
    finally:
        studio.services.close()
    assert np.array_equal(theirs, cv2.imread(str(tmp_path / "cli.png")))


@pytest.mark.parametrize(
    ("words", "code", "said"),
    [
        (("analyse", "text.txt"), 1, "not a sound"),
        (("analyse", "none.wav"), 2, "does not exist"),
        (("new", "song.wav"), 2, "--output"),
        (("new", "song.wav", "-o", "x.vdrum", "--rate", "31"), 2, "Frame rates are"),
        (("new", "song.wav", "-o", "x.vdrum", "--frame", "11x11"), 2, "64 to 4096"),
        (("new", "song.wav", "-o", "no/such/folder/x.vdrum"), 1, "could not be written"),
        (("frame", "song.vdrum", "--at", "77", "-o", "x.png"), 1, "no picture at 77 s"),
        (("frame", "song.wav", "--at", "1", "-o", "x.png"), 1, "not a project file"),
        (("render", "song.vdrum", "-o", "x.mp4", "--from", "2", "--to", "1"), 1, "after the start"),
        (("serve", "--port", "0"), 2, "--port"),
        (("dance",), 2, "No such command"),
    ],
)
def test_every_failure_is_one_sentence_and_the_right_code(folder, words, code, said):
    (folder / "text.txt").write_text("nothing to hear " * 50)
    done = run(*words, cwd=folder)
    assert done.returncode == code
    assert said in done.stderr
    assert "Traceback" not in done.stderr
    if code == 1:
        sentences = [line for line in done.stderr.splitlines() if line.startswith("velvetdrum: ")]
        assert len(sentences) == 1


def test_help_is_for_people():
    for words in ((), ("analyse",), ("new",), ("render",), ("frame",), ("serve",)):
        done = run(*words, "--help")
        assert done.returncode == 0
        assert "Usage:" in done.stdout
        assert len(done.stdout) > 200


def test_beats_and_curve(tmp_path):
    reference = rhythms.steady(100, 12)
    sound = write_wav(tmp_path / "drums.wav", rhythms.played(rhythms.straight, reference))
    out = tmp_path / "beats.csv"
    assert run("beats", sound, "-o", out).returncode == 0
    lines = out.read_text().splitlines()
    assert lines[0] == "beat,time_s"
    assert float(lines[1].split(",")[1]) == pytest.approx(reference[0], abs=0.01)
    facts = json.loads(run("analyse", sound).stdout)
    assert facts["tempo_bpm"] == pytest.approx(100, rel=0.002)
    assert len(facts["beats_s"]) == len(lines) - 1
    curve = tmp_path / "curve.csv"
    options = ["--band", "40:110", "--detect", "hits", "--attack", "2", "--release", "90", "--rate", "60"]
    assert run("curve", sound, *options, "-o", curve).returncode == 0
    rows = np.genfromtxt(curve, delimiter=",", names=True)
    assert rows.dtype.names == ("time_s", "value", "level_db")
    assert np.allclose(np.diff(rows["time_s"]), 1 / 60, atol=1e-5)
    assert 0 <= rows["value"].min() <= rows["value"].max() <= 1


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["--band", "160:80"], "lower edge first"),
        (["--band", "wide"], "write it like 80:160"),
        (["--band", "80:23000"], "nothing above 11025 Hz"),
        (["--band", "80:160", "--quiet", "-10", "--loud", "-30"], "Loud must lie"),
        (["--band", "80:160", "--attack", "-5"], "Attack goes from"),
    ],
)
def test_a_wrong_curve_gets_a_sentence(tmp_path, options, words):
    sound = write_wav(tmp_path / "tone.wav", sine(100, 0.5, -10, 22_050), 22_050)
    done = run("curve", sound, *options)
    assert done.returncode != 0
    assert words in done.stdout + done.stderr
    assert "Traceback" not in done.stdout + done.stderr


def test_speech_has_no_beats(tmp_path):
    done = run("beats", write_wav(tmp_path / "voice.wav", rhythms.free_speech(8.0)))
    assert done.returncode == 1
    assert "no steady beat" in done.stdout + done.stderr


def _in_group(pid, group):
    try:
        return os.getpgid(pid) == group
    except ProcessLookupError:
        return False


def pictures(path):
    with av.open(str(path)) as container:
        return [frame.to_ndarray(format="rgb24") for frame in container.decode(video=0)]


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGINT])
def test_a_render_that_was_ended_goes_on_where_it_stopped(folder, tmp_path, how):
    whole, part = tmp_path / "whole.mp4", tmp_path / "part.mp4"
    project = tmp_path / "long.vdrum"
    write_wav(tmp_path / "song.wav", song(6.0), subtype="PCM_16")
    assert run("new", tmp_path / "song.wav", "-o", project, "--frame", "160x90").returncode == 0
    words = [sys.executable, "-m", "velvetdrum", "render", str(project), "-o", str(part), "--workers", "1"]
    work = tmp_path / ".part.mp4.part"
    # What runs in the background of a shell is started deaf to the interrupt.
    process = subprocess.Popen(
        words,
        stderr=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
        start_new_session=True,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )
    until(lambda: process.poll() is not None or list(work.glob("export/segment-*.mp4")), "a segment")
    assert process.poll() is None
    if how == signal.SIGINT:
        os.killpg(process.pid, how)  # as a terminal does
    else:
        process.kill()
    said = process.communicate(timeout=60)[1]
    assert not part.exists() and "Traceback" not in said
    if how == signal.SIGINT:
        assert process.returncode == 1 and "frames are kept" in said
    # Workers end with the command, whatever ended it.
    until(lambda: not any(_in_group(item.pid, process.pid) for item in psutil.process_iter()), "the workers' end")
    kept = {path.name: path.stat().st_mtime_ns for path in work.glob("export/segment-*.mp4")}
    done = run(*words[3:])
    assert done.returncode == 0 and "Going on:" in done.stderr and "frames/s" in done.stderr
    assert kept and not work.exists()
    assert run("render", project, "-o", whole).returncode == 0
    assert all(np.array_equal(one, two) for one, two in zip(pictures(part), pictures(whole), strict=True))


def test_looks_are_listed(folder):
    done = run("looks")
    assert done.returncode == 0 and len(done.stdout.splitlines()) == 24 and "lamp-at-sea" in done.stdout
    rows = json.loads(run("looks", "--json").stdout)
    assert {"ident", "name", "about", "uses", "pace", "family", "frame", "colours", "places"} <= rows[0].keys()


def test_a_project_from_a_look_has_its_places_filled(folder, tmp_path):
    (tmp_path / "lamp.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M0 0h9v9z"/></svg>'
    )
    (tmp_path / "colours.json").write_text('{"accent 1": "#3050ff"}')
    (tmp_path / "words.srt").write_text("1\n00:00:00,200 --> 00:00:01,500\nFog is expected\n")
    given = ("--title", "Harbour at Six", "--logo", tmp_path / "lamp.svg", "--colours", tmp_path / "colours.json")
    made = tmp_path / "look.vdrum"
    done = run("new", folder / "song.wav", "-o", made, "--look", "lamp-at-sea", "--frame", "tall", *given)
    assert done.returncode == 0, done.stderr
    with zipfile.ZipFile(made) as file:
        document = json.loads(file.read("project.json"))
    assert document["tags"]["title"] == "Harbour at Six" and document["frame"] == {"width": 1080, "height": 1920}
    assert document["colours"]["accent 1"] == "#3050ff"
    assert any(layer["kind"] == "logo" and layer["settings"]["image"] for layer in document["layers"])
    spoken = run("new", folder / "song.wav", "-o", made, "--look", "evening-talk", "--words", tmp_path / "words.srt")
    assert spoken.returncode == 0, spoken.stderr


def test_a_video_in_one_line(folder, tmp_path):
    out = tmp_path / "out.mp4"
    done = run("make", folder / "song.wav", "--look", "pier-lights", "-o", out, "--excerpt", "2", "--frame", "320x180")
    assert done.returncode == 0, done.stderr
    with av.open(str(out)) as video:
        assert 40 <= video.streams.video[0].frames <= 75 and video.streams.audio


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("--look", "no-such"), "no-such"),
        (("--look", "halo", "--logo", "song.wav"), "is no picture"),
        (("--look", "halo", "--colours", "song.wav"), "holds no colours"),
    ],
)
def test_what_a_look_can_not_take_is_a_sentence(folder, tmp_path, words, said):
    given = [folder / word if word == "song.wav" else word for word in words]
    done = run("new", folder / "song.wav", "-o", tmp_path / "x.vdrum", *given)
    assert done.returncode in (1, 2) and said in done.stderr and "Traceback" not in done.stderr
