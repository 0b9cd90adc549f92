"""H.264 at a size that is given: a first pass measures every picture, the second spends the bits where they count."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from velvetdrum.deliver.checkpoints import checkpoint
from velvetdrum.deliver.errors import DeliverError
from velvetdrum.limits import openers

_MARGIN = 0.975
"""Share of the size that pictures and sound may take: the rest is the container's."""

_LEAST = 40_000


def picture_bits(megabytes: float, seconds: float, sound_bytes: int) -> int:
    """Bits a second that are left for pictures.

    Parameters
    ----------
    megabytes
        Size of the file, at the most, in MB (10^6 bytes); None for any.
    seconds
        Seconds.
    sound_bytes
        Bytes of the sound.

    Raises
    ------
    DeliverError
        Where there are too few.
    """
    result = (megabytes * 8e6 * _MARGIN - sound_bytes * 8) / max(seconds, 1e-3)
    if result < _LEAST:
        raise DeliverError(f"The sound alone takes nearly all of {megabytes:g} MB; allow more, or export a part.")
    return int(result)


def encode_twice(segments: Sequence[tuple[Path, int]], path: Path, *, rate: Fraction, bits: int, preset: str) -> None:
    """Encode the pictures of segments again, in two passes, to a file without sound.

    Parameters
    ----------
    segments
        Files of the segments, each with its number of frames.
    path
        The file.
    rate
        Frames or samples a second.
    bits
        Bits a second for the picture.
    preset
        The coder's word for how much time it takes.
    """
    # The encoder parts its parameters by colons, which paths of others may hold.
    with tempfile.TemporaryDirectory(prefix="velvetdrum-") as folder:
        for number in (1, 2):
            # The first pass writes no file that anybody reads.
            target = path if number == 2 else Path(folder) / "first.mp4"
            with av.open(str(target), "w", format="mp4") as out:
                stream: Any = None
                for index, frame in enumerate(_frames(segments)):
                    if stream is None:
                        stream = _stream(out, frame, rate, bits, preset, f"pass={number}:stats={folder}/passes.log")
                    frame.pts, frame.time_base = index, 1 / rate
                    frame.pict_type = 0
                    out.mux(stream.encode(frame))
                out.mux(stream.encode(None))


def _frames(segments: Sequence[tuple[Path, int]]) -> Iterator[av.VideoFrame]:
    for part, _ in segments:
        with openers.own_media(part) as container:
            for frame in container.decode(video=0):
                checkpoint()
                yield frame


def _stream(
    out: av.container.OutputContainer, frame: av.VideoFrame, rate: Fraction, bits: int, preset: str, passes: str
) -> Any:
    stream: Any = out.add_stream("libx264", rate=rate)
    context = stream.codec_context
    context.width, context.height, context.pix_fmt = frame.width, frame.height, "yuv420p"
    context.time_base = 1 / rate
    context.color_primaries, context.color_trc = frame.color_primaries, frame.color_trc
    context.colorspace, context.color_range = frame.colorspace, frame.color_range
    context.gop_size = round(2 * rate)
    context.profile = "High"
    context.bit_rate = bits
    context.options = {"preset": preset, "x264-params": f"open-gop=0:{passes}"}
    return stream
