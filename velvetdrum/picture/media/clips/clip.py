"""A clip as frames by their number: exact, in any order, whatever its rate, its turn or its colours."""

from __future__ import annotations

import bisect
from collections import OrderedDict, deque
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace, Interpolation, VideoReformatter

from velvetdrum.limits.keeping import kept
from velvetdrum.picture.media.clips.fields import deinterlaced
from velvetdrum.picture.media.clips.index import ClipError, open_clip, read_index
from velvetdrum.picture.media.clips.light import brought_to_709, is_wide, name_of
from velvetdrum.picture.media.clips.moving import Moving, frame_at
from velvetdrum.picture.media.clips.pictures import holds_pictures, open_pictures
from velvetdrum.picture.raster.areas import Pixels

TIMES = "times.npy"
"""File beside a proxy: when each frame of the original is shown, in seconds from its first one, and its length."""

ALPHA = "alpha.mp4"
"""File beside a proxy: the original's alpha, as a grey clip."""

_LOOKED_AT = 8
_FINE = Interpolation.BICUBIC | Interpolation.FULL_CHR_H_INT | Interpolation.ACCURATE_RND
_WITH_ALPHA = {"vp8": "libvpx", "vp9": "libvpx-vp9"}
_KEPT_BYTES = 48_000_000
_TURNS = {90: cv2.ROTATE_90_COUNTERCLOCKWISE, 180: cv2.ROTATE_180, 270: cv2.ROTATE_90_CLOCKWISE}


