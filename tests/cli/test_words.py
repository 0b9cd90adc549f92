"""Words at the command line: aligned, and turned from one format into another."""

from __future__ import annotations

import json

import soundfile
from click.testing import CliRunner

from tests.words.speech import speak
from velvetdrum.cli import main

TEXT = "The night ferry leaves at ten past nine. Fog is expected after midnight."


def run(*arguments):
    return CliRunner().invoke(main, [str(part) for part in arguments])


def test_words_are_aligned_into_every_format(tmp_path):
    speech = speak(TEXT, "en-us")
    soundfile.write(tmp_path / "voice.wav", speech.pcm[0], 48_000, subtype="PCM_16")
    (tmp_path / "words.txt").write_text(TEXT)
    done = run("align", tmp_path / "voice.wav", tmp_path / "words.txt", "-o", tmp_path / "out.json", "--by", "word")
    assert done.exit_code == 0 and "13 of 13 words found, 13 cues." in done.stderr
    cues = json.loads((tmp_path / "out.json").read_text())["cues"]
    assert [cue["text"] for cue in cues] == TEXT.split()
    for suffix in ("srt", "vtt", "lrc", "ttml", "ass"):
        assert run("cues", tmp_path / "out.json", "-o", tmp_path / f"out.{suffix}").exit_code == 0
        assert "ferry" in (tmp_path / f"out.{suffix}").read_text()


def test_repairs_go_to_standard_error_and_faults_are_sentences(tmp_path):
    source = tmp_path / "late.srt"
    source.write_text("1\n00:00:05,000 --> 00:00:04,000\nbackwards\n")
    done = run("cues", source, "-o", tmp_path / "out.vtt")
    assert done.exit_code == 0 and "ended before it began" in done.stderr
    assert "suffix that is known" in run("cues", source, "-o", tmp_path / "out.doc").stderr
    source.write_text("only words")
    done = run("cues", source, "-o", tmp_path / "out.vtt")
    assert done.exit_code == 1 and "has no times" in done.stderr
