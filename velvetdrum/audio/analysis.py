"""The analysis of a recording: made once, kept as memory-mapped arrays, read from everywhere.

A folder holds `meta.json` and plain arrays: `bands` (hundredths of dBFS per frame, row and band), `levels`
(peak and RMS), `pcm` (16 bit at 48 kHz, for listening), `wave-N` (the waveform pyramid) and `loudness`
(K-weighted energy per 100 ms). It is built in a folder beside it and renamed when whole.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio import bands, levels
from velvetdrum.audio.decode import RATE
from velvetdrum.audio.levels import Pyramid

VERSION = 3
"""Raised whenever stored numbers change their meaning; older folders are then made anew."""


@dataclass(frozen=True)
class SoundFacts:
    """What is shown of a recording: lengths in seconds, levels in dB, loudness in LUFS and LU."""

    duration_s: float
    sample_rate: int
    channels: int
    codec: str
    loudness_lufs: float | None
    loudness_range_lu: float | None
    true_peak_dbtp: float
    sample_peak_dbfs: float
    first_sound_s: float
    last_sound_s: float
    tempo_bpm: float | None
    tempo_confidence: float
    beats_s: list[float]
    other_tempos: list[dict[str, Any]] = field(default_factory=list)
    """Up to two other tempos that a listener may tap, the likeliest first: `tempo_bpm`, `confidence`, `beats_s`."""


class Analysis:
    """Read access to a stored analysis. Arrays are memory-mapped: opening costs nothing, whatever the length."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._meta = json.loads((folder / "meta.json").read_text())
        self.identity = (str(folder), (folder / "meta.json").stat().st_mtime_ns)
        """Tells analyses apart, also one made anew in the same folder: under it, what was computed is kept."""

    @cached_property
    def facts(self) -> SoundFacts:
        """What is known of the recording as a whole: length in seconds, rate in Hz, loudness, first and last sound."""
        return SoundFacts(**self._meta["facts"])

    @property
    def key(self) -> str:
        """Content hash of the recording."""
        return self._meta["key"]

    @property
    def samples(self) -> int:
        """Length in samples at 48 kHz."""
        return self._meta["samples"]

    @property
    def frames(self) -> int:
        """Number of readings, 60 a second; reading n is centred on second n / 60."""
        return self._meta["frames"]

    @cached_property
    def bands(self) -> NDArray[np.int16]:
        """Hundredths of dBFS, shape (frames, rows, bands); rows are mix, or left, right, mid, side."""
        return self._map("bands", (self.frames, self._meta["rows"], len(bands.band_edges()) - 1))

    @cached_property
    def levels(self) -> NDArray[np.int16]:
        """Hundredths of dBFS, shape (frames, 2, rows): peak and RMS of each 1/60 s."""
        return self._map("levels", (self.frames, 2, self._meta["rows"]))

    @cached_property
    def pcm(self) -> NDArray[np.int16]:
        """The recording as heard, shape (samples, 1 or 2), 16 bit at 48 kHz."""
        return self._map("pcm", (self.samples, self._meta["heard"]))

    @cached_property
    def pyramid(self) -> Pyramid:
        """Lowest, highest and RMS sample of each span, at every zoom: shape (spans, 3) a level, int16."""
        out, count = [], self.samples
        size = levels.PYRAMID_BASE
        for level in range(levels.PYRAMID_LEVELS):
            entries = -(-count // size)
            out.append(self._map(f"wave-{level}", (entries, self._meta["heard"], 3)))
            size *= levels.PYRAMID_STEP
        return out

    @cached_property
    def loudness_energies(self) -> NDArray[np.float64]:
        """K-weighted mean squares of every 100 ms, shape (readings,), linear (ITU-R BS.1770)."""
        return np.fromfile(self.folder / "loudness.f64", np.float64)

    def overview(self, start_s: float, stop_s: float, columns: int) -> NDArray[np.float32]:
        """Waveform columns between two seconds; see `levels.overview`.

        Parameters
        ----------
        start_s
            Where it begins, in seconds.
        stop_s
            Where it ends, in seconds.
        columns
            Number of columns.
        """
        return levels.overview(self.pcm, self.pyramid, round(start_s * RATE), round(stop_s * RATE), columns)

    def power(self, channel: str, start: int, stop: int, chosen: slice = slice(None)) -> NDArray[np.float32]:
        """Linear band power of readings start to stop, shape (stop - start, bands), of all or the `chosen` bands.

        `channel` is mix, left, right, mid or side. Of a mono recording every channel is the mix, and side is
        silent. The mix is the mean power of left and right, so sounds in opposite phase do not vanish.
        Readings outside the recording are silent.

        Parameters
        ----------
        channel
            What is read of the channels, like mix or left.
        start
            First reading.
        stop
            Reading before which it ends.
        chosen
            Which of the bands; all without it.
        """
        low, high = max(start, 0), max(min(stop, self.frames), max(start, 0))
        stored = self.bands[low:high, :, chosen]
        if self._meta["rows"] == 1:
            inside = bands.from_centibel(stored[:, 0])
            if channel == "side":
                inside = np.zeros_like(inside)
        elif channel == "mix":
            inside = (bands.from_centibel(stored[:, 0]) + bands.from_centibel(stored[:, 1])) * np.float32(0.5)
        else:
            inside = bands.from_centibel(stored[:, ("left", "right", "mid", "side").index(channel)])
        if low == start and high == stop:
            return inside
        out = np.zeros((stop - start, inside.shape[1]), np.float32)
        out[low - start : low - start + len(inside)] = inside
        return out

    def mono(self, start: int, stop: int) -> NDArray[np.float64]:
        """The mean of its channels from sample to sample of 48 kHz, -1 to 1, shape (stop - start,); less at its end.

        Parameters
        ----------
        start
            First sample, 0 or more.
        stop
            Sample before which it ends.
        """
        return np.asarray(self.pcm[start:stop], np.float64).mean(axis=1) / 32767

    def short_power(self, channel: str, start: int, stop: int) -> NDArray[np.float32]:
        """Power of all that sounds in each 64 samples (1/750 s), entries start to stop, shape (stop - start,).

        AES17: a full-scale sine has 1. Of mid and side it is an upper bound. Two steps of 16 bit are added, so that
        what the 16-bit copy has lost is never taken for silence.

        Parameters
        ----------
        channel
            What is read of the channels, like mix or left.
        start
            First reading.
        stop
            Reading before which it ends.
        """
        low, high = max(start, 0), max(min(stop, len(self.pyramid[0])), max(start, 0))
        rms = (self.pyramid[0][low:high, :, 2].astype(np.float32) + np.float32(2.0)) / np.float32(32767)
        if rms.shape[1] == 1 or channel in ("left", "right"):
            power = rms[:, 0 if channel == "left" or rms.shape[1] == 1 else 1] ** 2
        elif channel == "mix":
            power = (rms**2).mean(axis=1)
        else:
            power = rms.mean(axis=1) ** 2
        out = np.full(stop - start, np.float32((2.0 / 32767) ** 2))
        out[low - start : low - start + len(power)] = power
        return out * np.float32(2.0)

    def loudest_and_quietest_s(self, start_s: float, stop_s: float) -> tuple[float, float]:
        """Centres of the loudest and the quietest stretch between two seconds.

        Loudest: the greatest RMS over 50 ms, so that it lands on the stroke. Quietest: the least over 400 ms
        between first and last sound, kept away from the edges of the stretch where there is room.

        Parameters
        ----------
        start_s
            Where it begins, in seconds.
        stop_s
            Where it ends, in seconds.
        """
        first, last = max(start_s, self.facts.first_sound_s), min(stop_s, self.facts.last_sound_s)
        edge = min(0.5, (last - first) / 4)
        low, high = round((first + edge) * 60), round((last - edge) * 60)
        rms = bands.from_centibel(np.ascontiguousarray(self.levels[max(low, 0) : max(high, low + 1), 1, :2]))
        power = rms.mean(axis=1).astype(np.float64)
        if not len(power):
            return first, first
        loud = np.convolve(power, np.ones(3), "same")
        length = min(24, len(power))
        quiet = np.convolve(power, np.ones(length), "valid")
        return (low + int(loud.argmax())) / 60, (low + int(quiet.argmin()) + length / 2) / 60

    def _map(self, name: str, shape: tuple[int, ...]) -> NDArray[np.int16]:
        return np.memmap(self.folder / f"{name}.i16", np.int16, "r", shape=shape)


def growing_overview(folder: Path, columns: int) -> NDArray[np.float32]:
    """The waveform as far as an analysis that is being made into `folder` has come.

    Shape (columns, 3) over the length that the file announces: lowest, highest, RMS, -1 to 1; zero where nothing
    has been read yet. A glimpse: of a long recording up to 32 of the entries behind each column are looked at.

    Parameters
    ----------
    folder
        The folder that it lies in.
    columns
        Number of columns that the stretch is divided into.
    """
    out = np.zeros((columns, 3), np.float32)
    for making in sorted(folder.parent.glob(f"{folder.name}.part-*")):
        try:
            head = json.loads((making / "head.json").read_text())
            stored = np.memmap(making / "wave-0.i16", np.int16, "r")
        except (OSError, ValueError):
            continue
        entries = stored[: len(stored) // (head["heard"] * 3) * head["heard"] * 3].reshape(-1, head["heard"], 3)
        total = max(len(entries), round((head["announced_s"] or 0.0) * RATE / levels.PYRAMID_BASE))
        done = min(columns, len(entries) * columns // max(total, 1))
        if not done:
            continue
        places = np.arange(done)[:, None] * total // columns
        looked = places + (np.arange(32)[None, :] * max(total // columns, 1)) // 32
        part = entries[np.minimum(looked, len(entries) - 1)].astype(np.float32) / 32767
        out[:done, 0], out[:done, 1] = part[..., 0].min(axis=(1, 2)), part[..., 1].max(axis=(1, 2))
        out[:done, 2] = np.sqrt((part[..., 2] ** 2).mean(axis=(1, 2)))
    return out


def is_current(folder: Path) -> bool:
    """True when the folder holds a whole analysis of this version.

    Parameters
    ----------
    folder
        The folder that it lies in.
    """
    try:
        return json.loads((folder / "meta.json").read_text())["version"] == VERSION
    except (OSError, ValueError, KeyError):
        return False
