"""Interlaced frames made whole: both fields of a frame at one time, from the frames about it."""

from __future__ import annotations

import av
from av.filter import Graph
from av.video.frame import VideoFrame


def deinterlaced(before: VideoFrame, frame: VideoFrame, after: VideoFrame) -> VideoFrame:
    """A frame with the lines of one of its fields worked out for the time of the other (bwdif). A pure function of the
    three frames: it does not depend on how they were reached."""
    graph = Graph()
    source = graph.add_buffer(
        width=frame.width,
        height=frame.height,
        format=frame.format,
        time_base=frame.time_base,
    )
    filtered = graph.add("bwdif", "mode=send_frame:parity=auto:deint=all")
    sink = graph.add("buffersink")
    source.link_to(filtered)
    filtered.link_to(sink)
    graph.configure()
    result: list[VideoFrame] = []
    for number, item in enumerate((before, frame, after)):
        kept = item.pts
        item.pts = number
        source.push(item)
        item.pts = kept
        result += _pulled(sink)
    source.push(None)
    result += _pulled(sink)
    if len(result) < 2:
        return frame
    # The filter counts time in halves; the second frame that comes is that of the second that went in.
    made = result[1]
    made.pts = frame.pts
    return made


def _pulled(sink: av.filter.context.FilterContext) -> list[VideoFrame]:
    out: list[VideoFrame] = []
    while True:
        try:
            item = sink.pull()
        except (av.error.BlockingIOError, av.error.EOFError):
            return out
        if isinstance(item, VideoFrame):
            out.append(item)
