"""Pictures encoded by any codec, with alpha or without, and kept without loss between two steps."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

import av
import numpy as np
from av.video.reformatter import ColorPrimaries, ColorRange, Colorspace, ColorTrc
from numpy.typing import NDArray

from velvetdrum.deliver.checkpoints import checkpoint
from velvetdrum.limits import openers
from velvetdrum.picture.raster.areas import Pixels
from velvetdrum.picture.raster.transparency import bled

if TYPE_CHECKING:
    from velvetdrum.deliver.plan import ExportPlan


def encode_pictures(
    frames: Iterable[Pixels],
    path: Path,
    plan: ExportPlan,
    *,
    container: str,
    codec: str,
    pixels: str,
    options: dict[str, str],
    tag: str = "",
) -> None:
    """Encode BGRA pictures, premultiplied where they are transparent, to a file that can be joined to others. They are
    converted to BT.709 limited range, and the stream says so (H.273: 1, 1, 1); its alpha is straight.

    Parameters
    ----------
    frames
        Pictures in order, BGRA, shape (height, width, 4).
    path
        The file.
    plan
        What is exported: frames, size, rate, format.
    container
        Name of the container as the library has it.
    codec
        Name of the coder as the library has it.
    pixels
        Name of the pixel format, as the library has it.
    options
        Options of the coder, as the library has them.
    tag
        The code of four letters that the stream is named by.
    """
    rate = plan.fraction
    with av.open(str(path), "w", format=container) as out:
        stream: Any = out.add_stream(codec, rate=rate, options=options)
        context = stream.codec_context
        context.width, context.height, context.pix_fmt = plan.width, plan.height, pixels
        context.time_base = 1 / rate
        context.color_primaries, context.color_trc = ColorPrimaries.BT709, ColorTrc.BT709
        context.colorspace, context.color_range = Colorspace.ITU709, ColorRange.MPEG
        context.thread_count = 1
        context.gop_size = round(2 * rate)
        if tag:
            context.codec_tag = tag
        before: Pixels | None = None
        frame: av.VideoFrame | None = None
        for number, picture in enumerate(frames):
            if frame is None or picture is not before:
                frame, before = video_frame(picture, pixels, plan.transparent), picture
            frame.pts, frame.time_base = number, 1 / rate
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


def video_frame(picture: Pixels, pixels: str, transparent: bool) -> av.VideoFrame:
    """A picture as a frame in BT.709, in a format of pixels.

    Parameters
    ----------
    picture
        Pixels, premultiplied BGRA, shape (height, width, 4).
    pixels
        Name of the pixel format, as the library has it.
    transparent
        True where what is behind shows through.
    """
    shown = bled(picture) if transparent else picture
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(shown), format="bgra")
    frame.color_range = ColorRange.JPEG
    result = frame.reformat(
        format=pixels,
        dst_colorspace=Colorspace.ITU709,
        src_color_range=ColorRange.JPEG,
        dst_color_range=ColorRange.MPEG,
    )
    result.colorspace, result.color_range = Colorspace.ITU709, ColorRange.MPEG
    result.color_primaries, result.color_trc = ColorPrimaries.BT709, ColorTrc.BT709
    return result


def keep_pictures(frames: Iterable[Pixels], path: Path, rate: Fraction) -> None:
    """Keep BGRA pictures byte for byte (FFV1 in Matroska), for a format that is made in one go at the end.

    Parameters
    ----------
    frames
        Pictures in order, BGRA, shape (height, width, 4).
    path
        The file.
    rate
        Frames or samples a second.
    """
    stream: Any = None
    with av.open(str(path), "w", format="matroska") as out:
        for number, picture in enumerate(frames):
            if stream is None:
                stream = out.add_stream("ffv1", rate=rate)
                stream.width, stream.height, stream.pix_fmt = picture.shape[1], picture.shape[0], "bgra"
                stream.codec_context.thread_count = 1
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="bgra")
            frame.pts, frame.time_base = number, 1 / rate
            out.mux(stream.encode(frame))
        if stream is not None:
            out.mux(stream.encode(None))


def kept_pictures(segments: Sequence[tuple[Path, int]]) -> Iterator[NDArray[np.uint8]]:
    """The pictures of segments, one after another, as they were kept.

    Parameters
    ----------
    segments
        Files of the segments, each with its number of frames.
    """
    for path, _ in segments:
        with openers.own_media(path) as container:
            for frame in container.decode(video=0):
                checkpoint()
                yield np.asarray(frame.to_ndarray(format="bgra"), np.uint8)
