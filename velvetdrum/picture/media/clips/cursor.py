"""A place in a file from which frames come one after the other."""

from __future__ import annotations

import bisect
from collections import deque
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
from av.video.frame import VideoFrame

from velvetdrum.picture.media.clips.index import ClipError, Index, open_clip

_WITH_ALPHA = {"vp8": "libvpx", "vp9": "libvpx-vp9"}
_RECENT_S = 0.6
_RECENT_BYTES = 48_000_000
_MOST_RECENT = 40


class Cursor:
    """An open file with a decoder that stands somewhere in it. Not for more than one thread at a time."""

    def __init__(self, path: str, index: Index) -> None:
        """Raises ClipError with a sentence when there is no clip to read."""
        self.path, self.index = path, index
        self._container = open_clip(Path(path))
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "NONE"
        self._decoder = decoder_of(self._stream)
        self._counts = dict(zip(index.starts, index.keys, strict=True)) if index.counted else {}
        self._coming: Iterator[VideoFrame] = iter(())
        self._last: VideoFrame | None = None
        self._waiting: VideoFrame | None = None
        # What was decoded on the way is kept for those who look back: a stretch of time, within bounds of memory.
        context = self._stream.codec_context
        size = max(context.width * context.height * 3 // 2, 1)
        rate = float(self._stream.average_rate or 30)
        count = min(max(round(_RECENT_S * rate), 3), _MOST_RECENT, max(_RECENT_BYTES // size, 3))
        self._recent: deque[VideoFrame] = deque(maxlen=int(count))

    @property
    def stream(self) -> av.video.stream.VideoStream:
        """The video stream that it reads, opened when it is first asked for."""
        return self._stream

    def holds(self, target: int) -> VideoFrame | None:
        """The frame of a time if it was decoded a short while ago."""
        return next((frame for frame in self._recent if frame.pts == target), None)

    def way_to(self, target: int) -> int | None:
        """How far it is from here on to a frame, in the stream's ticks; None where it must be entered anew."""
        place = max(bisect.bisect_right(self.index.keys, target) - 1, 0)
        last = self._last
        if last is None or last.pts is None or last.pts > target or last.pts < self.index.keys[place]:
            return None
        return target - last.pts

    def decoded(self, target: int) -> VideoFrame:
        """The frame of a time: on from here where that is near, else from its key frame. Where it can't be read, the
        last one before it."""
        held = self.holds(target)
        if held is not None:
            return held
        if self.way_to(target) is None:
            self._enter(max(bisect.bisect_right(self.index.keys, target) - 1, 0))
        while True:
            coming = self._waiting or self._next()
            self._waiting = None
            if coming is None:
                break
            frame = coming
            if frame.pts is not None and frame.pts > target:
                if self._last is None:
                    # The seek went too far: from the start, once.
                    self._last = frame
                self._waiting = frame
                break
            self._last = frame
            self._recent.append(frame)
            if frame.pts == target:
                break
        if self._last is None:
            raise ClipError("No frame of this clip could be read.")
        return self._last

    def _enter(self, place: int) -> None:
        """Make the frames come from the key frame at a place in the index on, or from one before it: not every file
        can be entered where it says."""
        back = 0
        while True:
            at = place - back
            if at < 0:
                self._open()
                self._coming = self._frames(0)
                self._waiting = self._next()
                return
            if self._seek(at):
                return
            back = max(back * 2, 1)

    def _seek(self, place: int) -> bool:
        """Seek to a key frame; True when frames come from there, or from before it."""
        index = self.index
        self._last = self._waiting = None
        self._recent.clear()
        try:
            if index.by_byte:
                self._container.seek(index.starts[place], unsupported_byte_offset=True)
            else:
                self._container.seek(
                    index.starts[place] if index.counted else index.keys[place], stream=self._stream, backward=True
                )
        except av.error.FFmpegError:
            return False
        if self._decoder is not self._stream.codec_context:
            self._decoder.flush_buffers()
        self._coming = self._frames(None)
        first = self._next()
        self._waiting = first
        return first is not None and first.pts is not None and first.pts <= index.keys[place]

    def _open(self) -> None:
        """Open the file anew, at its start."""
        self._container.close()
        self._container = open_clip(Path(self.path))
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "NONE"
        self._decoder = decoder_of(self._stream)
        self._last = self._waiting = None
        self._recent.clear()

    def _frames(self, count: int | None) -> Iterator[VideoFrame]:
        """The frames that come from here on, each known by what the index knows it by. `count` is that of the first
        one where frames are counted, if it is known."""
        index, broken = self.index, 0
        for packet in self._container.demux(self._stream):
            if packet.dts is not None and index.counted and count is None:
                count = self._counts.get(packet.dts)
            if index.parts and packet.pos is not None:
                shift = index.shift_at(packet.pos)
                if shift and packet.pts is not None:
                    packet.pts += shift
            try:
                result = self._decoder.decode(packet)
            except av.error.EOFError:
                return
            except av.error.FFmpegError:
                # A damaged frame: the decoder goes on after it.
                broken += 1
                if broken > 64:
                    return
                continue
            for frame in result:
                if not isinstance(frame, VideoFrame):
                    continue
                broken = 0
                if index.counted:
                    if count is None:
                        continue
                    frame.pts, count = count, count + 1
                yield frame

    def _next(self) -> VideoFrame | None:
        try:
            return next(self._coming, None)
        except av.error.FFmpegError:
            # The file breaks off here.
            return None


def decoder_of(stream: av.video.stream.VideoStream) -> Any:
    """What decodes a stream. The alpha of VP8 and VP9 is only read by their own library."""
    name = _WITH_ALPHA.get(stream.codec_context.name)
    if name is None or stream.metadata.get("alpha_mode", stream.metadata.get("ALPHA_MODE")) != "1":
        return stream.codec_context
    decoder: Any = av.codec.context.CodecContext.create(name, "r")
    decoder.width, decoder.height = stream.codec_context.width, stream.codec_context.height
    return decoder
