"""Recordings with known samples, and the mixes that are made of them."""

from dataclasses import dataclass

import numpy as np
import pytest

from tests.conftest import RATE, song, write_wav
from velvetdrum.audio.analysis_writer import analyse
from velvetdrum.audio.decode import decode_blocks
from velvetdrum.mix.mixdown import Mixdown, SourceFiles
from velvetdrum.mix.placed_track import MixSpec, PlacedTrack


@dataclass(frozen=True)
class Shelf:
    """Files by name, with what they were decoded to, shape (channels, samples)."""

    files: SourceFiles
    samples: dict[str, np.ndarray]

    def track(self, name, **more):
        length = self.samples[name].shape[1] / RATE
        placing = {"at_s": 0.0, "in_s": 0.0, "out_s": length} | more
        placing.setdefault("length_s", placing["out_s"] - placing["in_s"])
        return PlacedTrack(more.pop("id", name), name, **{key: v for key, v in placing.items() if key != "id"})

    def mixed(self, *tracks, first=0, count=None, block=48_000):
        return np.concatenate(list(Mixdown(MixSpec(tracks), self.files).blocks(first, count, block)), axis=1)


def said(words, seconds, hz=220.0):
    """A voice of syllables: stretches in which a tone with overtones sounds, in seconds, each with its level in dB."""
    times = np.arange(round(seconds * RATE)) / RATE
    out = np.zeros(len(times))
    tone = sum(np.sin(2 * np.pi * hz * n * times) / n for n in range(1, 9)) / 2
    for begin, end, level in words:
        inside = (times >= begin) & (times < end)
        out[inside] = tone[inside] * 10 ** (level / 20)
    return out


@pytest.fixture(scope="package")
def shelf(tmp_path_factory):
    folder = tmp_path_factory.mktemp("tracks")
    rng = np.random.default_rng(4)
    sounds = {
        "song": (song(4.0), RATE),
        "slow": (0.2 * rng.standard_normal((44_100 * 3, 2)).cumsum(axis=0) / 200, 44_100),
        "noise": (0.1 * rng.standard_normal(RATE * 2), RATE),
        "bed": (0.1 * np.sin(2 * np.pi * 400 * np.arange(RATE * 8) / RATE), RATE),
        "voice": (said([(1.0, 1.4, -18), (1.6, 2.0, -18), (2.2, 2.8, -18), (5.0, 6.0, -18)], 8.0), RATE),
        "uneven": (
            said([(0.5, 1.7, -14), (2.7, 3.9, -26), (4.9, 6.1, -20)], 7.0) + 1e-4 * rng.standard_normal(RATE * 7),
            RATE,
        ),
    }
    originals, analyses, decoded = {}, {}, {}
    for name, (samples, rate) in sounds.items():
        path = write_wav(folder / f"{name}.wav", samples, rate)
        analyse(path, folder / name, key=name)
        originals[name], analyses[name] = str(path), str(folder / name)
        decoded[name] = np.concatenate(list(decode_blocks(path)), axis=1)
    return Shelf(SourceFiles(originals, analyses), decoded)
