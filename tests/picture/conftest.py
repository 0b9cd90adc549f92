"""A sound that pictures are drawn from."""

import pytest

from tests.conftest import song, write_wav
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.signals.audio_range import AudioRange


@pytest.fixture(scope="module")
def use(tmp_path_factory):
    folder = tmp_path_factory.mktemp("song")
    recording = analyse(write_wav(folder / "song.wav", song(6.0)), folder / "analysis", key="song")
    return AudioRange(recording, 0.0, 6.0)
