"""Many episodes from one project, and what is wrong with a table."""

from __future__ import annotations

import csv
import json
from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
from click.testing import CliRunner

from tests.conftest import RATE, sine, write_wav
from velvetdrum.cli import main
from velvetdrum.cli.batches import batch_command
from velvetdrum.deliver.batch import Episode, filled, lacking, read_episodes
from velvetdrum.deliver.bundle import content_hash, write_bundle
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.scene.document import new_document, new_layer, new_track, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.words.cues import Cue, CueList

SRT = "1\n00:00:00,100 --> 00:00:00,700\nGood evening\n"


def template(folder):
    sound = write_wav(folder / "template.wav", sine(330, 0.6, -20.0))
    layers = [
        new_layer("backdrop", fill="plain", plain="#123a52"),
        new_layer("logo", "Cover"),
        new_layer("text", text="{title}", size=20.0),
    ]
    key = content_hash(sound)
    track = new_track(key, "template.wav", 0.6)
    document = new_document("Template", frame=FrameSize(96, 64), rate=Fraction(30), layers=layers, track=track)
    path = folder / "template.vdrum"
    write_bundle(path, document, {key: sound})
    return path, document


def table(folder, rows, head="sound,title,speaker,captions,cover"):
    path = folder / "episodes.csv"
    path.write_text("\n".join([head, *rows]) + "\n", encoding="utf-8")
    return path


@pytest.fixture
def three(tmp_path):
    for number in range(3):
        write_wav(tmp_path / f"{number}.wav", sine(300 + 100 * number, 0.8, -20.0))
    (tmp_path / "0.srt").write_text(SRT)
    cv2.imwrite(str(tmp_path / "cover.png"), np.full((20, 20, 3), (10, 20, 220), np.uint8))
    rows = ['0.wav,"The quay, at night",Harbour office,0.srt,cover.png', "1.wav,Second,,,", "gone.wav,Lost,,,"]
    return template(tmp_path)[0], table(tmp_path, rows), tmp_path / "out"


def run(*arguments):
    return CliRunner().invoke(batch_command, [str(argument) for argument in arguments])


def test_a_batch_makes_every_row_reports_and_goes_on(three):
    project, episodes, out = three
    dry = run(project, episodes, "-o", out, "--dry-run")
    assert dry.exit_code == 1 and "Line 4: There is no sound file gone.wav" in dry.output and not out.exists()
    made = run(project, episodes, "-o", out, "--frames", "96x64,64x96", "--speed", "quick", "--workers", 1)
    assert made.exit_code == 1 and "2 of 3 episodes" in made.output
    report = list(csv.DictReader((out / "report.csv").open()))
    assert [row["state"] for row in report] == ["done", "done", "failed"] and "gone.wav" in report[2]["message"]
    names = report[0]["files"].split()
    assert names == ["001-the-quay-at-night-96x64.mp4", "001-the-quay-at-night-64x96.mp4"]
    with av.open(str(out / names[0])) as video:
        assert video.streams.video[0].frames == 24 and video.metadata["title"] == "The quay, at night"
        picture = next(video.decode(video=0)).to_ndarray(format="bgr24")
    # The cover is in the picture.
    assert (picture[..., 2].astype(int) - picture[..., 0] > 100).any()
    # With the third sound there, what is done is kept, and the rest is made.
    write_wav(episodes.parent / "gone.wav", sine(500, 0.5, -20.0))
    again = run(project, episodes, "-o", out, "--frames", "96x64,64x96", "--speed", "quick", "--workers", 1)
    assert again.exit_code == 0, again.output
    report = list(csv.DictReader((out / "report.csv").open()))
    assert [row["state"] for row in report] == ["kept", "kept", "done"]
    assert not (out / ".batch").exists()


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("title,colour\na,b\n", "needs a first line with columns"),
        ("sound,title,colour\na.wav,b,c\n", "It has colour"),
        ("sound\n", "has 0 episodes"),
        ("", "needs a first line"),
        ("sound,sound\na,b\n", "needs a first line"),
    ],
)
def test_a_table_with_wrong_columns_is_told(tmp_path, text, sentence):
    path = tmp_path / "t.csv"
    path.write_text(text)
    with pytest.raises(DeliverError, match=sentence):
        read_episodes(path)
    path.write_bytes(b"\xff\xfe\x00sound")
    with pytest.raises(DeliverError, match="UTF-8"):
        read_episodes(path)


