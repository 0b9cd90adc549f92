"""The analysis of a recording: made once, kept as memory-mapped arrays, read from everywhere.

A folder holds `meta.json` and plain arrays: `bands` (hundredths of dBFS per frame, row and band), `levels`
(peak and RMS), `pcm` (16 bit at 48 kHz, for listening), `wave-N` (the waveform pyramid) and `loudness`
(K-weighted energy per 100 ms). It is built in a folder beside it and renamed when whole.
"""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict, dataclass
from functools import cached_property
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio import bands, levels, onsets
from velvetdrum.audio.beats import find_beats
from velvetdrum.audio.decode import MAX_SECONDS, RATE, check_complete, decode_blocks, probe, stereo
from velvetdrum.audio.errors import Cancelled, SoundError
from velvetdrum.audio.filters import Samples
from velvetdrum.audio.levels import Pyramid
from velvetdrum.audio.loudness import (
    LoudnessMeter,
    TruePeakMeter,
    integrated_lufs,
    loudness_range_lu,
    to_decibel,
)

VERSION = 2
"""Raised whenever stored numbers change their meaning; older folders are then made anew."""

_FRAMES = 300  # per piece: five seconds
_ENTRIES = levels.PYRAMID_STEP * 16_384
_AUDIBLE_BELOW_PEAK_DB = 60.0
_AUDIBLE_FLOOR_DB = -80.0

Progress = Callable[[float], None]
_Piece = tuple[NDArray[np.int16], NDArray[np.int16], NDArray[np.float32]]


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


