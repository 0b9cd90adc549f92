"""A finished video looked at and listened to from its first frame to its last."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from velvetdrum.audio.decode import RATE, decode_blocks, probe, stereo
from velvetdrum.audio.errors import SoundError
from velvetdrum.audio.loudness import LoudnessMeter, TruePeakMeter, integrated_lufs, to_decibel
from velvetdrum.deliver.checks.flashes import FlashMeter, FlashSpan
from velvetdrum.deliver.checks.stretches import BLACK, BLACK_S, FROZEN_S, Spans, is_same, spans_of
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.limits import openers

MOST_SECONDS = 6 * 3600
_LONGEST = 480
"""Pictures are looked at with this many pixels on their longer side."""

_MORE = "gif,apng"
"""Files that somebody brought are opened as nothing else, the moving pictures that we make among it."""

_SILENT_DB, _SILENT_S = -60.0, 0.5
_WINDOW_S = 0.05


@dataclass(frozen=True)
class Report:
    """What was found: stretches in seconds; loudness in LUFS and true peak in dBTP where there is sound."""

    frames: int
    rate: float
    width: int
    height: int
    duration_s: float
    flashes: tuple[FlashSpan, ...]
    black: tuple[tuple[float, float], ...]
    frozen: tuple[tuple[float, float], ...]
    silence: tuple[tuple[float, float], ...]
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    codec: str = ""
    sound_codec: str = ""
    captions: int = 0
    """How many text tracks it has."""

    def values(self) -> dict[str, Any]:
        """As plain values for JSON; stretches as objects with `start_s` and `end_s`."""
        spans = {
            name: [{"start_s": round(a, 4), "end_s": round(b, 4)} for a, b in getattr(self, name)]
            for name in ("black", "frozen", "silence")
        }
        return {**asdict(self), **spans, "flashes": [asdict(span) for span in self.flashes]}


def check_video(path: Path, progress: Callable[[float], None] = lambda share: None) -> Report:
    """Decode a video to its end and say what was found.

    Parameters
    ----------
    path
        The file.
    progress
        Called with how far the work is, 0 to 1.

    Raises
    ------
    DeliverError
        For a file that is none.
    """
    try:
        return _checked(path, progress)
    except (av.error.FFmpegError, SoundError, OSError) as problem:
        reason = getattr(problem, "strerror", None) or str(problem)
        raise DeliverError(f"{path.name} could not be read as a video: {reason}.") from problem


def check_sound(path: Path) -> Report:
    """As `check_video`, for a file that holds sound alone.

    Parameters
    ----------
    path
        The file.
    """
    try:
        quiet, lufs, peak = _heard(path)
        with openers.media(path, more=_MORE) as container:
            name = container.streams.audio[0].codec_context.name
            seconds = float(container.duration or 0) / 1e6
    except (av.error.FFmpegError, SoundError, OSError) as problem:
        reason = getattr(problem, "strerror", None) or str(problem)
        raise DeliverError(f"{path.name} could not be read as a sound: {reason}.") from problem
    return Report(0, 0.0, 0, 0, seconds, (), (), (), quiet, lufs, peak, "", name)


def _checked(path: Path, progress: Callable[[float], None]) -> Report:
    meter = FlashMeter()
    dark: list[bool] = []
    still: list[bool] = []
    before: NDArray[np.int16] | None = None
    with openers.media(path, more=_MORE) as container:
        if not container.streams.video:
            raise DeliverError(f"{path.name} has no pictures; it is checked for what a video has.")
        stream = container.streams.video[0]
        rate = float(stream.average_rate or stream.base_rate or 0)
        wide, high = stream.codec_context.width, stream.codec_context.height
        if not (0 < rate <= 1000 and 0 < wide <= 16_384 and 0 < high <= 16_384):
            raise DeliverError(f"{path.name} says of itself {wide}x{high} at {rate:g} frames/s; that is no video.")
        scale = min(_LONGEST / max(wide, high), 1.0)
        size = max(round(wide * scale), 2), max(round(high * scale), 2)
        length = float(container.duration or 0) / 1e6
        sounds, texts = container.streams.audio, container.streams.subtitles
        names = stream.codec_context.name, sounds[0].codec_context.name if sounds else "", len(texts)
        times: list[float] = []
        for number, frame in enumerate(container.decode(stream)):
            time = float(frame.pts * frame.time_base) if frame.pts is not None and frame.time_base else number / rate
            if time > MOST_SECONDS:
                raise DeliverError(f"{path.name} is longer than {MOST_SECONDS // 3600} hours; check a part of it.")
            picture = frame.reformat(width=size[0], height=size[1], format="bgr24").to_ndarray()
            times.append(time)
            meter.feed(np.asarray(picture, np.uint8), time)
            grey = cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY).astype(np.int16)
            dark.append(float(np.percentile(grey, 99)) / 255 < BLACK)
            still.append(before is not None and is_same(grey, before))
            before = grey
            if number % 30 == 0 and length:
                progress(min(time / length, 1.0) * 0.9)
    step = 1 / rate
    sound = _heard(path)
    progress(1.0)
    return Report(
        len(times),
        rate,
        wide,
        high,
        times[-1] + step if times else 0.0,
        tuple(meter.spans()),
        spans_of(np.array(dark, bool), times, step, BLACK_S),
        spans_of(np.array(still, bool), times, step, FROZEN_S),
        *sound,
        *names,
    )


def _heard(path: Path) -> tuple[Spans, float | None, float | None]:
    """Silent stretches, loudness and true peak; nothing where there is no sound."""
    try:
        names = probe(path).channel_names
    except SoundError:
        return (), None, None
    channels = min(len(names), 2)
    meter, peak = LoudnessMeter(("FC",) if channels == 1 else ("FL", "FR")), TruePeakMeter()
    window = round(_WINDOW_S * RATE)
    quiet: list[bool] = []
    held = np.zeros((channels, 0), np.float32)
    for block in decode_blocks(path):
        heard = stereo(block, names)
        meter.feed(heard)
        peak.feed(heard)
        held = np.concatenate([held, heard], axis=1)
        count = held.shape[1] // window
        parts = held[:, : count * window].reshape(channels, count, window)
        quiet += (np.abs(parts).max(axis=(0, 2)) < 10 ** (_SILENT_DB / 20)).tolist()
        held = held[:, count * window :]
    times = [number * _WINDOW_S for number in range(len(quiet))]
    spans = spans_of(np.array(quiet, bool), times, _WINDOW_S, _SILENT_S)
    return spans, integrated_lufs(meter.energies), to_decibel(peak.true_peak)
