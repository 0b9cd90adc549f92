"""What a render makes by the name of its file, and what does not go together."""

from __future__ import annotations

import shutil
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import pytest
from click.testing import CliRunner

from tests.conftest import sine, write_wav
from velvetdrum.cli import main
from velvetdrum.cli.outputs import form_of
from velvetdrum.cli.renders import render_command
from velvetdrum.cli.sentences import Sentence
from velvetdrum.deliver.bundle import content_hash, write_bundle
from velvetdrum.scene.document import new_document, new_layer, new_track
from velvetdrum.scene.frames import FrameSize

CUES = {
    "a": {"name": "English", "language": "en", "cues": {"x": {"start_s": 0.1, "end_s": 0.5, "text": "Good evening"}}}
}


@pytest.fixture(scope="module")
def projects(tmp_path_factory):
    """A project with a shape alone and cues, and the same before a backdrop."""
    folder = tmp_path_factory.mktemp("projects")
    sound = write_wav(folder / "tone.wav", sine(440, 0.6, -20.0))
    key = content_hash(sound)
    found = {}
    for name, ground in (("alone", []), ("full", [new_layer("backdrop")])):
        layers = [*ground, new_layer("shape", form="ellipse", width=40.0, height=40.0)]
        track = new_track(key, "tone.wav", 0.6)
        document = new_document("Quay", frame=FrameSize(96, 64), rate=Fraction(30), layers=layers, track=track)
        document["cue_tracks"] = CUES
        found[name] = folder / f"{name}.vdrum"
        write_bundle(found[name], document, {key: sound})
    return found


def run(project, output, *options):
    return CliRunner().invoke(render_command, [str(project), "-o", str(output), "--workers", "1", *options])


@pytest.mark.parametrize("name", ["a.webm", "a.gif", "a.zip", "a.png"])
def test_a_suffix_says_what_is_made(projects, tmp_path, name):
    result = run(projects["alone"], tmp_path / name, "--transparent", "--speed", "quick", "--to", "0.3")
    assert result.exit_code == 0, result.output
    assert (tmp_path / name).stat().st_size > 100 and not list(tmp_path.glob(".*.part"))
    assert ("no sound; it is left out" in result.output) == (name in ("a.gif", "a.zip"))
    if name == "a.png":
        alpha = cv2.imread(str(tmp_path / name), cv2.IMREAD_UNCHANGED)[..., 3]
        assert alpha.min() == 0 and alpha.max() == 255


def test_a_full_frame_that_was_to_be_transparent_is_told(projects, tmp_path):
    result = run(projects["full"], tmp_path / "a.apng", "--transparent", "--to", "0.1")
    assert result.exit_code == 0 and "nothing in it is transparent" in result.output


def test_sound_alone_is_told_with_its_numbers(projects, tmp_path):
    result = run(projects["alone"], tmp_path / "a.flac", "--loudness", "-23")
    assert result.exit_code == 0, result.output
    assert "0.60 s of sound" in result.output and "-23." in result.output.split("now")[0].split("before")[1]
    with av.open(str(tmp_path / "a.flac")) as sound:
        assert sound.streams.audio[0].codec_context.name == "flac"


def test_captions_beside_inside_and_burnt(projects, tmp_path):
    beside = run(projects["alone"], tmp_path / "a.mp4", "--captions", "beside", "--speed", "quick")
    assert beside.exit_code == 0 and "Good evening" in (tmp_path / "a.srt").read_text()
    assert (tmp_path / "a.vtt").read_text().startswith("WEBVTT")
    inside = run(projects["alone"], tmp_path / "b.mp4", "--captions", "inside", "--speed", "quick", "--codec", "hevc")
    assert inside.exit_code == 0, inside.output
    with av.open(str(tmp_path / "b.mp4")) as video:
        assert video.streams.video[0].codec_context.name == "hevc" and len(video.streams.subtitles) == 1
    burnt = run(projects["full"], tmp_path / "c.png", "--captions", "burnt", "--from", "0.3")
    plain = run(projects["full"], tmp_path / "d.png", "--from", "0.3")
    assert burnt.exit_code == plain.exit_code == 0
    one, other = (cv2.imread(str(tmp_path / name)).astype(int) for name in ("c.png", "d.png"))
    assert abs(one - other).max() > 60