class Analysis:
    """Read access to a stored analysis. Arrays are memory-mapped: opening costs nothing, whatever the length."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._meta = json.loads((folder / "meta.json").read_text())
        self.identity = (str(folder), (folder / "meta.json").stat().st_mtime_ns)
        """Tells analyses apart, also one made anew in the same folder: under it, what was computed is kept."""

    @cached_property
    def facts(self) -> SoundFacts:
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
        out, count = [], self.samples
        size = levels.PYRAMID_BASE
        for level in range(levels.PYRAMID_LEVELS):
            entries = -(-count // size)
            out.append(self._map(f"wave-{level}", (entries, self._meta["heard"], 3)))
            size *= levels.PYRAMID_STEP
        return out

    @cached_property
    def loudness_energies(self) -> NDArray[np.float64]:
        return np.fromfile(self.folder / "loudness.f64", np.float64)

    def overview(self, start_s: float, stop_s: float, columns: int) -> NDArray[np.float32]:
        """Waveform columns between two seconds; see `levels.overview`."""
        return levels.overview(self.pcm, self.pyramid, round(start_s * RATE), round(stop_s * RATE), columns)

    def power(self, channel: str, start: int, stop: int, chosen: slice = slice(None)) -> NDArray[np.float32]:
        """Linear band power of readings start to stop, shape (stop - start, bands), of all or the `chosen` bands.

        `channel` is mix, left, right, mid or side. Of a mono recording every channel is the mix, and side is
        silent. The mix is the mean power of left and right, so sounds in opposite phase do not vanish.
        Readings outside the recording are silent.
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

    def short_power(self, channel: str, start: int, stop: int) -> NDArray[np.float32]:
        """Power of all that sounds in each 64 samples (1/750 s), entries start to stop, shape (stop - start,).

        AES17: a full-scale sine has 1. Of mid and side it is an upper bound. Two steps of 16 bit are added, so that
        what the 16-bit copy has lost is never taken for silence.
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
    """True when the folder holds a whole analysis of this version."""
    try:
        return json.loads((folder / "meta.json").read_text())["version"] == VERSION
    except (OSError, ValueError, KeyError):
        return False


def analyse(
    path: Path,
    folder: Path,
    *,
    key: str = "",
    progress: Progress = lambda share: None,
    threads: int = 2,
) -> Analysis:
    """Analyse a sound file into `folder` and open the result.

    `progress` is called with shares from 0 to 1 and may raise `Cancelled`. Raises SoundError with a sentence
    when the file can't be used; nothing is left behind then.
    """
    beside = folder.with_name(f"{folder.name}.part-{os.getpid()}")
    shutil.rmtree(beside, ignore_errors=True)
    try:
        beside.mkdir(parents=True)
        _Writer(path, beside, key, progress, threads).run()
        shutil.rmtree(folder, ignore_errors=True)
        beside.rename(folder)
    except OSError as problem:
        raise SoundError(
            f"The analysis could not be written: {problem.strerror or problem}. "
            "Make room on the disk, then bring the sound in again."
        ) from problem
    except MemoryError as problem:
        raise SoundError("The file asks for more memory than a recording can need; it is damaged.") from problem
    finally:
        shutil.rmtree(beside, ignore_errors=True)
    return Analysis(folder)


class _Writer:
    """One pass over a recording: decoding here, transforms on threads, arrays appended in order."""

    def __init__(self, path: Path, folder: Path, key: str, progress: Progress, threads: int) -> None:
        self.path, self.folder, self.key, self.progress = path, folder, key, progress
        self.info = probe(path)
        self.meter = LoudnessMeter(self.info.channel_names)
        self.peaks = TruePeakMeter()
        self.threads = threads
        self.samples = self.frames = 0
        self.heard = min(self.info.channels, 2)
        self.rises: list[NDArray[np.float32]] = []

    def run(self) -> None:
        with (
            ThreadPoolExecutor(self.threads) as pool,
            (self.folder / "bands.i16").open("wb") as band_file,
            (self.folder / "levels.i16").open("wb") as level_file,
            (self.folder / "pcm.i16").open("wb") as pcm_file,
            (self.folder / "wave-0.i16").open("wb") as wave_file,
        ):
            waiting: list[Future[_Piece]] = []

            def collect(most: int) -> None:
                while len(waiting) > most:
                    band_part, level_part, rises = waiting.pop(0).result()
                    self.rises.append(rises)
                    band_file.write(np.ascontiguousarray(band_part).data)
                    level_file.write(np.ascontiguousarray(level_part).data)

            head = {"heard": self.heard, "announced_s": self.info.announced_s}
            (self.folder / "head.json").write_text(json.dumps(head))
            size = _FRAMES * bands.HOP
            kept = np.zeros((self.heard, bands.MARGIN), np.float32)
            for block in decode_blocks(self.path, block=size):
                meters = [pool.submit(self.meter.feed, block), pool.submit(self.peaks.feed, block)]
                heard = stereo(block, self.info.channel_names)
                pcm = levels.to_int16(heard)
                pcm_file.write(np.ascontiguousarray(pcm).data)
                wave_file.write(np.ascontiguousarray(levels.pyramid_base(pcm)).data)
                self.samples += block.shape[1]
                kept = np.concatenate([kept, heard], axis=1)
                while kept.shape[1] >= size + 2 * bands.MARGIN:
                    waiting.append(pool.submit(_piece, kept[:, : size + 2 * bands.MARGIN], _FRAMES))
                    kept = kept[:, size:]
                    self.frames += _FRAMES
                collect(2 * self.threads)
                for meter in meters:
                    meter.result()
                self._report()
            while (left := -(-self.samples // bands.HOP) + 1 - self.frames) > 0:
                count = min(left, _FRAMES)
                need = count * bands.HOP + 2 * bands.MARGIN
                tail = np.pad(kept, ((0, 0), (0, max(0, need - kept.shape[1]))))
                waiting.append(pool.submit(_piece, tail[:, :need], count))
                kept = kept[:, count * bands.HOP :]
                self.frames += count
            collect(0)
        self._finish()

    def _report(self) -> None:
        seconds = self.samples / RATE
        if seconds > MAX_SECONDS + 1:
            raise SoundError("The recording is longer than 3 hours. Cut it into parts first.")
        if self.info.announced_s:
            self.progress(min(0.99, seconds / self.info.announced_s))
        else:
            self.progress(0.0)

    def _finish(self) -> None:
        seconds = self.samples / RATE
        check_complete(self.path, self.info, seconds)
        quietest_heard = max(to_decibel(self.peaks.sample_peak) - _AUDIBLE_BELOW_PEAK_DB, _AUDIBLE_FLOOR_DB)
        if to_decibel(self.peaks.sample_peak) <= _AUDIBLE_FLOOR_DB:
            raise SoundError(
                "The recording is silent: nothing in it is louder than -80 dBFS. Check that the right "
                "channel or take was exported."
            )
        first, last = self._audible(10 ** (quietest_heard / 20))
        self._write_pyramid()
        energies = self.meter.energies
        energies.tofile(self.folder / "loudness.f64")
        beats = find_beats(np.concatenate(self.rises), first, last)
        facts = SoundFacts(
            duration_s=seconds,
            sample_rate=self.info.sample_rate,
            channels=self.info.channels,
            codec=self.info.codec,
            loudness_lufs=_rounded(integrated_lufs(energies)),
            loudness_range_lu=_rounded(loudness_range_lu(energies)),
            true_peak_dbtp=round(to_decibel(self.peaks.true_peak), 2),
            sample_peak_dbfs=round(to_decibel(self.peaks.sample_peak), 2),
            first_sound_s=round(first, 6),
            last_sound_s=round(last, 6),
            tempo_bpm=beats.tempo_bpm,
            tempo_confidence=beats.confidence,
            beats_s=[float(time) for time in beats.times_s],
        )
        meta = {
            "version": VERSION,
            "key": self.key,
            "samples": self.samples,
            "frames": self.frames,
            "heard": self.heard,
            "rows": 1 if self.heard == 1 else 4,
            "facts": asdict(facts),
        }
        (self.folder / "meta.json").write_text(json.dumps(meta))
        self.progress(1.0)

    def _audible(self, threshold: float) -> tuple[float, float]:
        """First and last second whose sample passes the threshold (linear)."""
        code = max(1.0, threshold * 32767)
        first = last = -1
        for at, entries in self._entries(0):
            loud = np.flatnonzero((entries[..., 1].max(axis=1) >= code) | (entries[..., 0].min(axis=1) <= -code))
            if len(loud):
                first = at + int(loud[0]) if first < 0 else first
                last = at + int(loud[-1])
        if first < 0:
            return 0.0, self.samples / RATE
        return self._hits(first, code)[0] / RATE, (self._hits(last, code)[-1] + 1) / RATE

    def _hits(self, entry: int, code: float) -> list[int]:
        """The samples of one pyramid entry that reach `code`."""
        size = levels.PYRAMID_BASE
        offset = entry * size * self.heard * 2
        part = np.fromfile(self.folder / "pcm.i16", np.int16, size * self.heard, offset=offset)
        loud = np.abs(part.reshape(-1, self.heard).astype(np.int32)).max(axis=1) >= code
        return [int(index) + entry * size for index in np.flatnonzero(loud)]

    def _write_pyramid(self) -> None:
        for level in range(1, levels.PYRAMID_LEVELS):
            with (self.folder / f"wave-{level}.i16").open("wb") as file:
                for _, entries in self._entries(level - 1):
                    file.write(np.ascontiguousarray(levels.pyramid_above(entries)).data)

    def _entries(self, level: int) -> Iterator[tuple[int, NDArray[np.int16]]]:
        """A pyramid level a piece at a time, so that memory does not grow with the length."""
        with (self.folder / f"wave-{level}.i16").open("rb") as file:
            at, width = 0, self.heard * 3
            while len(piece := np.fromfile(file, np.int16, _ENTRIES * width)):
                yield at, piece.reshape(-1, self.heard, 3)
                at += _ENTRIES


def _piece(samples: Samples, frames: int) -> _Piece:
    """Bands, levels and onset strength of `frames` frames; `samples` carries the margin on both sides."""
    start = bands.MARGIN - bands.HOP // 2
    return (
        bands.to_centibel(bands.band_power(samples, frames)),
        levels.frame_levels(samples[:, start : start + frames * bands.HOP], frames),
        onsets.onset_strength(samples, frames),
    )


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


__all__ = ["Analysis", "Cancelled", "SoundError", "SoundFacts", "analyse", "is_current"]
