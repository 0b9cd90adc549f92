"""One segment of video: frames drawn and encoded as H.264, on its own, on one core."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import (
    ColorPrimaries,
    ColorRange,
    Colorspace,
    ColorTrc,
    Interpolation,
    VideoReformatter,
)

from velvetdrum.deliver.files import written_whole
from velvetdrum.deliver.plan import ExportPlan
from velvetdrum.picture.raster.canvas import Canvas, Pixels
from velvetdrum.picture.render import render
from velvetdrum.scene.document import Document, parse
from velvetdrum.scene.frames import FrameSize
from velvetdrum.signals.use import Use

Step = Callable[[int], None]


def encode_frames(
    frames: Iterable[Pixels], path: Path, *, width: int, height: int, rate: Fraction, preset: str, crf: int
) -> None:
    """Encode BGRA frames to an H.264 High file whose every picture is reachable from its own first one.

    Pixels are converted to BT.709 limited range, and the stream says so (H.273: 1, 1, 1).
    """
    convert = VideoReformatter()
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
            "preset": preset,
            "crf": str(crf),
            "x264-params": "open-gop=0:bframes=2:mbtree=0:threads=1",
        }
        for number, pixels in enumerate(frames):
            source = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="bgra")
            frame = convert.reformat(
                source,
                format="yuv420p",
                dst_colorspace=Colorspace.ITU709,
                dst_color_range=ColorRange.MPEG,
                interpolation=Interpolation.BILINEAR | Interpolation.ACCURATE_RND,
                threads=1,
            )
            frame.pts, frame.time_base = number, 1 / rate
            frame.color_primaries, frame.color_trc = ColorPrimaries.BT709, ColorTrc.BT709
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def encode_segment(
    document: Document,
    use: Use | None,
    plan: ExportPlan,
    number: int,
    path: Path,
    step: Step = lambda done: None,
    media: Mapping[str, str] | None = None,
) -> None:
    """Draw and encode segment `number` of a plan. The file appears under `path` only when it is whole.

    `step` is called with the frames done so far and may raise `Cancelled`. Raises DeliverError when the disk
    is full.
    """
    project = parse(document)
    first, last = plan.segments[number]
    size = FrameSize(plan.width, plan.height)
    canvas = Canvas(size.width, size.height)

    def frames() -> Iterable[Pixels]:
        for index in range(first, last):
            step(index - first)
            yield render(project, use, project.time_of(index), size, canvas, media)

    with written_whole(path, "The video") as beside:
        encode_frames(
            frames(), beside, width=plan.width, height=plan.height, rate=plan.fraction, preset=plan.preset,
            crf=plan.crf,
        )  # fmt: skip
    step(last - first)
