"""The sound of an export: the used part of the original recording with what clips add, 48 kHz, at a loudness."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Any

import av
import numpy as np

import velvetdrum.deliver.sounds  # noqa: F401  (makes the sound formats known)
from velvetdrum.audio.decode import RATE, decode_blocks, probe, stereo
from velvetdrum.audio.filters import Samples
from velvetdrum.audio.limiter import Limiter
from velvetdrum.audio.loudness import LoudnessMeter, TruePeakMeter, integrated_lufs, to_decibel
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.sound_ends import SoundEnds
from velvetdrum.deliver.sound_format import SOUND_FORMATS, SoundFormat
from velvetdrum.deliver.sound_mix import Voice, mixed, voices
from velvetdrum.mix.mixdown import Mixdown
from velvetdrum.scene.document import Project
from velvetdrum.signals.audio_range import AudioRange


def cut(path: Path, start: int, count: int, silent_from: int, whole: int | None = None) -> Iterator[Samples]:
    """`count` samples of a recording from sample `start` on, as blocks of one or two channels at 48 kHz.

    Beyond the recording, and from sample `silent_from` of the recording on, there is silence. `whole` as
    `decode_blocks` has it.

    Parameters
    ----------
    path
        The file.
    start
        The first reading.
    count
        How many.
    silent_from
        The sample from which on there is silence.
    whole
        Samples in all, where that is known.
    """
    names = probe(path).channel_names
    at, given = max(start, 0), 0
    channels = min(len(names), 2)
    for block in decode_blocks(path, first=at, whole=whole):
        heard = stereo(block, names)
        low, high = max(start - at, 0), min(start + count, silent_from) - at
        at += heard.shape[1]
        piece = heard[:, low : max(high, low)]
        if piece.shape[1]:
            given += piece.shape[1]
            yield piece
        if at >= min(start + count, silent_from):
            break
    while given < count:
        size = min(count - given, RATE)
        given += size
        yield np.zeros((channels, size), np.float32)


@dataclass(frozen=True)
class Loudness:
    """What sound measures: integrated loudness in LUFS (None for silence) and true peak in dBTP."""

    lufs: float | None
    peak_dbtp: float


@dataclass(frozen=True)
class HeardSound:
    """The sound of a project's stretch: the used part of a recording with the clips that are heard."""

    source: Path | Mixdown
    in_s: float
    out_s: float
    start_s: Fraction
    stop_s: Fraction
    project: Project | None = None
    use: AudioRange | None = None
    clips: Mapping[str, str] | None = None
    ends: SoundEnds = field(default_factory=SoundEnds)

    @property
    def samples(self) -> int:
        """How many samples it has, at 48 kHz."""
        return round(self.stop_s * RATE) - round(self.start_s * RATE)

    @cached_property
    def _heard(self) -> list[Voice]:
        return voices(self.project, self.use, self.clips or {}) if self.project else []

    @cached_property
    def channels(self) -> int:
        """One or two."""
        if self._heard:
            return 2
        return self.source.channels if isinstance(self.source, Mixdown) else min(probe(self.source).channels, 2)

    def blocks(self) -> Iterator[Samples]:
        """All of it in blocks of shape (channels, n), full scale 1."""
        if self.ends == SoundEnds():
            return self._plain()
        return self.ends.applied(self._plain(), self.samples, self._before())

    def _before(self) -> Samples:
        """What comes before the start, as long as the seam; silence before the project."""
        count = self.ends.seam
        begin = max(self.start_s - Fraction(count, RATE), Fraction(0))
        other = replace(self, start_s=begin, stop_s=self.start_s, ends=SoundEnds())
        result = np.concatenate([np.zeros((self.channels, count), np.float32), *other.blocks()], axis=1)
        return result[:, result.shape[1] - count :]

    def _plain(self) -> Iterator[Samples]:
        at = round(self.start_s * RATE)
        first = round(Fraction(self.in_s).limit_denominator(RATE) * RATE) + at
        for block in self._own(first):
            if self.project is not None and self._heard:
                both = block if block.shape[0] == 2 else np.repeat(block, 2, axis=0)
                block = np.clip(both + mixed(self.project, self.use, self._heard, at, block.shape[1]), -1, 1)
                at += block.shape[1]
            yield block

    def _own(self, first: int) -> Iterator[Samples]:
        """What the tracks sound like, without clips, from a sample of the recording or the timeline on."""
        silent_from = round(self.out_s * RATE)
        if isinstance(self.source, Mixdown):
            sounding = min(max(silent_from - first, 0), self.samples)
            yield from self.source.blocks(first, sounding)
            for at in range(sounding, self.samples, RATE):
                yield np.zeros((self.source.channels, min(RATE, self.samples - at)), np.float32)
            return
        whole = self.use.recording.samples if self.use else None
        yield from cut(self.source, first, self.samples, silent_from, whole)


