"""Any sound file as blocks of float samples at 48 kHz.

FFmpeg (through PyAV) reads the file. Everything after this module sees one sample rate, so that
windows, frames and filters have the same meaning for every recording.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from itertools import chain
from pathlib import Path

import av
import numpy as np
from av.audio.frame import AudioFrame
from av.audio.resampler import AudioResampler

from velvetdrum.audio.errors import SoundError
from velvetdrum.audio.filters import RateConverter, Samples, can_convert
from velvetdrum.limits import openers

RATE = 48_000
"""Samples per second of everything that is decoded."""

READ = "WAV, FLAC, MP3, M4A, Ogg, Opus, AIFF and video files with sound are read."

MAX_SECONDS = 3 * 3600
MIN_RATE, MAX_RATE = 8_000, 192_000
MAX_CHANNELS = 8
_LOUDEST = 1000.0
_WORTH_S = 5
"""What is left out of a file must be this long at least, in seconds."""

# A fold-down after ITU-R BS.775: centre and surrounds at -3 dB, the low-frequency channel left out, and
# the sum lowered by 3 dB so that a busy surround recording keeps its headroom.
_SURROUND = float(np.sqrt(0.5))


# The order of channels in files that name none (that of WAVE_FORMAT_EXTENSIBLE's speaker bits).
_FULL_ORDER = ("FL", "FR", "FC", "LFE", "BL", "BR", "SL", "SR")
_USUAL_ORDER = {
    1: ("FC",),
    2: ("FL", "FR"),
    3: ("FL", "FR", "FC"),
    4: ("FL", "FR", "BL", "BR"),
    5: ("FL", "FR", "FC", "BL", "BR"),
    6: _FULL_ORDER[:6],
    7: ("FL", "FR", "FC", "LFE", "BC", "SL", "SR"),
    8: _FULL_ORDER,
}


@dataclass(frozen=True)
class SoundInfo:
    """What the file says of itself, before any sample is decoded."""

    codec: str
    container: str
    sample_rate: int
    channels: int
    channel_names: tuple[str, ...]
    announced_s: float | None
    """Length that the file announces, in seconds; None when it says nothing."""


def probe(path: Path) -> SoundInfo:
    """Read the header of a sound or video file.

    Parameters
    ----------
    path
        The file.

    Raises
    ------
    SoundError
        With a sentence when the file holds no sound that can be used.
    """
    if path.stat().st_size == 0:
        raise SoundError("The file is empty. Copy or save it again, then drop it here.")
    with _open(path) as container:
        return _describe(container, _audio_stream(container))


def decode_blocks(path: Path, *, block: int = 480_000, first: int = 0, whole: int | None = None) -> Iterator[Samples]:
    """Yield the recording in blocks of `block` samples, shape (channels, samples), at 48 kHz, from sample `first` on.

    The last block is shorter. Values are linear, 1.0 is full scale; float files may go beyond it. `whole` is how many
    samples all of it was decoded to before, where that is known: what lies before `first` is then left out without
    being decoded, if the file is coded without loss and announces just as many, so that nothing is missing in it.

    Parameters
    ----------
    path
        The file.
    block
        Samples a piece, at the most.
    first
        The first sample, at the rate of the result.
    whole
        Samples in all, where that is known.

    Raises
    ------
    SoundError
        When the file turns out to be damaged.
    """
    if whole is not None and first >= whole:
        return
    with _open(path) as container:
        stream = _audio_stream(container)
        info = _describe(container, stream)
        held: list[Samples] = []
        count = 0
        for piece in _from(_pieces(container, stream, info, first, whole), first):
            held.append(piece)
            count += piece.shape[1]
            while count >= block:
                joined = np.concatenate(held, axis=1) if len(held) > 1 else held[0]
                yield np.ascontiguousarray(joined[:, :block])
                held = [joined[:, block:]]
                count -= block
        if count:
            yield np.concatenate(held, axis=1)


def stereo(samples: Samples, names: tuple[str, ...]) -> Samples:
    """Fold any channel layout down to what is heard: one channel stays one, all else becomes two.

    `samples` has shape (channels, n); the result (1, n) or (2, n).

    Parameters
    ----------
    samples
        Samples from -1 to 1, shape (channels, count).
    names
        Names of channels, as the decoder gives them.
    """
    channels = samples.shape[0]
    if channels <= 2:
        return samples
    matrix = np.zeros((2, channels), np.float32)
    for index, name in enumerate(names):
        if name.startswith("LFE"):
            continue
        left = name.endswith("L") or name in ("FLC", "DL")
        right = name.endswith("R") or name in ("FRC", "DR")
        gain = 1.0 if name in ("FL", "FR") else _SURROUND
        matrix[0, index] = 0.0 if right else gain
        matrix[1, index] = 0.0 if left else gain
    return np.asarray((matrix * np.float32(_SURROUND)) @ samples, np.float32)


def check_complete(path: Path, info: SoundInfo, decoded_s: float) -> None:
    """Raise SoundError when a file holds clearly less than its header promises.

    Only formats whose header is exact are judged: lengths of MP3 and of raw streams are estimates.

    Parameters
    ----------
    path
        The file.
    info
        What the file says of itself.
    decoded_s
        Seconds that were decoded.
    """
    promised = info.announced_s
    if info.container == "wav":
        promised = _riff_seconds(path) or promised
    elif info.container not in ("flac", "aiff", "mov,mp4,m4a,3gp,3g2,mj2"):
        return
    if promised and promised - decoded_s > max(0.5, 0.01 * promised):
        raise SoundError(
            f"The file ends early: it announces {_clock(promised)} but holds only {_clock(decoded_s)}. "
            "Copy it again from where it came from, or save it anew."
        )


def _open(path: Path) -> av.container.InputContainer:
    try:
        return openers.media(path)
    except av.error.MemoryError as problem:
        raise SoundError("The file asks for more memory than a recording can need; it is damaged.") from problem
    except (av.error.FFmpegError, ValueError, OSError) as problem:
        raise SoundError(f"This is not a sound file that can be read, or it is damaged. {READ}") from problem


def _audio_stream(container: av.container.InputContainer) -> av.audio.stream.AudioStream:
    if not container.streams.audio:
        raise SoundError("The file has no sound in it, only pictures or data. Choose one with an audio stream.")
    return container.streams.best("audio") or container.streams.audio[0]  # type: ignore[return-value]


def _describe(container: av.container.InputContainer, stream: av.audio.stream.AudioStream) -> SoundInfo:
    context = stream.codec_context
    if context is None:
        raise SoundError(f"The sound in this file is coded in a way that is not read. {READ}")
    rate, channels = context.sample_rate or 0, context.channels or 0
    if not rate or not channels:
        raise SoundError("The file names a sound stream but says nothing usable about it; it is damaged.")
    if not MIN_RATE <= rate <= MAX_RATE:
        raise SoundError(f"The sample rate is {rate} Hz; rates from 8 kHz to 192 kHz can be used.")
    if channels > MAX_CHANNELS:
        raise SoundError(f"The recording has {channels} channels; up to 8 (7.1) can be used.")
    announced = None
    if stream.duration is not None and stream.time_base is not None:
        announced = float(stream.duration * stream.time_base)
    elif container.duration is not None:
        announced = container.duration / 1_000_000
    if announced is not None and announced > MAX_SECONDS + 1:
        raise SoundError(
            f"The recording is {_clock(announced)} long; up to 3 hours can be used. Cut it into parts first."
        )
    names = tuple(channel.name for channel in context.layout.channels)
    if len(names) != channels or "NONE" in names:
        names = _USUAL_ORDER[channels]
    return SoundInfo(
        codec=context.name,
        container=container.format.name,
        sample_rate=rate,
        channels=channels,
        channel_names=names,
        announced_s=announced if announced and announced > 0 else None,
    )


def _from(pieces: Iterator[tuple[int, Samples]], first: int) -> Iterator[Samples]:
    """Pieces, each with the sample that it begins at, as far as they lie at or after a sample."""
    for at, piece in pieces:
        rest = piece[:, max(first - at, 0) :]
        if rest.shape[1]:
            yield rest


def _pieces(
    container: av.container.InputContainer,
    stream: av.audio.stream.AudioStream,
    info: SoundInfo,
    first: int,
    whole: int | None,
) -> Iterator[tuple[int, Samples]]:
    """Decoded pieces at 48 kHz, of any length, and the sample that each begins at: the beginning, or one not long
    before `first`."""
    # Rates in an odd ratio to 48 kHz are brought there by FFmpeg frame by frame; see `_decoded`.
    own = can_convert(info.sample_rate, RATE)
    converter = RateConverter(info.sample_rate, RATE) if own and info.sample_rate != RATE else None
    given, wanted = converter.block_of(first) if converter else (first, first)
    begun = _sought(container, stream, info, wanted, whole) if own and first else None
    pieces = _decoded(container, stream, info)
    at = begun or 0
    if converter is None:
        for piece in pieces:
            yield at, piece
            at += piece.shape[1]
        return
    if begun is not None:
        lead, pieces = _split_at(pieces, wanted + converter.reach - begun)
        converter.begin(lead)
    out = 0 if begun is None else given
    held: list[Samples] = []
    count = 0
    for piece in pieces:
        held.append(piece)
        count += piece.shape[1]
        if count >= info.sample_rate:
            made = converter.feed(np.concatenate(held, axis=1))
            yield out, made
            out += made.shape[1]
            held, count = [], 0
    if held:
        made = converter.feed(np.concatenate(held, axis=1))
        yield out, made
        out += made.shape[1]
    yield out, converter.finish()


def _sought(
    container: av.container.InputContainer,
    stream: av.audio.stream.AudioStream,
    info: SoundInfo,
    sample: int,
    whole: int | None,
) -> int | None:
    """Go to where a sample of the file's own rate is about to be decoded; gives the sample that comes next. None where
    nothing was left out."""
    exact = info.codec.startswith("pcm_") or info.codec in ("flac", "alac")
    announced = stream.duration if stream.time_base == Fraction(1, info.sample_rate) else None
    if not exact or not announced or stream.start_time or sample < _WORTH_S * info.sample_rate:
        return None
    if whole is None or whole != -(-announced * RATE // info.sample_rate):
        return None
    try:
        container.seek(sample, stream=stream)
        begun = next(container.decode(stream)).pts
        # Once to see what comes, and again to have it.
        container.seek(sample, stream=stream)
    except (av.error.FFmpegError, StopIteration):
        begun = None
    if begun is None or begun > sample:
        container.seek(0, stream=stream)
        return None
    return int(begun)


def _split_at(pieces: Iterator[Samples], count: int) -> tuple[Samples, Iterator[Samples]]:
    """The first `count` samples, and what follows."""
    held: list[Samples] = []
    while sum(piece.shape[1] for piece in held) < count and (piece := next(pieces, None)) is not None:
        held.append(piece)
    lead = np.concatenate(held, axis=1)
    return lead[:, :count], chain([lead[:, count:]], pieces)


def _decoded(
    container: av.container.InputContainer, stream: av.audio.stream.AudioStream, info: SoundInfo
) -> Iterator[Samples]:
    """Planar float pieces at the file's own rate, or at 48 kHz where `RateConverter` can't serve.

    Damage in the middle is skipped as players do.
    """
    layout = stream.codec_context.layout
    rate = info.sample_rate if can_convert(info.sample_rate, RATE) else RATE
    shape = (info.channels, rate)
    # Reading eight planes at once ends the process in this release of PyAV; packed samples do not.
    form = "flt" if info.channels >= 8 else "fltp"
    resampler = AudioResampler(format=form, layout=layout, rate=rate)
    broken = good = 0
    for packet in container.demux(stream):
        try:
            frames = packet.decode()
        except av.error.EOFError:
            break
        except av.error.FFmpegError as problem:
            broken += 1
            if broken > 50 and broken > good:
                raise SoundError(f"The sound in this file is damaged and can't be decoded. {READ}") from problem
            continue
        for frame in frames:
            if not isinstance(frame, AudioFrame):
                continue
            good += 1
            if frame.format.name == form == "fltp" and (len(frame.layout.channels), frame.sample_rate) == shape:
                yield _finite(np.asarray(frame.to_ndarray(), np.float32))
                continue
            # Timestamps of some containers jump by a tick; order is what counts here.
            frame.pts = None
            try:
                resampled = resampler.resample(frame)
            except (ValueError, av.error.FFmpegError):
                # The stream changed its rate or layout on the way: go on with a new resampler.
                yield from _arrays(resampler.resample(None), info.channels)
                resampler = AudioResampler(format=form, layout=layout, rate=rate)
                resampled = resampler.resample(frame)
            yield from _arrays(resampled, info.channels)
    if not good:
        raise SoundError(f"The sound in this file is damaged and can't be decoded. {READ}")
    yield from _arrays(resampler.resample(None), info.channels)


def _arrays(frames: list[AudioFrame], channels: int) -> Iterator[Samples]:
    """Frames of float samples, planar or packed, as arrays of shape (channels, n)."""
    for frame in frames:
        if frame.samples:
            samples = np.asarray(frame.to_ndarray(), np.float32)
            yield _finite(samples if frame.format.is_planar else samples.reshape(-1, channels).T)


def _finite(samples: Samples) -> Samples:
    """A float file may hold anything, not-a-number included; what lies 60 dB over full scale is cut there."""
    if not np.isfinite(samples).all():
        samples = np.nan_to_num(samples, nan=0.0, posinf=1.0, neginf=-1.0)
    if samples.size and max(float(samples.max()), -float(samples.min())) > _LOUDEST:
        samples = np.clip(samples, -_LOUDEST, _LOUDEST)
    return samples


def _riff_seconds(path: Path) -> float | None:
    """Length that a RIFF WAVE header announces; None for streams that never filled it in."""
    with path.open("rb") as file:
        if file.read(4) != b"RIFF" or len(file.read(8)) < 8:
            return None
        byte_rate = 0
        while len(head := file.read(8)) == 8:
            name, size = struct.unpack("<4sI", head)
            if name == b"fmt ":
                byte_rate = struct.unpack("<I", file.read(size)[8:12])[0]
            elif name == b"data":
                unknown = size in (0, 0xFFFFFFFF) or size >= 0x7FFFF000
                return None if unknown or not byte_rate else size / byte_rate
            else:
                file.seek(size + size % 2, 1)
    return None


def _clock(seconds: float) -> str:
    whole = round(seconds)
    hours, rest = divmod(whole, 3600)
    return f"{hours}:{rest // 60:02d}:{rest % 60:02d}" if hours else f"{rest // 60}:{rest % 60:02d}"
