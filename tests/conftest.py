"""Test sounds made on the spot: closed forms, so that what is measured can be compared with what is known."""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import settings

from velvetdrum.audio.analysis import Analysis
from velvetdrum.audio.analysis_writer import analyse

RATE = 48_000

# Times are measured in bench/, on a machine that may be busy; here they decide nothing.
settings.register_profile("calm", deadline=None)
settings.load_profile("calm")


def sine(hz: float, seconds: float, level_db: float = 0.0, rate: int = RATE) -> np.ndarray:
    """A sine whose level in dBFS (AES17) is `level_db`."""
    return 10 ** (level_db / 20) * np.sin(2 * np.pi * hz * np.arange(round(seconds * rate)) / rate)


def write_wav(path: Path, samples: np.ndarray, rate: int = RATE, subtype: str = "FLOAT") -> Path:
    """Write mono (n,) or multichannel (n, channels) samples."""
    soundfile.write(path, samples, rate, subtype=subtype)
    return path


@pytest.fixture
def analysed(tmp_path):
    """A function from samples to their analysis."""

    def run(samples: np.ndarray, rate: int = RATE, subtype: str = "FLOAT") -> Analysis:
        path = write_wav(tmp_path / "sound.wav", samples, rate, subtype)
        return analyse(path, tmp_path / "analysis", key="test")

    return run


def song(seconds: float = 4.0, rate: int = RATE) -> np.ndarray:
    """A small piece of music, stereo: a kick on every half second, a chord, hats."""
    count = round(seconds * rate)
    time = np.arange(count) / rate
    noise = np.random.default_rng(7).standard_normal(count)
    since = time % 0.5
    kick = np.sin(2 * np.pi * (52 * since + 2.0 * (1 - np.exp(-since * 30)))) * np.exp(-since * 11) * 0.6
    hats = noise * np.exp(-((time + 0.25) % 0.5) * 70) * 0.12
    left = sum(0.06 * np.sin(2 * np.pi * hz * time) for hz in (220, 277.2, 329.6, 880))
    right = sum(0.06 * np.sin(2 * np.pi * hz * 1.002 * time) for hz in (220, 277.2, 440, 1320))
    return np.stack([kick + hats + left, kick + hats + right], axis=1)