def test_semicolons_quotes_and_names_of_files(tmp_path):
    path = table(tmp_path, ['"a b.wav";"../../etc: quay!"'], head="\ufeffsound;title")
    (episode,) = read_episodes(path)
    assert episode.files["sound"] == tmp_path / "a b.wav" and episode.name == "001-etc-quay"
    assert lacking([episode]) == {2: ["There is no sound file a b.wav."]}


def test_an_episode_fills_the_fields_of_its_template(tmp_path):
    _, document = template(tmp_path)
    episode = Episode(2, "Night", "Harbour office", {"sound": tmp_path / "x.wav"})
    cues = CueList((Cue(0.1, 0.7, "Good evening"),), "en")
    made = filled(document, episode, ("c" * 64, 12.5), "d" * 64, cues)
    project = parse(json.loads(json.dumps(made)))
    assert (project.name, project.tags["title"], project.tags["speaker"]) == ("Night", "Night", "Harbour office")
    assert project.track.media == "c" * 64 and project.length_s == pytest.approx(12.5)
    assert project.layers[1].layer.image == "d" * 64 and project.cue_tracks[0].row[0].text == "Good evening"
    assert document["name"] == "Template" and RATE == 48_000 and main is not None


def test_a_row_is_made_in_its_own_look_and_the_others_from_the_template(tmp_path):
    for number in range(3):
        write_wav(tmp_path / f"{number}.wav", sine(300 + 100 * number, 1.2, -20.0))
    rows = ["0.wav,First,pier-lights", "1.wav,Second,", "2.wav,Third,no such"]
    listed = table(tmp_path, rows, head="sound,title,look")
    done = run(template(tmp_path)[0], listed, "-o", tmp_path / "out", "--frames", "128x72", "--speed", "quick")
    assert done.exit_code == 1 and "There is no look no such" in done.output
    report = list(csv.DictReader((tmp_path / "out" / "report.csv").open()))
    assert [row["state"] for row in report] == ["done", "done", "failed"]
    means = []
    for row in report[:2]:
        with av.open(str(tmp_path / "out" / row["files"])) as video:
            frames = [frame.to_ndarray(format="bgr24") for frame in video.decode(video=0)]
        means.append(frames[20].mean(axis=(0, 1)))
    # The template is blue all over; the look is a dark ground with lamps.
    assert means[1][0] > means[1][2] + 20 and means[0].max() < means[1].max()


def test_the_template_is_fitted_to_every_row(tmp_path):
    sound = write_wav(tmp_path / "template.wav", sine(330, 1.0, -10.0))
    key = content_hash(sound)
    bars = new_layer("spectrum", bands=4, quiet_db=-30.0, loud_db=-10.0)
    document = new_document(
        "Template",
        frame=FrameSize(96, 64),
        rate=Fraction(30),
        layers=[bars],
        track=new_track(key, "template.wav", 1.0),
    )
    write_bundle(tmp_path / "template.vdrum", document, {key: sound})
    brightness = []
    for level in (-10.0, -40.0):
        write_wav(tmp_path / "row.wav", sine(330, 1.0, level))
        out = tmp_path / f"out{level:g}"
        done = run(tmp_path / "template.vdrum", table(tmp_path, ["row.wav,Row"], head="sound,title"), "-o", out)
        assert done.exit_code == 0, done.output
        with av.open(str(next(out.glob("*.mp4")))) as video:
            frames = [frame.to_ndarray(format="gray") for frame in video.decode(video=0)]
        brightness.append(float(frames[20].mean()))
    assert brightness[0] > 2 and brightness[1] == pytest.approx(brightness[0], rel=0.15)