class Clip:
    """An open clip. Not for more than one thread at a time."""

    def __init__(self, path: str) -> None:
        """Raises ClipError with a sentence when there is no clip to read."""
        self.path = path
        self._container = open_clip(Path(path))
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "NONE"
        self._decoder = decoder_of(self._stream)
        self.index = read_index(Path(path))
        self._counts = dict(zip(self.index.starts, self.index.keys, strict=True)) if self.index.counted else {}
        self.times, self.length_s = self.index.times, self.index.length_s
        told = Path(path).with_name(TIMES)
        if told.exists():
            # A proxy has a frame for each of its original, shown when that one is.
            listed = np.load(told)
            self.times, self.length_s = listed[:-1], float(listed[-1])
        alpha = Path(path).with_name(ALPHA)
        self._alpha: Moving | None = opened(str(alpha)) if alpha.exists() and alpha != Path(path) else None
        self._coming: Iterator[VideoFrame] = iter(())
        self._last: VideoFrame | None = None
        self._waiting: VideoFrame | None = None
        self._recent: deque[VideoFrame] = deque(maxlen=3)
        self._convert = VideoReformatter()
        self._kept: OrderedDict[tuple[int, int, int], Pixels] = OrderedDict()

    @property
    def frames(self) -> int:
        return min(len(self.times), len(self.index.pts))

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels as it is shown: upright, its pixels square."""
        context = self._stream.codec_context
        aspect = self._stream.sample_aspect_ratio or 1
        width, height = max(round(context.width * float(aspect)), 1), context.height
        return (height, width) if self.turn in (90, 270) else (width, height)

    @property
    def traits(self) -> Traits:
        return traits_of(self.path)

    @property
    def turn(self) -> int:
        """How far a frame must be turned to stand upright, counterclockwise, in degrees: 0, 90, 180 or 270."""
        return self.traits.turn

    def number_at(self, seconds: float) -> int:
        """The frame that is shown at a second of the clip: the last one that has begun."""
        return frame_at(self.times[: self.frames], seconds)

    def pixels(self, number: int, size: tuple[int, int] | None = None) -> Pixels:
        """Frame `number` upright, premultiplied BGRA, at its own size or scaled to (width, height). Not to be written
        to. A frame that cannot be decoded shows the last one before it that can."""
        width, height = size or self.size
        key = (number, width, height)
        found = self._kept.get(key)
        if found is None:
            found = self._converted(self._whole(number), width, height)
            if self._alpha is not None:
                cover = self._alpha.pixels(min(number, self._alpha.frames - 1), (width, height))[..., :3].max(axis=2)
                found = np.asarray(cv2.multiply(found, cv2.merge([cover] * 4), scale=1 / 255), np.uint8)
            self._kept[key] = found
            while len(self._kept) > 1 and sum(item.nbytes for item in self._kept.values()) > _KEPT_BYTES:
                self._kept.popitem(last=False)
        else:
            self._kept.move_to_end(key)
        return found

    def _decoded(self, number: int) -> VideoFrame:
        """The frame as it comes from the decoder: on from the last one where that is near, else from its key frame."""
        target = self.index.pts[number]
        for frame in self._recent:
            if frame.pts == target:
                return frame
        place = max(bisect.bisect_right(self.index.keys, target) - 1, 0)
        last = self._last
        if last is None or last.pts is None or last.pts > target or last.pts < self.index.keys[place]:
            self._enter(place)
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

    def _whole(self, number: int) -> VideoFrame:
        """A frame with both of its fields at one time."""
        frame = self._decoded(number)
        if not self.traits.interlaced:
            return frame
        before = self._decoded(max(number - 1, 0))
        frame = self._decoded(number)
        return deinterlaced(before, frame, self._decoded(min(number + 1, self.frames - 1)))

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
                self._container.seek(index.starts[place] if index.counted else index.keys[place], stream=self._stream,
                                     backward=True)  # fmt: skip
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
                found = self._decoder.decode(packet)
            except av.error.EOFError:
                return
            except av.error.FFmpegError:
                # A damaged frame: the decoder goes on after it.
                broken += 1
                if broken > 64:
                    return
                continue
            for frame in found:
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

    def _converted(self, frame: VideoFrame, width: int, height: int) -> Pixels:
        turn = self.turn
        across, down = (height, width) if turn in (90, 270) else (width, height)
        alpha = any(component.is_alpha for component in frame.format.components)
        if is_wide(frame) and not alpha:
            found = brought_to_709(frame, across, down, self._convert)
        else:
            found = self._convert.reformat(
                frame,
                width=across,
                height=down,
                format="bgra",
                src_colorspace=_matrix(frame),
                dst_colorspace=Colorspace.ITU709,
                src_color_range=ColorRange.JPEG if frame.color_range == ColorRange.JPEG else ColorRange.MPEG,
                dst_color_range=ColorRange.JPEG,
                # At full size chroma is brought to the size of luma by the same filter, not by doubling it.
                interpolation=Interpolation.AREA if across < frame.width else _FINE,
                threads=1,
            ).to_ndarray()  # type: ignore[assignment]  # fmt: skip
        if alpha:
            cover = found[..., 3].astype(np.uint16)
            found[..., :3] = (found[..., :3].astype(np.uint16) * cover[..., None] + 127) // 255
        else:
            found[..., 3] = 255
        if turn:
            found = np.asarray(cv2.rotate(found, _TURNS[turn]), np.uint8)
        return np.ascontiguousarray(found, np.uint8)


@dataclass(frozen=True)
class Traits:
    """What the first frames of a file say of all of them."""

    turn: int = 0
    """How far they must be turned to stand upright, counterclockwise, in degrees."""
    interlaced: bool = False
    alpha: bool = False
    light: str = ""
    """PQ, HLG or BT.2020; empty for what BT.709 describes."""


@kept
def traits_of(path: str) -> Traits:
    """The traits of a file. Raises ClipError."""
    found: list[VideoFrame] = []
    with open_clip(Path(path)) as container:
        stream = container.streams.video[0]
        decoder = decoder_of(stream)
        try:
            for packet in container.demux(stream):
                found += [frame for frame in decoder.decode(packet) if isinstance(frame, VideoFrame)]
                if len(found) >= _LOOKED_AT:
                    break
        except av.error.FFmpegError:
            pass
    if not found:
        return Traits()
    first = found[0]
    return Traits(
        round(first.rotation / 90) * 90 % 360,
        sum(frame.interlaced_frame for frame in found) * 2 > len(found),
        any(part.is_alpha for part in first.format.components),
        name_of(first),
    )


def decoder_of(stream: av.video.stream.VideoStream) -> Any:
    """What decodes a stream. The alpha of VP8 and VP9 is only read by their own library."""
    name = _WITH_ALPHA.get(stream.codec_context.name)
    if name is None or stream.metadata.get("alpha_mode", stream.metadata.get("ALPHA_MODE")) != "1":
        return stream.codec_context
    decoder: Any = av.codec.context.CodecContext.create(name, "r")
    decoder.width, decoder.height = stream.codec_context.width, stream.codec_context.height
    return decoder


@lru_cache(maxsize=6)
def opened(path: str) -> Moving:
    """A clip that stays open in this process for as long as it is among those used last. Raises ClipError."""
    return open_pictures(Path(path)) if holds_pictures(Path(path)) else Clip(path)


def _matrix(frame: VideoFrame) -> Colorspace:
    """The colour matrix of a frame; where none is said, BT.601 below 720 lines and BT.709 from there."""
    known = {int(value): value for value in Colorspace} | {6: Colorspace.ITU601}  # SMPTE 170M has the same numbers
    unsaid = Colorspace.ITU709 if frame.height >= 720 else Colorspace.ITU601
    return known.get(int(frame.colorspace), unsaid)
