"""Analyses are made once for a sound, whatever it is called, and never taken for another's."""

from __future__ import annotations

import os
import shutil

import pytest

from tests.conftest import song
from tests.studio.conftest import wav
from velvetdrum.audio.analysis import Analysis
from velvetdrum.cli import analyses
from velvetdrum.cli.analyses import analysis_into
from velvetdrum.deliver.bundle import content_hash


@pytest.fixture
def kept(tmp_path, monkeypatch):
    folder = tmp_path / "kept"
    monkeypatch.setenv(analyses.FOLDER, str(folder))
    return folder


@pytest.fixture
def reads(monkeypatch):
    """How often a sound was read, without a process of its own."""
    calls = []

    def read(reader, *values, bounds, **named):
        calls.append(values[0])
        return reader(*values, **named)

    monkeypatch.setattr(analyses.door, "read", read)
    return calls


def sound_at(path, seconds):
    path.write_bytes(wav(song(seconds)))
    return path, content_hash(path)


def test_a_sound_is_analysed_once_and_again_when_the_cache_is_gone(tmp_path, kept, reads):
    path, key = sound_at(tmp_path / "a.wav", 0.5)
    other = shutil.copy(path, tmp_path / "b.wav")
    analysis_into(path, tmp_path / "one", key)
    analysis_into(other, tmp_path / "two", key)
    assert len(reads) == 1
    first, second = Analysis(tmp_path / "one"), Analysis(tmp_path / "two")
    assert first.facts == second.facts and second.key == key
    shutil.rmtree(kept)
    analysis_into(path, tmp_path / "three", key)
    assert len(reads) == 2 and Analysis(tmp_path / "three").facts == first.facts
    # What was handed out does not hang on the cache.
    assert Analysis(tmp_path / "two").facts.duration_s == pytest.approx(0.5, abs=0.01)


def test_what_is_of_another_version_or_half_made_is_not_taken(tmp_path, kept, reads):
    path, key = sound_at(tmp_path / "a.wav", 0.5)
    analysis_into(path, tmp_path / "one", key)
    (kept / key / "meta.json").write_text('{"version": -1}')
    (tmp_path / "two").mkdir()
    (tmp_path / "two" / "left over").write_text("from before")
    analysis_into(path, tmp_path / "two", key)
    assert len(reads) == 2 and not (tmp_path / "two" / "left over").exists()
    analysis_into(path, tmp_path / "three", key)
    assert len(reads) == 2


def test_the_cache_is_bounded_and_what_was_used_last_stays(tmp_path, kept, reads, monkeypatch):
    sounds = [sound_at(tmp_path / f"{n}.wav", 0.4 + n / 10) for n in range(3)]
    for n, (path, key) in enumerate(sounds[:2]):
        analysis_into(path, tmp_path / f"first {n}", key)
        os.utime(kept / key, (1000 + n, 1000 + n))
    size = sum(entry.stat().st_size for entry in kept.rglob("*"))
    monkeypatch.setattr(analyses, "MOST_BYTES", int(size * 1.2))
    (kept / "half-old").mkdir()
    os.utime(kept / "half-old", (1000, 1000))
    analysis_into(sounds[0][0], tmp_path / "again", sounds[0][1])  # used: the other one is the older now
    analysis_into(sounds[2][0], tmp_path / "third", sounds[2][1])
    assert {entry.name for entry in kept.iterdir()} == {sounds[0][1], sounds[2][1]}


def test_without_a_folder_that_can_be_written_a_sound_is_analysed_each_time(tmp_path, kept, reads):
    kept.write_text("a file stands here")
    path, key = sound_at(tmp_path / "a.wav", 0.5)
    for name in ("one", "two"):
        analysis_into(path, tmp_path / name, key)
    assert len(reads) == 2 and Analysis(tmp_path / "two").key == key
