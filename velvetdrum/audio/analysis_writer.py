"""Making an analysis: one pass over a recording, written into a folder beside its place and renamed when whole.

Decoding happens here, transforms on threads, arrays are appended in order.
"""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio import bands, levels, onsets
from velvetdrum.audio.analysis import VERSION, Analysis, SoundFacts
from velvetdrum.audio.beats import Beats, find_beats
from velvetdrum.audio.decode import MAX_SECONDS, RATE, SoundInfo, check_complete, decode_blocks, probe, stereo
from velvetdrum.audio.errors import SoundError
from velvetdrum.audio.filters import Samples
from velvetdrum.audio.loudness import (
    LoudnessMeter,
    TruePeakMeter,
    integrated_lufs,
    loudness_range_lu,
    to_decibel,
)

_FRAMES = 300  # per piece: five seconds
_ENTRIES = levels.PYRAMID_STEP * 16_384
_AUDIBLE_BELOW_PEAK_DB = 60.0
_AUDIBLE_FLOOR_DB = -80.0

ReportShare = Callable[[float], None]
_Piece = tuple[NDArray[np.int16], NDArray[np.int16], NDArray[np.float32]]


class SoundStream(Protocol):
    """What can be analysed: a file, or what is made of several."""

    info: SoundInfo
    may_be_silent: bool

    def blocks(self, block: int) -> Iterator[Samples]:
        """All of it, in blocks of shape (channels, n) at 48 kHz.

        Parameters
        ----------
        block
            Samples a block, but for the last.
        """
        ...

    def check(self, seconds: float) -> None:
        """Raise SoundError where less came of it than there should be.

        Parameters
        ----------
        seconds
            How much came.
        """
        ...


class FileStream:
    """The sound of a file."""

    may_be_silent = False

    def __init__(self, path: Path) -> None:
        self.path, self.info = path, probe(path)

    def blocks(self, block: int) -> Iterator[Samples]:
        """All of it, in blocks.

        Parameters
        ----------
        block
            Samples a block, but for the last.
        """
        return decode_blocks(self.path, block=block)

    def check(self, seconds: float) -> None:
        """Raise SoundError where the file promises more.

        Parameters
        ----------
        seconds
            How much was decoded.
        """
        check_complete(self.path, self.info, seconds)


def analyse(
    path: Path | SoundStream,
    folder: Path,
    *,
    key: str = "",
    progress: ReportShare = lambda share: None,
    threads: int = 2,
    most_s: float | None = None,
) -> Analysis:
    """Analyse a sound file, or its first seconds, into `folder` and open the result.

    `progress` is called with shares from 0 to 1 and may raise `Cancelled`.

    Parameters
    ----------
    path
        The file, or what is made of several.
    folder
        The folder that it lies in.
    key
        Names the content; empty where none is known.
    progress
        Called with how far the work is, 0 to 1.
    threads
        Threads that decode.
    most_s
        Seconds from its begin after which it is left; all of it without.

    Raises
    ------
    SoundError
        With a sentence when the file can't be used; nothing is left behind then.
    """
    beside = folder.with_name(f"{folder.name}.part-{os.getpid()}")
    shutil.rmtree(beside, ignore_errors=True)
    try:
        beside.mkdir(parents=True)
        stream = FileStream(path) if isinstance(path, Path) else path
        _Writer(stream, beside, key, progress, threads, most_s).run()
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

    def __init__(
        self, stream: SoundStream, folder: Path, key: str, progress: ReportShare, threads: int, most_s: float | None
    ) -> None:
        self.stream, self.folder, self.key, self.progress = stream, folder, key, progress
        self.most = None if most_s is None else round(most_s * RATE)
        self.info = stream.info
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
            for block in self.stream.blocks(size):
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
                if self.most is not None and self.samples >= self.most:
                    break
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
        if self.most is None:
            self.stream.check(seconds)
        quietest_heard = max(to_decibel(self.peaks.sample_peak) - _AUDIBLE_BELOW_PEAK_DB, _AUDIBLE_FLOOR_DB)
        if to_decibel(self.peaks.sample_peak) <= _AUDIBLE_FLOOR_DB and not self.stream.may_be_silent:
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
            other_tempos=[_reading(other) for other in beats.others],
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


def _reading(beats: Beats) -> dict[str, Any]:
    return {
        "tempo_bpm": beats.tempo_bpm,
        "confidence": beats.confidence,
        "beats_s": [float(time) for time in beats.times_s],
    }
