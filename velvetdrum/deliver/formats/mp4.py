"""MP4 with H.264 and AAC: what every channel takes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

import av
from av.video.reformatter import ColorPrimaries, ColorRange, Colorspace, ColorTrc

from velvetdrum.deliver.joined_format import JoinedFormat
from velvetdrum.deliver.muxer import Extras
from velvetdrum.deliver.two_passes import encode_twice, picture_bits
from velvetdrum.deliver.video_format import Speed, known_format
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.planes import to_bt709

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


@dataclass(frozen=True)
class X264:
    """How hard the encoder works, and how exact it is: its preset, its constant rate factor, and what else it spares
    itself; and its preset where a size is asked for, and bits have to be spent with care."""

    preset: str
    crf: float
    spared: str = ""
    sized: str = "veryfast"


_AHEAD = ":b-adapt=0:weightp=0:scenecut=0:rc-lookahead=0"

WORK: dict[Speed, X264] = {
    "quick": X264("ultrafast", 17.0, f"{_AHEAD}:aq-mode=1", "superfast"),
    "balanced": X264("superfast", 15.5, f"{_AHEAD}:subme=2:aq-strength=0.7"),
    "small": X264("medium", 17.0, "", "medium"),
}
"""The encoder's settings at each speed: 43 dB or better against the frames, on the demo; and the dither of a dark ramp
is kept, for which quantisers have to follow the variance of blocks. For *balanced* they do so more gently than usual,
which keeps it, too, and takes fewer bits for an equal error."""


_KEPT = X264("superfast", 6.0)


@known_format("mp4", "MP4 (H.264, AAC)")
class Mp4(JoinedFormat):
    """H.264 High in an MP4, with the index at its front."""

    label: ClassVar[str] = "MP4"
    about: ClassVar[str] = "What every channel takes."
    suffix: ClassVar[str] = ".mp4"
    mime: ClassVar[str] = "video/mp4"
    codec: ClassVar[str] = "h264"
    rank: ClassVar[int] = 0
    sized: ClassVar[bool] = True
    sound: ClassVar[str] = "m4a"
    options: ClassVar[dict[str, str]] = {"movflags": "faststart"}

    def passes(self, plan: ExportPlan) -> int:
        return 1 if plan.megabytes is None else 3

    def encode(self, frames: Iterable[Pixels], path: Path, plan: ExportPlan) -> None:
        # What is encoded again, in two passes, is kept nearly without loss until then.
        work = WORK[plan.speed] if plan.megabytes is None else _KEPT
        encode_frames(frames, path, width=plan.width, height=plan.height, rate=plan.fraction, work=work)

    def join(
        self,
        segments: Sequence[tuple[Path, int]],
        sound: Path | None,
        plan: ExportPlan,
        path: Path,
        extras: Extras | None = None,
    ) -> None:
        """As `VideoFormat.join`, without encoding anything again. The index stands at the front (`faststart`), so that
        playback can begin before the end has arrived.

        Parameters
        ----------
        segments
            Files with their first frames, counted from the start of the video.
        sound
            The sound file, or None.
        plan
            What is asked for.
        path
            The file that is written.
        extras
            What stands in the file beside pictures and sound.
        """
        if plan.megabytes is None:
            super().join(segments, sound, plan, path, extras)
            return
        seconds = float(plan.stop_s - plan.start_s)
        bits = picture_bits(plan.megabytes, seconds, sound.stat().st_size if sound else 0)
        # Beside the segments: where the file goes, others may have files of any name.
        again = segments[0][0].with_name("pictures.mp4")
        try:
            encode_twice(segments, again, rate=plan.fraction, bits=bits, preset=WORK[plan.speed].sized)
            super().join([(again, 0)], sound, plan, path, extras)
        finally:
            again.unlink(missing_ok=True)


def encode_frames(frames: Iterable[Pixels], path: Path, *, width: int, height: int, rate: Fraction, work: X264) -> None:
    """Encode opaque BGRA frames to an H.264 High file whose every picture is reachable from its own first one.

    Pixels are converted to BT.709 limited range, and the stream says so (H.273: 1, 1, 1).

    Parameters
    ----------
    frames
        Pictures in order, BGRA, shape (height, width, 4).
    path
        The file.
    width
        Pixels across.
    height
        Pixels down.
    rate
        Frames or samples a second.
    work
        How the coder works.
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
        before: Pixels | None = None
        frame: av.VideoFrame | None = None
        for number, pixels in enumerate(frames):
            if frame is None or pixels is not before:
                frame, before = video_frame(pixels), pixels
            frame.pts, frame.time_base = number, 1 / rate
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def video_frame(pixels: Pixels) -> av.VideoFrame:
    """Opaque BGRA pixels, of even width and height, as a frame in BT.709.

    Parameters
    ----------
    pixels
        Pixels, premultiplied BGRA, shape (height, width, 4).
    """
    frame = av.VideoFrame(pixels.shape[1], pixels.shape[0], "yuv420p")
    luma, blue, red = frame.planes
    to_bt709(pixels, (luma, blue, red), (luma.line_size, blue.line_size, red.line_size))
    frame.colorspace, frame.color_range = Colorspace.ITU709, ColorRange.MPEG
    frame.color_primaries, frame.color_trc = ColorPrimaries.BT709, ColorTrc.BT709
    return frame