def measured(blocks: Iterable[Samples], channels: int) -> Loudness:
    """Loudness and true peak after ITU-R BS.1770-4.

    Parameters
    ----------
    blocks
        Samples piece by piece, each of shape (channels, count).
    channels
        Number of channels.
    """
    meter, peak = LoudnessMeter(("FC",) if channels == 1 else ("FL", "FR")), TruePeakMeter()
    for block in blocks:
        meter.feed(block)
        peak.feed(block)
    return Loudness(integrated_lufs(meter.energies), to_decibel(peak.true_peak))


def sound_of(path: Path) -> Loudness:
    """What the sound of a finished file measures.

    Parameters
    ----------
    path
        The file.
    """
    names = probe(path).channel_names
    return measured((stereo(block, names) for block in decode_blocks(path)), min(len(names), 2))


def normalised_to(heard: HeardSound, lufs: float, ceiling_db: float) -> Callable[[], Iterator[Samples]]:
    """The sound at a loudness, its true peak under a ceiling. What the limiter takes away is given back by gain,
    found in up to three rounds; silence stays as it is.

    Parameters
    ----------
    heard
        What is heard: sounds with their places and gains.
    lufs
        Integrated loudness of the result, in LUFS.
    ceiling_db
        The true peak that is not passed, in dBTP.
    """
    before = measured(heard.blocks(), heard.channels)
    if before.lufs is None:
        return heard.blocks
    gain = lufs - before.lufs

    def limited() -> Iterator[Samples]:
        limiter, factor = Limiter(heard.channels, ceiling_db), np.float32(10 ** (gain / 20))
        for block in heard.blocks():
            yield limiter.feed(block * factor)
        yield limiter.finish()

    for _ in range(3):
        if before.peak_dbtp + gain <= ceiling_db:
            break
        after = measured(limited(), heard.channels)
        if after.lufs is None or abs(lufs - after.lufs) < 0.1:
            break
        gain += lufs - after.lufs
    return limited


def encode_sound(
    heard: HeardSound, path: Path, *, form: str = "m4a", lufs: float | None = None, ceiling_db: float = -1.0
) -> None:
    """Write a project's sound to a file that holds nothing else, in a format of `SOUND_FORMATS`; brought to a loudness
    where one is asked for. The file appears under `path` when it is whole.

    Parameters
    ----------
    heard
        What is heard: sounds with their places and gains.
    path
        The file.
    form
        Name of the form.
    lufs
        Integrated loudness of the result, in LUFS.
    ceiling_db
        The true peak that is not passed, in dBTP.
    """
    format_ = SOUND_FORMATS[form]
    if lufs is None:
        _write(heard.blocks, path, format_, heard.channels)
        return
    target, ceiling = lufs, ceiling_db
    for _ in range(3 if format_.lossy else 1):
        _write(normalised_to(heard, target, ceiling), path, format_, heard.channels)
        after = sound_of(path)
        # What a lossy codec makes of it may be quieter, and may pass the peak: what comes out counts.
        over = max(after.peak_dbtp - ceiling_db, 0.0)
        off = 0.0 if after.lufs is None else lufs - after.lufs
        if over <= 0.02 and abs(off) <= 0.15:
            return
        target, ceiling = target + off, ceiling - (over + 0.1 if over else 0.0)


def _write(blocks: Callable[[], Iterator[Samples]], path: Path, format_: SoundFormat, channels: int) -> None:
    with written_whole(path, "The sound") as beside, av.open(str(beside), "w", format=format_.container) as container:
        layout = "mono" if channels == 1 else "stereo"
        stream: Any = container.add_stream(format_.codec, rate=RATE, layout=layout)
        stream.codec_context.format = format_.samples
        if bit_rate := format_.bit_rate(channels):
            stream.codec_context.bit_rate = bit_rate
        pts, held = 0, np.zeros((channels, 0), np.float32)

        def send(samples: Samples) -> None:
            nonlocal pts
            frame = _audio_frame(samples, format_.samples, layout)
            frame.sample_rate, frame.pts, frame.time_base = RATE, pts, Fraction(1, RATE)
            pts += samples.shape[1]
            container.mux(stream.encode(frame))

        for block in blocks():
            held = np.concatenate([held, block], axis=1)
            while held.shape[1] >= format_.frame:
                send(held[:, : format_.frame])
                held = held[:, format_.frame :]
        if held.shape[1]:
            send(held)
        container.mux(stream.encode(None))


def _audio_frame(samples: Samples, form: str, layout: str) -> av.AudioFrame:
    """Samples, shape (channels, n), full scale 1, as a frame in one of the forms that codecs take."""
    if form == "fltp":
        return av.AudioFrame.from_ndarray(np.ascontiguousarray(samples, np.float32), format="fltp", layout=layout)
    mixed_ = samples.T.reshape(1, -1)
    if form == "flt":
        return av.AudioFrame.from_ndarray(np.ascontiguousarray(mixed_, np.float32), format="flt", layout=layout)
    # 24 bits in the upper ones of 32.
    codes = np.rint(np.clip(mixed_.astype(np.float64), -1, 1 - 2**-23) * 2**23).astype(np.int32) << 8
    return av.AudioFrame.from_ndarray(np.ascontiguousarray(codes), format="s32", layout=layout)
