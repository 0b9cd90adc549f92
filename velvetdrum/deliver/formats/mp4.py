"""MP4 with H.264 and AAC: what every channel takes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

import av
from av.video.reformatter import ColorPrimaries, ColorRange, Colorspace, ColorTrc

from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.video_format import Speed, VideoFormat, known_format
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.planes import to_bt709

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


@dataclass(frozen=True)
class X264:
    """How hard the encoder works, and how exact it is: its preset, its constant rate factor, and what else it spares
    itself."""

    preset: str
    crf: float
    spared: str = ""


WORK: dict[Speed, X264] = {
    "quick": X264("superfast", 17.0, ":b-adapt=0:weightp=0:scenecut=0:rc-lookahead=0"),
    "balanced": X264("veryfast", 15.5),
    "small": X264("medium", 17.0),
}
"""The encoder's settings at each speed: 43 dB or better against the frames, on the demo."""


@known_format("mp4", "MP4 (H.264, AAC)")
class Mp4(VideoFormat):
    """H.264 High in an MP4, with the index at its front."""

    suffix: ClassVar[str] = ".mp4"
    mime: ClassVar[str] = "video/mp4"

    def encode(self, frames: Iterable[Pixels], path: Path, plan: ExportPlan) -> None:
        encode_frames(frames, path, width=plan.width, height=plan.height, rate=plan.fraction, work=WORK[plan.speed])

    def join(self, segments: Sequence[tuple[Path, int]], sound: Path | None, rate: Fraction, path: Path) -> None:
        """As `VideoFormat.join`, without encoding anything again. The index stands at the front (`faststart`), so that
        playback can begin before the end has arrived."""
        # A tick that every frame time is a whole number of.
        scale = rate.numerator if rate.numerator >= 10_000 else rate.numerator * 512
        options = {"movflags": "faststart", "video_track_timescale": str(scale)}
        with (
            written_whole(path, "The video") as beside,
            av.open(str(beside), "w", format="mp4", options=options) as out,
        ):
            with av.open(str(segments[0][0])) as first:
                video = out.add_stream_from_template(first.streams.video[0])
            video.time_base = Fraction(1, scale)
            streams = [_video(segments, rate)]
            if sound is not None:
                with av.open(str(sound)) as first:
                    audio = out.add_stream_from_template(first.streams.audio[0])
                streams.append(_packets(sound))
            targets = [video, *([audio] if sound is not None else [])]
            waiting = [next(stream, None) for stream in streams]
            while any(packet is not None for packet in waiting):
                index = min(
                    (i for i, packet in enumerate(waiting) if packet is not None),
                    key=lambda i: _when(waiting[i]),
                )
                packet = waiting[index]
                assert packet is not None
                packet.stream = targets[index]
                out.mux(packet)
                waiting[index] = next(streams[index], None)


def encode_frames(frames: Iterable[Pixels], path: Path, *, width: int, height: int, rate: Fraction, work: X264) -> None:
    """Encode opaque BGRA frames to an H.264 High file whose every picture is reachable from its own first one.

    Pixels are converted to BT.709 limited range, and the stream says so (H.273: 1, 1, 1).
    """
    with av.open(str(path), "w", format="mp4") as container:
        stream = container.add_stream("libx264", rate=rate)
        context = stream.codec_context
        context.width, context.height, context.pix_fmt = width, height, "yuv420p"
        context.time_base = 1 / rate
        context.color_primaries, context.color_trc = ColorPrimaries.BT709, ColorTrc.BT709
        context.colorspace, context.color_range = Colorspace.ITU709, ColorRange.MPEG
        context.thread_count = 1
        context.gop_size = round(2 * rate)
        context.profile = "High"
        # Without mbtree: with it, equal pictures came out as different bytes in about one run of eight.
        context.options = {
            "preset": work.preset,
            "crf": str(work.crf),
            "x264-params": f"open-gop=0:bframes=2:mbtree=0:threads=1{work.spared}",
        }
        for number, pixels in enumerate(frames):
            frame = video_frame(pixels)
            frame.pts, frame.time_base = number, 1 / rate
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def video_frame(pixels: Pixels) -> av.VideoFrame:
    """Opaque BGRA pixels, of even width and height, as a frame in BT.709."""
    frame = av.VideoFrame(pixels.shape[1], pixels.shape[0], "yuv420p")
    luma, blue, red = frame.planes
    to_bt709(pixels, (luma, blue, red), (luma.line_size, blue.line_size, red.line_size))
    frame.colorspace, frame.color_range = Colorspace.ITU709, ColorRange.MPEG
    frame.color_primaries, frame.color_trc = ColorPrimaries.BT709, ColorTrc.BT709
    return frame


def _when(packet: av.Packet | None) -> Fraction:
    assert packet is not None and packet.dts is not None and packet.time_base is not None
    return packet.dts * packet.time_base


def _packets(path: Path) -> Iterator[av.Packet]:
    with av.open(str(path)) as container:
        for packet in container.demux():
            if packet.dts is not None:
                yield packet


def _video(segments: Sequence[tuple[Path, int]], rate: Fraction) -> Iterator[av.Packet]:
    """All segments' packets, their times counted in frames from the start of the video.

    Decoding times go on one by one from segment to segment, as late before the pictures as the segment that needs it
    most. A short last segment holds back fewer pictures than the others; with its own decoding times one packet
    would seem to last three frames, and the file's mean frame rate would not be its rate.
    """
    delay = max((_delay(path, rate) for path, _ in segments), default=0)
    number = 0
    for path, first in segments:
        for packet in _packets(path):
            assert packet.time_base is not None and packet.pts is not None
            pts = round(packet.pts * packet.time_base * rate) + first
            packet.time_base = 1 / rate
            packet.pts, packet.dts, packet.duration = pts, number - delay, 1
            number += 1
            yield packet


def _delay(path: Path, rate: Fraction) -> int:
    """By how many frames a segment's first packet is decoded before it is shown."""
    for packet in _packets(path):
        assert packet.time_base is not None and packet.pts is not None and packet.dts is not None
        return round((packet.pts - packet.dts) * packet.time_base * rate)
    return 0
