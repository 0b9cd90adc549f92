"""The sound of an export: the used part of the original recording as AAC, 48 kHz."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from velvetdrum.audio.decode import RATE, decode_blocks, probe, stereo
from velvetdrum.audio.filters import Samples
from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.sound_mix import mixed, voices
from velvetdrum.scene.document import Project
from velvetdrum.signals.audio_range import AudioRange

_FRAME = 1024


def cut(path: Path, start: int, count: int, silent_from: int) -> Iterator[Samples]:
    """`count` samples of a recording from sample `start` on, as blocks of one or two channels at 48 kHz.

    Beyond the recording, and from sample `silent_from` of the recording on, there is silence.
    """
    names = probe(path).channel_names
    at = given = 0
    channels = min(len(names), 2)
    for block in decode_blocks(path):
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


def encode_sound(
    source: Path,
    path: Path,
    *,
    in_s: float,
    out_s: float,
    start_s: Fraction,
    stop_s: Fraction,
    project: Project | None = None,
    use: AudioRange | None = None,
    clips: Mapping[str, str] | None = None,
) -> None:
    """Write the sound of the project from start_s to stop_s to an MP4 file that holds nothing else.

    in_s and out_s are the used part of the recording. Clips of the `project` that are heard are mixed in; `clips` are
    the folders in which they were prepared. The file appears under `path` when it is whole.
    """
    heard = voices(project, use, clips or {}) if project else []
    channels = 2 if heard else min(probe(source).channels, 2)
    at = round(start_s * RATE)
    first = round(Fraction(in_s).limit_denominator(RATE) * RATE) + round(start_s * RATE)
    count = round(stop_s * RATE) - round(start_s * RATE)
    with written_whole(path, "The sound") as beside, av.open(str(beside), "w", format="mp4") as container:
        layout = "mono" if channels == 1 else "stereo"
        stream = container.add_stream("aac", rate=RATE, layout=layout)
        stream.codec_context.bit_rate = 160_000 if channels == 1 else 256_000
        pts, held = 0, np.zeros((channels, 0), np.float32)

        def send(samples: Samples) -> None:
            nonlocal pts
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples), format="fltp", layout=layout)
            frame.sample_rate, frame.pts, frame.time_base = RATE, pts, Fraction(1, RATE)
            pts += samples.shape[1]
            container.mux(stream.encode(frame))

        for block in cut(source, first, count, round(out_s * RATE)):
            if project is not None and heard:
                both = block if block.shape[0] == 2 else np.repeat(block, 2, axis=0)
                block = np.clip(both + mixed(project, use, heard, at, block.shape[1]), -1, 1)
                at += block.shape[1]
            held = np.concatenate([held, block], axis=1)
            while held.shape[1] >= _FRAME:
                send(held[:, :_FRAME])
                held = held[:, _FRAME:]
        if held.shape[1]:
            send(held)
        container.mux(stream.encode(None))