@pytest.mark.parametrize(
    ("name", "codec", "transparent", "captions", "words"),
    [
        ("a.mp4", None, True, None, "can't hold transparency; take one of"),
        ("a.mp4", "vp9", False, None, ".mp4 can't hold vp9; it takes"),
        ("a.avi", None, False, None, "no suffix that is known"),
        ("a.jpg", None, True, None, "JPEG picture can't hold transparency"),
        ("a.wav", None, True, None, "holds sound alone"),
        ("a.gif", None, False, "inside", "no place for a text track"),
    ],
)
def test_what_does_not_go_together_is_refused_with_the_reason(tmp_path, name, codec, transparent, captions, words):
    with pytest.raises(Sentence, match=words):
        form_of(tmp_path / name, codec, transparent, captions, None)


def test_a_loop_a_size_fades_and_a_sheet_are_asked_for(projects, tmp_path):
    for name, *options in (
        ("loop.mp4", "--loop", "--from", "0.2"),
        ("sized.mp4", "--megabytes", "0.2", "--speed", "quick"),
        ("fades.opus", "--fade-in", "0.1", "--fade-out", "0.2"),
        ("small.mp4", "--codec", "av1", "--speed", "quick"),
        ("sheet.jpg", "--moments", "4"),
    ):
        result = run(projects["full"], tmp_path / name, *options)
        assert result.exit_code == 0 and (tmp_path / name).stat().st_size > 100, result.output
    assert "4 of its pictures" in result.output
    wrong = run(projects["full"], tmp_path / "sheet.png", "--moments", "4")
    assert wrong.exit_code == 1 and "written as .jpg" in wrong.output


ODD = "Fähre; 'nachts' [1] %d #é“ ｆ"


def test_paths_of_odd_letters_are_taken_as_they_are(projects, tmp_path):
    folder = tmp_path / ODD
    folder.mkdir()
    project = folder / f"{ODD}.vdrum"
    shutil.copy(projects["alone"], project)
    for name, more in ((f"{ODD}.mp4", ("--to", "0.2")), (f"{ODD} small.mp4", ("--megabytes", "1", "--to", "0.2"))):
        result = run(project, folder / name, "--speed", "quick", *more)
        assert result.exit_code == 0, result.output
        assert (folder / name).stat().st_size > 100
    still = CliRunner().invoke(main, ["frame", str(project), "--at", "0.1", "-o", str(folder / f"{ODD}.png")])
    assert still.exit_code == 0 and cv2.imdecode(np.fromfile(folder / f"{ODD}.png", np.uint8), 1) is not None


@pytest.mark.parametrize("command", ["render", "frame", "align"])
@pytest.mark.parametrize("folder", ["/proc/none", "file"])
def test_a_folder_that_can_not_be_written_gets_a_sentence(projects, tmp_path, command, folder):
    if folder == "file":
        folder = str(tmp_path / "a file")
        Path(folder).write_text("")
    sound, text = write_wav(tmp_path / "tone.wav", sine(440, 0.4, -20.0)), tmp_path / "words.txt"
    text.write_text("The night ferry")
    words = {
        "render": [str(projects["alone"]), "-o", f"{folder}/out.mp4", "--workers", "1", "--to", "0.1"],
        "frame": [str(projects["alone"]), "--at", "0", "-o", f"{folder}/out.png"],
        "align": [str(sound), str(text), "-o", f"{folder}/out.srt"],
    }[command]
    result = CliRunner().invoke(main, [command, *words])
    assert result.exit_code in (1, 2) and "Traceback" not in result.output
    assert not result.exception or isinstance(result.exception, SystemExit), result.exception
    assert len(result.stderr.strip().splitlines()[-1]) > 20
